"""Another method of a pick begins tied, hung and cut as it is done; what is said with it stays."""

import math

from apps.takedown import planner
from apps.takedown.tests.test_bench import Scene


class Methods(Scene):
    def setUp(self):
        super().setUp()
        self.limb = next(i for i, p in enumerate(self.picks()) if p["member"] == "South limb 1")

    def taken(self, method, **more):
        answer = self.post(self.limb, method=method, save="1", **more)
        self.assertEqual(answer["errors"], {})
        self.assertIn("panel", answer["fragments"])
        return self.picks()[self.limb]

    def piece(self):
        return planner.work_out(planner.scene_of(self.tree), self.picks())[self.limb].step.piece

    def test_near_balance_is_tied_at_the_edge_of_its_zone(self):
        low = self.piece().balance.low
        tie = self.taken("balance")["tie_m"]
        self.assertTrue(low - 0.1 < tie <= low)
        row = planner.work_out(planner.scene_of(self.tree), self.picks())[self.limb]
        self.assertNotIn("tie_past", [x.key for x in row.limits if x.verdict.value == "over"])

    def test_a_bridle_gets_a_leg_on_either_side_and_a_step_cut(self):
        balance, long = self.piece().balance, self.piece().length
        pick = self.taken("bridle")
        self.assertAlmostEqual(pick["tie_m"], math.floor(6.0 * balance.low) / 10.0)
        self.assertTrue(balance.high < pick["second_tie_m"] < long)
        self.assertEqual(pick["cut"], "step")
        self.assertIsNone(planner.work_out(planner.scene_of(self.tree), self.picks())[self.limb].error)

    def test_a_section_from_below_hangs_under_its_cut(self):
        lead = next(i for i, p in enumerate(self.picks()) if p.get("method") == "negative")
        self.post(lead, method="butt", save="1")
        answer = self.post(lead, method="negative", save="1")
        self.assertEqual(answer["errors"], {})
        pick = self.picks()[lead]
        self.assertEqual(pick["point"]["member"], pick["member"])
        self.assertAlmostEqual(pick["at_m"] - pick["point"]["at_m"], 0.5, delta=0.01)
        self.assertEqual((pick["tie_m"], pick["held"]), (0.4, "run"))

    def test_what_is_typed_with_the_method_stays(self):
        self.assertEqual(self.taken("balance", tie_m="0.7")["tie_m"], 0.7)

    def test_the_second_tie_goes_with_its_method(self):
        self.taken("both")
        self.assertIsNotNone(self.picks()[self.limb]["second_tie_m"])
        self.assertIsNone(self.taken("butt")["second_tie_m"])
