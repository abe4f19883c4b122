"""A real Chromium on the live test server."""

import json
import shutil
import tempfile
from pathlib import Path

from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from selenium import webdriver
from selenium.common.exceptions import NoSuchElementException, StaleElementReferenceException, WebDriverException
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import WebDriverWait

from apps.crews.tests.scene import load_scene
from apps.felling import planner

AXE = (Path(__file__).parent / "vendor" / "axe.min.js").read_text(encoding="utf-8")
FLAGS = (
    "--headless=new",
    "--no-sandbox",
    "--disable-gpu",
    "--disable-background-networking",
    "--disable-dev-shm-usage",
    "--force-device-scale-factor=1",
)


class BrowserTestCase(StaticLiveServerTestCase):
    """The demo job, signed in as its planner, at 1280x800."""

    def setUp(self):
        self.page = self.started()
        self.size(1280, 800)
        self.crew, self.person, self.tree = load_scene()
        self.sign_in()

    def started(self):
        """A browser of its own, with a profile of its own."""
        profile = tempfile.mkdtemp()
        self.addCleanup(shutil.rmtree, profile, ignore_errors=True)
        options = webdriver.ChromeOptions()
        for flag in (*FLAGS, f"--user-data-dir={profile}"):
            options.add_argument(flag)
        options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
        options.binary_location = shutil.which("chromium")
        page = webdriver.Chrome(options=options, service=webdriver.ChromeService(shutil.which("chromedriver")))
        self.addCleanup(page.quit)
        return page

    def size(self, width, height):
        metrics = {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": False}
        self.page.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", metrics)

    def sign_in(self):
        self.page.get(f"{self.live_server_url}/sign-in/")
        self.type("username", "mara")
        self.type("password", "kestrel-lane", Keys.ENTER)
        self.until(lambda: "/sign-in/" not in self.page.current_url)

    def open(self, step):
        self.page.get(f"{self.live_server_url}/jobs/{self.tree.job_id}/trees/{self.tree.pk}/{step}/")

    def _while_loading(self, what):
        """A page that is just being replaced answers that its nodes are nobody's: asked again."""
        try:
            return what()
        except WebDriverException as error:
            if "does not belong to the document" in (error.msg or ""):
                return False
            raise

    def until(self, what):
        # A page on its way may take an element away between finding and reading it: look again.
        gone = (NoSuchElementException, StaleElementReferenceException)
        return WebDriverWait(self.page, 40, ignored_exceptions=gone).until(lambda _: self._while_loading(what))

    def one(self, selector):
        return self.page.find_element(By.CSS_SELECTOR, selector)

    def all(self, selector):
        return self.page.find_elements(By.CSS_SELECTOR, selector)

    def type(self, name, *keys, within="main "):
        field = self.one(f"{within}[name={name}]")
        self.page.execute_script(
            "for (let d = arguments[0].closest('details'); d; d = d.parentElement.closest('details')) d.open = true",
            field,
        )
        field.clear()
        field.send_keys(*keys)
        return field

    def over(self, name, *keys):
        """Type over what stands in a field, as a person does: emptying it first would be a change of its own."""
        field = self.one(f"main [name={name}]")
        self.page.execute_script("const d = arguments[0].closest('details'); if (d) d.open = true", field)
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys(*keys)
        return field

    def saved(self):
        """What the page says of saving."""
        return self.one("[data-saved]").text

    def answered(self, action):
        """Do something on the bench and wait until the server has answered it and nothing more is on its way."""
        count = "return Number(document.querySelector('[data-bench]').dataset.answers || 0)"
        before = self.page.execute_script(count)
        action()
        self.until(lambda: self.page.execute_script(count) > before)
        settled = -1
        busy = "return document.querySelector('[data-bench]').getAttribute('aria-busy') === 'true'"
        while settled != (now := self.page.execute_script(count)) or self.page.execute_script(busy):
            settled = now
            self.page.execute_async_script("setTimeout(arguments[0], 250)")

    def shown(self, key):
        """A figure on the page, unrounded, as the core gave it."""
        return float(self.one(f'[data-figure="{key}"] .big').get_attribute("data-raw"))

    def core(self):
        """The stored plan evaluated by the core."""
        self.tree.refresh_from_db()
        return planner.evaluated(self.tree)[1]

    def no_complaints(self):
        """Axe finds nothing by any of its rules, small targets counted; the console is clean, nothing sticks out."""
        # What stands under the sentence that stays in sight is scrolled into sight by a person first.
        self.page.execute_script("document.querySelector('.rail')?.scrollTo(0, 0)")
        self.page.execute_script(AXE)
        found = self.page.execute_async_script(
            "axe.run(document, {resultTypes: ['violations'], rules: {'target-size': {enabled: true}}})"
            ".then(r => arguments[0](r.violations))"
        )
        complaints = [(v["id"], v["impact"], [n["html"][:160] for n in v["nodes"][:3]]) for v in found]
        self.assertEqual(complaints, [], f"{self.page.current_url}: {json.dumps(complaints, indent=1)}")
        wide, seen = self.page.execute_script("return [document.documentElement.scrollWidth, innerWidth]")
        self.assertLessEqual(wide, seen, self.page.current_url)
        errors = [
            line["message"]
            for line in self.page.get_log("browser")
            if line["level"] == "SEVERE" and "favicon" not in line["message"]
        ]
        self.assertEqual(errors, [])
