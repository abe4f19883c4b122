"""A lead laid out in picks on the web, a step at a time; changes that pass, offered and taken."""

import re

from django.urls import reverse

from apps.takedown import planner
from apps.takedown.tests.test_bench import Scene
from treecore.verdict import Verdict


class Laying(Scene):
    def lay(self, **data):
        return self.client.post(reverse("takedown-lay-out", args=self.keys()), data).json()

    def keys(self):
        return [self.tree.job_id, self.tree.pk]

    def emptied(self):
        plan = planner.plan_for(self.tree)
        planner.keep(plan, [])
        return plan

    def laid(self, **more):
        """Lay a lead out to the end, as the page's script does; what was told last."""
        told = self.lay(**{"lay_member": "North lead", "lay_heaviest": "150", "lay_longest": "5.5"} | more)["laid"]
        self.assertEqual(told["seen"], 0)
        for seen in range(1, told["of"] + 1):
            told = self.lay(token=told["token"])["laid"]
            self.assertEqual(told["seen"], seen)
        return told

    def take(self, token, revision):
        data = {"handle": f"lay-take {token}", "save": "1", "revision": revision, "pick": ""}
        return self.client.post(self.url(), data).json()

    def test_laid_out_looked_at_and_kept_in_one_step(self):
        plan = self.emptied()
        told = self.laid()
        self.assertEqual(self.picks(), [])  # nothing is kept of it before it is taken
        answer = self.take(told["token"], plan.revision)
        self.assertTrue(answer["saved"], answer["errors"])
        self.assertEqual(len(self.picks()), told["of"])
        self.assertGreaterEqual(told["of"], 15)
        rows = planner.work_out(planner.scene_of(self.tree), self.picks())
        bad = [r for r in rows if r.error or (r.ruling and r.ruling.verdict in (Verdict.OVER, Verdict.NOT_KNOWN))]
        self.assertLessEqual(len(bad), 1)
        self.client.post(reverse("takedown-undo", args=self.keys()), {"revision": answer["values"]["revision"]})
        self.assertEqual(self.picks(), [])

    def test_a_list_that_changed_meanwhile_is_laid_out_again(self):
        plan = self.emptied()
        told = self.laid()
        planner.keep(plan, [{"member": "South limb 1", "at_m": 0.3, "method": "free"}])
        self.assertIn("lay them out again", self.lay(token=told["token"])["errors"]["__all__"][0])
        answer = self.take(told["token"], planner.plan_for(self.tree).revision)
        self.assertFalse(answer.get("saved"))
        self.assertEqual(len(self.picks()), 1)

    def test_what_is_asked_wrong_is_said_at_its_field(self):
        for field, value in (("lay_heaviest", "1"), ("lay_longest", "90"), ("lay_heaviest", "-"), ("lay_member", "x")):
            with self.subTest(field=field):
                sent = {"lay_member": "North lead", "lay_heaviest": "150", "lay_longest": "5.5"} | {field: value}
                self.assertIn(field, self.lay(**sent)["errors"])
        self.assertIn("again", self.lay(token="nobody knows it")["errors"]["__all__"][0])

    def test_a_change_is_offered_and_a_tap_takes_it(self):
        number = next(
            i for i, p in enumerate(self.picks()) if p["member"] == "North lead" and p["method"] == "negative"
        )
        typed = self.typed(number)
        self.client.post(self.url(), typed | {"save": "1", "wraps": "1", "held": "run"})
        name = typed["pick"]
        page = self.client.get(reverse("takedown-mends", args=self.keys()), {"pick": name}).content.decode()
        offered = re.findall(r'data-take="(mend [^"]+)"', page)
        self.assertTrue(offered, page)
        answer = self.client.post(self.url(), self.typed(number) | {"save": "1", "handle": offered[0]}).json()
        self.assertTrue(answer["saved"], answer["errors"])
        row = planner.work_out(planner.scene_of(self.tree), self.picks())[number]
        self.assertNotIn(row.ruling.verdict, (Verdict.OVER, Verdict.NOT_KNOWN))
        stale = self.client.post(self.url(), self.typed(number) | {"save": "1", "handle": "mend wraps 99.0"}).json()
        self.assertIn("look at the changes again", str(stale["errors"]))

    def test_a_pick_that_passes_has_no_changes_to_look_for(self):
        page = self.client.get(reverse("takedown-mends", args=self.keys()), {"pick": self.picks()[0]["id"]})
        self.assertNotIn("data-take", page.content.decode())
