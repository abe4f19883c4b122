"""Two people in two real browsers on one plan; and one whose session ends while they type."""

from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from apps.crews.models import Person
from apps.felling import planner
from apps.jobs.models import Tree
from tests.browser.browser import BrowserTestCase

ASKS = """
const event = new Event('beforeunload', {cancelable: true});
window.dispatchEvent(event);
return event.defaultPrevented
"""


class TwoPeople(BrowserTestCase):
    def setUp(self):
        super().setUp()
        self.mara = self.page
        Person.objects.create_user("olga", password="kestrel-lane", crew=self.crew, first_name="Olga", last_name="Fenn")

    def second_browser(self):
        """Another person's browser, signed in."""
        self.page = self.started()
        self.size(1280, 800)
        self.page.get(f"{self.live_server_url}/sign-in/")
        self.type("username", "olga")
        self.type("password", "kestrel-lane", Keys.ENTER)
        self.until(lambda: "/sign-in/" not in self.page.current_url)
        return self.page

    def put(self, name, value):
        self.answered(lambda: self.over(name, value, Keys.TAB))

    def plan(self):
        return planner.plan_for(Tree.objects.get(pk=self.tree.pk))

    def test_both_are_kept_or_told(self):
        self.open("fell")
        olga = self.second_browser()
        self.open("fell")
        self.put("stump", "42")
        self.page = self.mara
        self.put("hinge", "7.5")
        self.until(lambda: "Saved" in self.saved())
        self.assertEqual((self.plan().stump, self.plan().hinge), (0.42, 0.075))
        self.page = olga
        self.put("hinge", "6")
        self.until(lambda: "Mara" in self.one("[data-field=hinge] .error").text)
        error = self.one("[data-field=hinge] .error").text
        for word in ("Mara", "7.5", "6"):
            self.assertIn(word, error)
        self.assertEqual(self.plan().hinge, 0.075)
        self.put("hinge", "6.5")
        self.until(lambda: "Saved" in self.saved())
        self.assertEqual(self.plan().hinge, 0.065)

    def test_signed_out_while_typing_it_is_said_kept_and_sent_after_signing_in(self):
        self.open("fell")
        self.page.delete_cookie("sessionid")
        field = self.one("main [name=stump]")
        self.page.execute_script("const d = arguments[0].closest('details'); if (d) d.open = true", field)
        field.clear()
        field.send_keys("43", Keys.TAB)
        self.until(lambda: "You are signed out" in self.saved())
        self.assertNotEqual(self.plan().stump, 0.43)
        self.assertTrue(self.page.execute_script(ASKS))
        self.one("[data-saved] a").click()
        self.until(lambda: "/sign-in/" in self.page.current_url)
        self.type("username", "mara")
        self.type("password", "kestrel-lane", Keys.ENTER)
        self.until(lambda: "/fell/" in self.page.current_url)
        self.until(lambda: abs(self.plan().stump - 0.43) < 1e-9)
        self.until(lambda: self.page.find_element(By.CSS_SELECTOR, "[data-saved]").text == "Saved")
        self.assertFalse(self.page.execute_script(ASKS))
