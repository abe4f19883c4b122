"""What was seen and what is over binds the plan: found at the walk-up, kept in sight on the benches, as a person meets
it.
"""

from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from apps.briefing.planner import blocks
from apps.crews.tests.scene import whole_demo
from apps.exchange.planner import import_document
from apps.felling import planner as felling
from apps.takedown import planner as takedown
from tests.browser.browser import BrowserTestCase


class Bindings(BrowserTestCase):
    def test_a_dead_top_seen_at_the_walk_up_closes_the_wedges(self):
        self.open("fell")
        self.assertNotIn("Wedges under dead wood", self.one("[data-fragment=ruling]").text)
        self.open("walk-up")
        card = self.one("#hazard-dead_top")
        self.page.execute_script("arguments[0].scrollIntoView({block: 'center'})", card)
        card.find_element(By.CSS_SELECTOR, "input[value=present]").click()
        self.type("dead_top-height", "19")
        self.type("dead_top-response", "We will tap gently", Keys.TAB)
        self.until(lambda: self.tree.answers.filter(hazard="dead_top", finding="present", response__contains="tap"))
        self.until(lambda: "Saved" in self.one("[data-saved]").text)
        self.assertIn("no wedges", self.one("#hazard-dead_top").text)
        self.open("fell")
        ruling = self.one("[data-fragment=ruling] .ruling")
        self.assertIn("over", ruling.get_attribute("class"))
        self.assertIn("Wedges under dead wood", ruling.text)
        self.open("brief")
        self.assertTrue(any("Wedges under dead wood" in b.text for b in self.all("aside li")))
        self.assertFalse(self.one("form[action$='/sign/'] .button").is_enabled())
        # Without wedges, with the wider zone, the dead top no longer stops this felling.
        self.open("fell")
        self.answered(lambda: self.type("wedge_count", "0", Keys.TAB))
        self.assertNotIn("Wedges under dead wood", self.one("[data-fragment=ruling]").text)

    def test_a_pick_over_its_limit_keeps_the_list_red_while_another_is_looked_at(self):
        job = import_document(self.crew, whole_demo())
        self.tree = job.trees.get(name="Copper beech")
        self.page.get(f"{self.live_server_url}/jobs/{job.pk}/trees/{self.tree.pk}/takedown/?pick=3")
        self.assertFalse(self.all("[data-fragment=ruling] .ruling.over"))
        self.answered(lambda: self.type("wraps", "0.2", Keys.TAB))
        self.assertTrue(self.one("[data-fragment=ruling] .ruling.over").is_displayed())
        self.answered(lambda: self.one(".picks li:nth-child(1) [data-take^=pick]").send_keys(Keys.ENTER))
        whole, this = self.all("[data-fragment=ruling] .ruling")[:2]
        self.assertIn("over", whole.get_attribute("class"))
        self.assertIn("pick 3", whole.text.lower())
        self.assertNotIn("over", this.get_attribute("class").split())
        self.assertTrue(any(b.startswith("Pick 3") for b in blocks(self.tree)))

    def test_a_spar_is_felled_after_its_picks(self):
        self.open("takedown")
        self.type("new_at_m", "17")
        self.page.execute_script("arguments[0].focus()", self.one("[data-take=add]"))
        self.answered(lambda: self.one("[data-take=add]").send_keys(Keys.ENTER))
        self.answered(lambda: self.type("bearing_deg", "83", Keys.TAB))
        self.assertEqual(takedown.plan_for(self.tree).picks[0]["at_m"], 17.0)
        self.open("fell")
        whole = self.shown("mass")
        self.answered(lambda: self.type("after_picks", "1", Keys.TAB))
        self.assertIn("Felled is what then stands: 17", self.one("[data-fragment=ruling]").text)
        self.tree.refresh_from_db()
        left = felling.evaluated(self.tree)[1]
        self.assertAlmostEqual(self.shown("mass"), left.figures["mass"].estimate.value, delta=1e-4)
        self.assertLess(self.shown("mass"), whole)
        self.assertAlmostEqual(left.estimates["length"].value, 17.0 - left.plan.cuts.stump, places=6)
        self.no_complaints()
