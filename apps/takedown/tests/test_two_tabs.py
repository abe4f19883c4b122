"""Two people, or two tabs, on one list of picks: different fields are put together, one field is shown with both
values.
"""

from apps.takedown import planner
from apps.takedown.tests.test_bench import Scene


class TwoTabs(Scene):
    def setUp(self):
        super().setUp()
        self.page = self.typed(1)  # both loaded it now
        self.name = self.page["pick"]

    def send(self, page=None, **more):
        return self.client.post(self.url(), (page or self.page) | {"save": "1"} | more).json()

    def pick(self):
        return next(p for p in self.picks() if p["id"] == self.name)

    def test_different_fields_are_put_together(self):
        first = self.send(landing="by the gate")
        second = self.send(handlers="Ned, Olga", tie_m="0.45")
        self.assertTrue(first["saved"] and second["saved"])
        self.assertEqual(first["said"], "")
        self.assertIn("somebody else changed", second["said"])
        self.assertEqual([self.pick()[k] for k in ("landing", "handlers", "tie_m")], ["by the gate", "Ned, Olga", 0.45])
        self.assertIn("by the gate", second["fragments"]["panel"])  # and seen on the page that did not know of it

    def test_parts_of_one_place_are_put_together(self):
        self.send(tie_in_m="6.4")
        answer = self.send(stance_m="4.3")
        self.assertTrue(answer["saved"], answer["errors"])
        climber = self.pick()["climber"]
        self.assertEqual((climber["tie_m"], climber["stance_m"]), (6.4, 4.3))

    def test_one_field_is_refused_with_both_values_and_kept_on_a_second_save(self):
        self.send(wraps="1.7", landing="by the gate")
        answer = self.send(wraps="2.6", handlers="Ned")
        self.assertFalse(answer["saved"])
        self.assertEqual(self.pick()["wraps"], 1.7)
        self.assertIn("changed this to 1.7", answer["errors"]["wraps"][0])
        panel = answer["fragments"]["panel"]
        for said in ('value="2.6"', "by the gate", 'value="Ned"', "changed this to 1.7"):
            self.assertIn(said, panel)
        again = self.send(self.typed(1) | {"wraps": "2.6", "handlers": "Ned", "revision": answer["values"]["revision"]})
        self.assertTrue(again["saved"])
        self.assertEqual([self.pick()[k] for k in ("wraps", "landing", "handlers")], [2.6, "by the gate", "Ned"])

    def test_a_preview_while_typing_decides_nothing_and_leaves_the_panel_alone(self):
        self.send(wraps="1.7")
        answer = self.send(wraps="2.6", save="")
        self.assertIn("changed this to 1.7", answer["errors"]["wraps"][0])
        self.assertEqual((answer["values"], answer["fragments"]), ({}, {}))

    def test_a_pick_dropped_in_one_is_not_written_by_the_other(self):
        others = [p for p in self.picks() if p["id"] != self.name]
        self.send(handle=f"drop {self.name}")
        answer = self.send(landing="by the gate")
        self.assertIn("off the list", answer["errors"]["__all__"][0])
        self.assertEqual(self.picks(), others)

    def test_a_pick_changed_in_one_is_not_dropped_unseen_in_the_other(self):
        self.send(landing="by the gate")
        answer = self.send(handle=f"drop {self.name}")
        self.assertIn("look at it again", answer["errors"]["__all__"][0])
        self.assertEqual(self.pick()["landing"], "by the gate")
        fresh = self.typed(1)
        self.send(fresh, handle=f"drop {self.name}")
        self.assertNotIn(self.name, [p["id"] for p in self.picks()])

    def test_the_order_of_one_does_not_move_what_the_other_types(self):
        first = self.picks()[0]["id"]
        self.send(handle=f"up {self.name}")
        self.send(landing="by the gate")
        self.assertEqual(self.picks()[0]["id"], self.name)
        self.assertEqual((self.pick()["landing"], self.picks()[1]["id"]), ("by the gate", first))

    def test_an_order_shown_before_somebody_changed_the_list_is_not_taken(self):
        self.send(handle=f"down {self.picks()[0]['id']}")
        shown = self.typed(1)
        self.send(shown, handle="order")
        self.send(shown, landing="by the gate")
        now = self.picks()
        self.assertIn("proposed again", self.send(shown, handle="take-order")["errors"]["__all__"][0])
        self.assertEqual(self.picks(), now)

    def test_a_page_nobody_knows_is_refused(self):
        for revision in ("", "9999", "two"):
            answer = self.send(revision=revision, landing="lost")
            self.assertIn("load it again", answer["errors"]["__all__"][0])
        self.assertNotIn("lost", str(self.picks()))

    def test_ids_stay_with_their_picks_and_a_signature_takes_no_notice(self):
        names = [p["id"] for p in self.picks()]
        self.assertEqual(len(set(names)), len(names))
        self.assertFalse([n for n in names if n.isdigit()])
        from apps.briefing.planner import digest, document

        before = digest(document(self.tree))
        plan = planner.plan_for(self.tree)
        plan.picks = [{k: v for k, v in p.items() if k != "id"} for p in plan.picks]
        planner.keep(plan, plan.picks)
        self.assertEqual(digest(document(self.tree)), before)
        self.assertNotEqual([p["id"] for p in self.picks()], names)
