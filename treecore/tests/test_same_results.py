"""Two evaluations of one plan say the same, to the rounding people are shown: by hand."""

from unittest import TestCase

from treecore.formats.same_results import changed_results


def results(**more):
    limit = {"key": "hinge", "verdict": "near", "demand": {"value": 1000.0, "low": 900.0, "high": 1100.0, "unit": "N"}}
    other = {"key": "wedge", "verdict": "within", "about": {"name": "A"}}
    return {"version": 3, "trees": [{"name": "Fir", "limits": [limit, other], "rope_m": 12.0} | more]}


class SameResults(TestCase):
    def test_what_is_shown_the_same_is_the_same(self):
        for change, moved in (
            ({}, []),
            ({"rope_m": 12.05}, []),  # 12.0 m and 12.05 m: within a two hundredth
            ({"rope_m": 12.07}, ["trees 1 rope_m"]),
            ({"label": "another word"}, []),
            ({"name": "Pine"}, ["trees 1 name"]),
            ({"more": 1.0}, ["trees 1 more"]),
        ):
            with self.subTest(change=change):
                self.assertEqual(changed_results(results(), results(**change)), moved)

    def test_a_verdict_that_turns_is_named_whatever_order_the_limits_stand_in(self):
        now = results()
        now["trees"][0]["limits"].reverse()
        self.assertEqual(changed_results(results(), now), [])
        now["trees"][0]["limits"][1]["verdict"] = "over"
        self.assertEqual(changed_results(results(), now), ["trees 1 limits hinge verdict"])
        now = results()
        now["trees"][0]["limits"][0]["demand"]["high"] = 1106.0  # 0.55 % more
        self.assertEqual(changed_results(results(), now), ["trees 1 limits hinge demand high"])
        del now["trees"][0]["limits"][1]
        self.assertEqual(changed_results(results(), now), ["trees 1 limits"])

    def test_small_numbers_by_their_last_place(self):
        def with_size(value):
            return results(hinge={"value": value, "unit": "rad"})

        self.assertEqual(changed_results(with_size(0.001), with_size(0.0018)), [])  # 0.05° is half of what is shown
        self.assertEqual(changed_results(with_size(0.001), with_size(0.0019)), ["trees 1 hinge value"])

    def test_another_version_of_the_results_is_compared_in_what_both_have(self):
        older = results(gone=1.0) | {"version": 2}
        self.assertEqual(changed_results(older, results(come=2.0)), [])
        self.assertEqual(changed_results(older, results(rope_m=13.0)), ["trees 1 rope_m"])
