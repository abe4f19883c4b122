"""Set-ups shared by picks: who joins one takes it over, a change changes all on it and nobody else."""

from unittest import TestCase

from treecore.formats.setups import followed, setups

NORTH = {"point": {"member": "North lead", "at_m": 9.0}, "rope": "Blue line", "device_kind": "bollard"}
SOUTH = {"point": {"member": "South lead", "at_m": 11.2}, "rope": "Red line", "landing_m": [3.0, 1.0]}
PICKS = [
    {"id": "a", "at_m": 1.0, "wraps": 2, "setup": "North", **NORTH},
    {"id": "b", "at_m": 2.0, "wraps": 3, "setup": "South", **SOUTH},
    {"id": "c", "at_m": 3.0, "wraps": 1, "setup": "North", **NORTH},
    {"id": "d", "at_m": 4.0, "wraps": 1, "rope": "Old line", "redirect": {"member": "", "at_m": 1.0}},
]


def changed(name, **values):
    return [p | values if p["id"] == name else p for p in PICKS]


class SetUps(TestCase):
    def test_they_are_listed_with_their_picks(self):
        self.assertEqual(
            [(s.name, s.picks, s.entry["id"]) for s in setups(PICKS)], [("North", 2, "a"), ("South", 1, "b")]
        )

    def test_a_change_goes_to_all_on_it_and_leaves_what_is_a_pick_s_own(self):
        higher = {"member": "North lead", "at_m": 9.6}
        a, b, c, d = followed(PICKS, changed("c", point=higher, wraps=4))
        self.assertEqual((a["point"], c["point"]), (higher, higher))
        self.assertEqual((a["wraps"], c["wraps"], a["at_m"]), (2, 4, 1.0))
        self.assertEqual((b, d), (PICKS[1], PICKS[3]))

    def test_what_is_taken_away_is_taken_away_for_all(self):
        without = [{k: v for k, v in p.items() if k != "rope"} if p["id"] == "a" else p for p in PICKS]
        a, _, c, _ = followed(PICKS, without)
        self.assertNotIn("rope", a)
        self.assertNotIn("rope", c)

    def test_who_joins_takes_it_over_with_what_it_leaves_out(self):
        joined = followed(PICKS, changed("d", setup="South"))[3]
        self.assertEqual(joined, {"id": "d", "at_m": 4.0, "wraps": 1, "setup": "South", **SOUTH})

    def test_a_new_name_begins_from_the_pick_and_leaving_keeps_what_it_had(self):
        for name in ("West", ""):
            self.assertEqual(followed(PICKS, changed("c", setup=name)), changed("c", setup=name))

    def test_picks_on_no_set_up_share_nothing(self):
        alone = [*PICKS, {"id": "e", "rope": "Old line"}]
        after = [p | {"rope": "New line"} if p["id"] == "d" else p for p in alone]
        self.assertEqual(followed(alone, after), after)

    def test_order_and_a_pick_taken_off_change_nothing(self):
        self.assertEqual(followed(PICKS, PICKS[::-1]), PICKS[::-1])
        self.assertEqual(followed(PICKS, PICKS[1:]), PICKS[1:])
