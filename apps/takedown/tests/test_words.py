"""Every limit of a pick reads in both units without a gap, and never calls anything harmless."""

from dataclasses import replace

from django.test import SimpleTestCase

from cantrel.limits import limit_said
from treecore.site import Site
from treecore.takedown.limits import pick_limits
from treecore.takedown.members import members_of
from treecore.tests.validation.test_takedown import MISTAKES, OAK, TODAY, worked


class Words(SimpleTestCase):
    def test_every_limit_has_words(self):
        seen = set()
        for pick, more in MISTAKES.values():
            w, limits = worked(replace(pick, **more.get("pick", {})), more.get("cut"), site=more.get("site"))
            self.assertEqual(limits, pick_limits(members_of(OAK), w, more.get("site") or Site(), TODAY))
            for limit in limits:
                seen.add(limit.key)
                for system in ("metric", "us"):
                    said = limit_said(limit, system)
                    self.assertNotIn("{", said["sentence"])
                    self.assertNotIn("  ", said["sentence"])
                    self.assertNotIn("safe", (said["sentence"] + said["change"]).lower())
                    self.assertEqual(said["change"] == "", limit.verdict.value == "within")
        self.assertGreaterEqual(len(seen), 38)
