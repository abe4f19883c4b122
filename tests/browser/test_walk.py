"""The seven steps by mouse and keyboard, as a person does; numbers on the page are the core's."""

import math

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from apps.daybook.models import FellingRecord
from apps.felling import planner
from apps.jobs.models import Tree
from apps.survey import planner as survey
from tests.browser.browser import BrowserTestCase

STEPS = ("walk-up", "measure", "method", "fell", "brief", "record")


class SevenSteps(BrowserTestCase):
    def drag(self, handle, dx, dy):
        knob = self.one(f"[data-handle={handle}] .knob")
        self.page.execute_script("arguments[0].scrollIntoView({block: 'center'})", knob)
        moves = ActionChains(self.page).move_to_element(knob).click_and_hold().move_by_offset(dx // 2, dy // 2)
        self.answered(lambda: moves.move_by_offset(dx - dx // 2, dy - dy // 2).release().perform())

    def test_a_new_tree_is_drawn_as_it_is_typed(self):
        self.page.get(f"{self.live_server_url}/jobs/{self.tree.job_id}/trees/new/")
        for name, text in (
            ("name", "Ash by the gate"),
            ("diameter", "52"),
            ("height", "21"),
            ("spread", "9"),
            ("lean", "3"),
        ):
            self.type(name, text)
        self.one("#id_species-ts-control").send_keys("fraxinus exc", Keys.ENTER)
        self.answered(lambda: self.type("lean_azimuth", "200", Keys.TAB))
        self.assertTrue(self.one("svg.elevation").is_displayed())
        previewed = self.shown("mass")
        self.one("main form .button.strong").click()
        self.until(lambda: "/walk-up/" in self.page.current_url)
        tree = Tree.objects.get(name="Ash by the gate")
        self.assertAlmostEqual(survey.standing(tree)[1].mass.estimate.value, previewed, delta=1e-4)

    def test_walk_the_steps(self):
        # Measure: one more reading, by keyboard
        self.open("measure")
        before = self.shown("mass")
        self.one("#method-girth summary").send_keys(Keys.ENTER)
        self.type("girth-girth", "240", Keys.ENTER)
        self.until(lambda: len(self.tree.readings.filter(method="girth")) == 2)
        self.until(lambda: abs(self.shown("mass") - before) > 1.0)
        self.assertAlmostEqual(self.shown("mass"), survey.standing(self.tree)[1].mass.estimate.value, delta=1e-4)
        # Walk-up: the open gate
        self.open("walk-up")
        self.assertIn("Wind above the limit", self.one(".ruling.over").text)
        self.one("#hazard-wind input[value=absent]").click()
        self.until(lambda: not self.all(".ruling.over"))
        # Method: turn the lay with the mouse, back with the keyboard
        self.open("method")
        self.drag("lay", 0, 60)
        self.tree.refresh_from_db()
        self.assertGreater(math.degrees(planner.plan_for(self.tree).lay), 86)
        self.answered(lambda: self.type("lay", "83", Keys.TAB))
        # Fell: drag, type, arrow keys
        self.open("fell")
        self.drag("depth", -16, 0)
        result = self.core()
        for key in ("hinge_length", "thin", "thick", "back_offset", "lift", "closing", "mass", "needed"):
            self.assertAlmostEqual(
                self.shown(key), result.figures[key].estimate.value, delta=abs(self.shown(key)) * 1e-7 + 1e-9
            )
        self.assertNotAlmostEqual(planner.plan_for(self.tree).depth, 0.17, places=3)
        self.answered(lambda: self.type("hinge", "6.5", Keys.TAB))
        self.page.execute_script("arguments[0].focus()", self.one("[data-handle=opening]"))
        self.answered(lambda: ActionChains(self.page).send_keys(Keys.ARROW_UP).perform())
        self.answered(lambda: ActionChains(self.page).send_keys(Keys.ARROW_DOWN).perform())
        self.assertEqual(self.page.execute_script("return document.activeElement.dataset.handle"), "opening")
        plan = self.tree.felling
        plan.refresh_from_db()
        self.assertAlmostEqual(plan.hinge, 0.065)
        self.assertAlmostEqual(math.degrees(plan.opening), 70.0, places=6)
        self.answered(lambda: self.type("hinge", "90", Keys.TAB))
        self.assertIn("is outside 0", self.one("[data-field=hinge] .error").text)
        self.assertEqual(self.one("[name=hinge]").get_attribute("value"), "90")
        self.answered(lambda: self.type("hinge", "6.5", Keys.TAB))
        self.answered(lambda: self.type("depth", "17", Keys.TAB))
        self.answered(lambda: self.type("hinge", "7", Keys.TAB))
        # Brief: sign
        self.open("brief")
        self.one("[name=sign-stands]").click()
        self.one("[name=sign-password]").send_keys("kestrel-lane")
        self.one("form[action$='sign/'] .button").click()
        self.until(lambda: "Signed by" in self.one(".signed").text)
        # Record
        self.open("record")
        self.type("height", "26.3")
        self.type("lay", "86", Keys.ENTER)
        self.until(lambda: FellingRecord.objects.exists())
        self.until(lambda: "3.0°" in self.one("[data-compare=lay]").text)

    def test_no_page_has_serious_complaints(self):
        for width, height in ((1280, 800), (390, 844)):
            self.size(width, height)
            for step in STEPS:
                with self.subTest(step=step, width=width):
                    self.open(step)
                    self.no_complaints()
            for path in ("/", "/jobs/new/", f"/jobs/{self.tree.job_id}/", f"/jobs/{self.tree.job_id}/trees/new/"):
                with self.subTest(path=path, width=width):
                    self.page.get(self.live_server_url + path)
                    self.no_complaints()
        self.page.execute_script("localStorage.setItem('cantrel-light', 'dusk')")
        for step in STEPS:
            with self.subTest(step=step, light="dusk"):
                self.open(step)
                self.no_complaints()
        self.page.delete_all_cookies()
        self.page.get(self.live_server_url + "/sign-in/")
        self.no_complaints()

    def test_switching_units_keeps_what_was_typed(self):
        self.open("record")
        self.type("height", "26.3")
        self.one(".units [value=us]").click()
        self.until(lambda: self.one("main [name=height]").get_attribute("value") == "26.3 m")
        self.one("main .button.strong").click()
        self.until(lambda: FellingRecord.objects.exists())
        self.assertAlmostEqual(FellingRecord.objects.get().height, 26.3, places=9)
