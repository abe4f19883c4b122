"""Lines go along when the lay is turned, unless they end at a place of the site or were said anew."""

import math

from apps.felling import planner
from apps.felling.tests.test_lines import Scene


class GoneAlong(Scene):
    def save(self, step="fell", **values):
        data = {key: str(value) for key, value in values.items()}
        data |= {"save": "1", "changed": "1", "revision": self.plan().revision}
        return self.client.post(self.url(step), data).json()

    def part(self):
        return {p["name"]: (p["x_m"], p["y_m"]) for p in self.plan().system["parts"]}

    def lay(self):
        return math.degrees(self.plan().lay)

    def test_parts_at_no_place_of_the_site_turn_about_the_stem_and_the_others_stay(self):
        before, lay, stem = self.part(), self.lay(), (self.tree.x, self.tree.y)
        self.assertTrue(self.save(lay=lay - 6)["saved"])
        after = self.part()
        self.assertEqual(set(before), set(after))
        moved = [name for name in before if math.dist(before[name], after[name]) > 0.02]
        self.assertTrue(moved)
        for name, place in before.items():
            self.assertAlmostEqual(math.dist(place, stem), math.dist(after[name], stem), delta=0.02)
            was, now = (math.atan2(p[0] - stem[0], p[1] - stem[1]) for p in (place, after[name]))
            turned = math.degrees((now - was + math.pi) % math.tau - math.pi)
            self.assertAlmostEqual(turned, -6.0 if name in moved else 0.0, delta=0.1)

    def test_a_guy_keeps_its_side_and_says_so(self):
        plan = self.plan()
        plan.guy_azimuth, plan.guy_distance = 3.0, 21.0
        plan.guy_tie, plan.guy_limit = 9.0, 8000.0
        planner.save_plan(plan)
        answer = self.save(lay=self.lay() + 5)
        self.assertAlmostEqual(self.plan().guy_azimuth, 3.0 + math.radians(5.0), places=6)
        self.assertIn("Went along with the lay", answer["notes"]["guy_azimuth"])

    def test_a_bearing_typed_with_the_lay_is_as_typed(self):
        plan = self.plan()
        plan.guy_azimuth, plan.guy_distance, plan.guy_tie, plan.guy_limit = 3.0, 21.0, 9.0, 8000.0
        planner.save_plan(plan)
        self.save(lay=self.lay() + 5, guy_azimuth="190")
        self.assertAlmostEqual(math.degrees(self.plan().guy_azimuth), 190.0)
