"""Nothing typed is lost on the way: over a slow line, without one, and where the page is left at once."""

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from apps.crews.tests.scene import whole_demo
from apps.exchange.planner import import_document
from apps.felling import planner
from apps.jobs.models import Tree
from tests.browser.browser import BrowserTestCase

LATENCY = 400  # of a poor signal [ms]


class NothingLost(BrowserTestCase):
    def setUp(self):
        super().setUp()
        self.page.execute_cdp_cmd("Network.enable", {})

    def line(self, latency=LATENCY, offline=False):
        there = {"offline": offline, "latency": latency, "downloadThroughput": -1, "uploadThroughput": -1}
        self.page.execute_cdp_cmd("Network.emulateNetworkConditions", there)

    def plan(self):
        return planner.plan_for(Tree.objects.get(pk=self.tree.pk))

    def test_a_page_opened_at_once_shows_what_was_just_typed(self):
        self.open("fell")
        self.line()
        self.over("hinge", "7.7")
        self.page.execute_script("document.querySelector('.strip a[href$=\"/brief/\"]').click()")
        self.until(lambda: self.page.current_url.endswith("/brief/") and self.one("h1"))
        self.assertAlmostEqual(self.plan().hinge, 0.077)
        self.assertIn("7.7", self.one("main").text)

    def test_a_page_left_by_its_address_sends_what_was_typed(self):
        self.open("fell")
        self.line(150)
        self.over("stump", "44")
        self.page.get(self.live_server_url + "/")
        self.until(lambda: abs(self.plan().stump - 0.44) < 1e-9)

    def test_what_takes_long_shows_it_and_can_be_stopped(self):
        self.open("fell")
        self.line(30000)
        self.over("stump", "46", Keys.TAB)
        stop = self.until(lambda: next((b for b in self.all("[data-saved] button") if b.is_displayed()), None))
        self.assertTrue(self.one("[data-saved] progress").is_displayed())
        stop.click()
        self.until(lambda: "Stopped waiting" in self.one("[data-saved]").text)
        self.assertFalse(stop.is_displayed())
        self.assertEqual(self.one("[name=stump]").get_attribute("value"), "46")
        self.line(0)
        self.one("[data-saved] a").click()
        self.until(lambda: self.one("[name=stump]"))
        self.over("stump", "47", Keys.TAB)
        self.until(lambda: abs(self.plan().stump - 0.47) < 1e-9)

    def test_undo_pressed_at_once_takes_back_what_was_just_typed(self):
        self.open("fell")
        before = self.plan().stump
        self.answered(lambda: self.over("stump", "43", Keys.TAB))
        self.line()
        self.over("stump", "45", Keys.TAB)
        self.page.execute_script("document.querySelector('[data-undo]').click()")
        self.until(lambda: self.plan().stump != 0.45 and self.one("[name=stump]").get_attribute("value") == "43")
        self.assertNotEqual(self.plan().stump, before)

    def test_six_presses_are_six_steps(self):
        self.open("fell")
        before = self.plan().opening
        self.page.execute_script("arguments[0].focus()", self.one("[data-handle=opening]"))
        self.answered(lambda: ActionChains(self.page).send_keys(Keys.ARROW_UP).perform())
        step = self.plan().opening - before
        self.line()
        self.answered(lambda: ActionChains(self.page).send_keys(*[Keys.ARROW_UP] * 6).perform())
        self.until(lambda: self.saved() == "Saved")
        self.assertAlmostEqual(self.plan().opening, before + 7 * step, places=6)

    def test_an_answer_leaves_the_field_alone_somebody_is_in(self):
        self.open("fell")
        self.line()
        self.over("hinge", "7.6", Keys.TAB)
        stump = self.over("stump", "4")
        self.until(lambda: abs(self.plan().hinge - 0.076) < 1e-9)
        stump.send_keys("1")
        self.assertEqual(stump.get_attribute("value"), "41")
        self.answered(lambda: stump.send_keys(Keys.TAB))
        self.until(lambda: self.saved() == "Saved")
        self.assertAlmostEqual(self.plan().stump, 0.41)

    def test_without_a_line_it_is_said_and_sent_when_it_is_back(self):
        self.open("fell")
        before = self.plan().stump
        self.line(0, offline=True)
        self.over("stump", "46", Keys.TAB)
        self.until(lambda: "Not reached" in self.saved())
        self.assertEqual(self.plan().stump, before)
        self.assertEqual(self.one("body").get_attribute("data-saving"), "away")
        self.line(0)
        self.page.execute_script("window.dispatchEvent(new Event('online'))")
        self.until(lambda: abs(self.plan().stump - 0.46) < 1e-9)
        self.until(lambda: "Sent and saved now" in self.saved())

    def test_a_tap_on_the_walk_up_is_kept_before_the_next_page(self):
        self.open("walk-up")
        self.line()
        self.page.execute_script("document.querySelector('#hazard-wind input[value=absent]').click()")
        self.page.execute_script("document.querySelector('.strip a[href$=\"/brief/\"]').click()")
        self.until(lambda: self.page.current_url.endswith("/brief/"))
        self.assertTrue(self.tree.answers.filter(hazard="wind", finding="absent").exists())

    def test_the_rest_of_the_walk_up_with_one_confirmation(self):
        self.open("walk-up")
        self.one("#hazard-spring input[value=present]").click()
        self.until(lambda: self.saved() == "Saved")
        self.one(".rest summary").click()
        self.one(".rest .button.strong").click()
        self.until(lambda: not self.all(".rest"))
        found = dict(self.tree.answers.filter(person=self.person).values_list("hazard", "finding"))
        self.assertEqual(found.pop("spring"), "present")
        self.assertNotIn("not_looked", found.values())
        self.assertIn("looked at, absent", self.one("[data-undo]").text)

    def test_the_tree_saves_itself_while_measuring(self):
        self.open("measure")
        self.line()
        self.answered(lambda: self.over("spread", "9", Keys.TAB))
        self.until(lambda: self.saved() == "Saved")
        self.tree.refresh_from_db()
        self.assertAlmostEqual(self.tree.spread, 9.0)
        self.over("spread", "10")
        self.page.execute_script("document.querySelector('.strip a[href$=\"/fell/\"]').click()")
        self.until(lambda: self.page.current_url.endswith("/fell/"))
        self.tree.refresh_from_db()
        self.assertAlmostEqual(self.tree.spread, 10.0)

    def test_the_pick_looked_at_stands_in_the_address_and_outlives_an_undo(self):
        self.tree = import_document(self.crew, whole_demo()).trees.get(takedown__isnull=False)
        self.open("takedown")
        third = self.all("[data-order]")[2].get_attribute("data-order")
        self.answered(lambda: self.one(f"[data-take='pick {third}']").click())
        self.assertIn(f"pick={third}", self.page.current_url)
        self.answered(lambda: self.over("landing", "by the gate", Keys.TAB))
        self.until(lambda: self.saved() == "Saved")
        self.page.execute_script("document.querySelector('[data-undo]').click()")
        self.until(lambda: self.one("[name=landing]").get_attribute("value") != "by the gate")
        self.assertEqual(self.one("[name=pick]").get_attribute("value"), third)
        self.assertEqual(
            self.page.find_elements(By.CSS_SELECTOR, "[aria-current=true]")[0].get_attribute("data-take"),
            f"pick {third}",
        )
