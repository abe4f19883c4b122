"""A site built from nothing by mouse and by keyboard, a tree's body shaped, a list taken in; numbers are the core's."""

import tempfile

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from apps.jobs.models import Job, Tree
from apps.site import planner as sites
from apps.survey import body_planner
from tests.browser.browser import BrowserTestCase

LIST = "No;Species;DBH (cm);Height (m)\nA1;Silver birch;45,5;18\nA2;Money tree;30;12\nA3;English oak;60;999\n"


class SiteFromNothing(BrowserTestCase):
    def setUp(self):
        super().setUp()
        self.job = Job.objects.create(crew=self.crew, name="Empty plot")
        self.ash = Tree.objects.create(
            job=self.job, name="Ash", species="fraxinus_excelsior", diameter=0.5, height=18, spread=7
        )
        self.page.get(f"{self.live_server_url}/jobs/{self.job.pk}/site/")

    def answered(self, action):
        count = "return Number(document.querySelector('[data-site]').dataset.answers || 0)"
        before = self.page.execute_script(count)
        action()
        self.until(lambda: self.page.execute_script(count) > before)

    def tap(self, east, north, chain=None):
        """Press the mouse on a place of the plan."""
        at = self.page.execute_script(
            "const m = document.querySelector('.sitemap'), p = new DOMPoint(arguments[0], -arguments[1])"
            ".matrixTransform(m.getScreenCTM()), b = m.getBoundingClientRect();"
            "return [p.x - b.x - b.width / 2, p.y - b.y - b.height / 2]",
            east,
            north,
        )
        chain = chain or ActionChains(self.page)
        return chain.move_to_element_with_offset(self.one(".sitemap"), round(at[0]), round(at[1]))

    def draw(self, kind, spots):
        Select(self.one("[data-kind]")).select_by_value(kind)
        self.one("[data-tool=draw]").click()
        for spot in spots[:-1]:
            self.tap(*spot).click().perform()
        self.answered(lambda: self.tap(*spots[-1]).click().perform())

    def test_with_the_mouse_only(self):
        self.draw("building", [(5, 4), (9, 4), (9, 7), (5, 7), (5, 4)])
        self.draw("conductor", [(-8, 7), (8, 8)])
        self.assertEqual(self.one("[data-form-error]").text, "")
        shed, line = self.job.targets.order_by("pk")
        self.assertEqual((shed.kind, len(shed.outline), line.kind), ("building", 4, "conductor"))
        self.assertIn("Over a limit", self.one("[data-fragment=head]").text)
        shown = float(self.one("[data-fragment=head] [data-raw]").get_attribute("data-raw"))
        self.assertAlmostEqual(shown, sites.conductor_limits(self.job)[0][1].demand.value, places=6)
        self.answered(lambda: self.tap(7, 5.5).click().perform())
        area = float(self.one(".facts dd").get_attribute("data-raw"))
        self.assertAlmostEqual(area, sites.facts(self.job, shed).area, places=6)
        before = shed.outline[0]
        self.answered(lambda: self.tap(6, -3, self.tap(7, 5.5).click_and_hold()).release().perform())
        shed.refresh_from_db()
        self.assertAlmostEqual(shed.outline[0][1], before[1] - 8.5, delta=0.6)
        self.answered(lambda: self.one("[data-do=undo]").click())
        shed.refresh_from_db()
        self.assertEqual(shed.outline[0], before)
        self.one("[data-tool=measure]").click()
        self.tap(-4, -4).click().perform()
        self.answered(lambda: self.tap(0, -4).click().perform())
        self.assertAlmostEqual(float(self.one("[data-readout]").get_attribute("data-raw")), 4.0, delta=0.3)
        self.no_complaints()

    def fill(self, form, **values):
        summary = self.page.execute_script(
            "return arguments[0].closest('details').querySelector('summary')", self.one(f"[data-form={form}]")
        )
        if not self.page.execute_script("return arguments[0].parentElement.open", summary):
            summary.send_keys(Keys.ENTER)
        for name, value in values.items():
            field = self.one(f"[data-form={form}] [name$={name}]")
            if field.tag_name == "select":
                field.send_keys(value)
            else:
                field.clear()
                field.send_keys(value)
        if self.all(f"[data-form={form}] button[type=submit], [data-form={form}] button:not([type])"):
            self.answered(lambda: self.one(f"[data-form={form}] button").send_keys(Keys.ENTER))

    def test_with_the_keyboard_only_and_two_tapes(self):
        self.fill(
            "type-in",
            **{"add-kind": "Building", "add-name": "Shed", "add-where": "9 m at 90° from the stem", "add-long": "4"},
        )
        shed = self.job.targets.get()
        self.assertEqual(shed.name, "Shed")
        east = shed.outline[0][0]
        picked = self.one(f'.feature[data-pick="target:{shed.pk}"]')
        self.answered(lambda: picked.send_keys(Keys.ARROW_RIGHT))
        shed.refresh_from_db()
        self.assertAlmostEqual(shed.outline[0][0], east + 0.1, places=6)
        corner = self.one('[data-corner="1"]')
        self.answered(lambda: corner.send_keys(Keys.SHIFT, Keys.ARROW_UP))
        self.fill("tape", first="stem", from_first="5", second="6; 0", from_second="5", goes="a new anchor: vehicle")
        self.assertEqual(self.job.targets.get(kind="anchor_vehicle").outline, [[3.0, 4.0]])
        self.answered(lambda: self.one(".sitemap .picked").send_keys(Keys.DELETE))
        self.assertFalse(self.job.targets.filter(kind="anchor_vehicle").exists())
        self.answered(lambda: self.one("[data-do=undo]").send_keys(Keys.ENTER))
        self.assertTrue(self.job.targets.filter(kind="anchor_vehicle").exists())
        self.no_complaints()

    def test_a_new_thing_leaves_the_one_before_what_it_was(self):
        # The panel of an anchor is open, one of its fields still held, when a standing tree is typed in.
        spot = {"add-name": "Pull oak", "add-where": "9; 0", "add-long": "1"}
        self.fill("type-in", **{"add-kind": "Anchor: sound tree"}, **spot)
        self.one("[data-form=save] [name=feature-name]").send_keys(" low")
        spot = {"add-name": "Wild cherry", "add-where": "0; 9", "add-long": "2"}
        self.fill("type-in", **{"add-kind": "Standing tree"}, **spot)
        self.until(lambda: self.job.targets.filter(name="Pull oak low").exists())
        self.assertEqual(self.one("[data-form=save] [name=feature-kind]").get_attribute("value"), "tree")
        name = self.one("[data-form=save] [name=feature-name]")
        name.send_keys(" by the gate")
        self.answered(lambda: name.send_keys(Keys.TAB))
        kinds = dict(self.job.targets.values_list("name", "kind"))
        self.assertEqual(kinds, {"Pull oak low": "anchor_tree", "Wild cherry by the gate": "tree"})
        self.no_complaints()

    def test_a_list_is_looked_at_set_right_and_taken_in(self):
        self.page.get(f"{self.live_server_url}/jobs/{self.job.pk}/take-in/")
        with tempfile.NamedTemporaryFile("w", suffix=".csv", encoding="cp1252") as file:
            file.write(LIST)
            file.flush()
            self.one("[type=file]").send_keys(file.name)
            self.one("main .button").click()
            self.until(lambda: "1 would be taken in, 2 refused" in self.one("h1").text)
        self.no_complaints()
        for line, column, text in ((3, 2, "Field maple"), (4, 4, "21")):
            cell = self.one(f'[aria-label="Line {line}, column {column}"]')
            cell.clear()
            cell.send_keys(text)
        self.page.find_element(By.XPATH, "//button[text()='Look again']").click()
        self.until(lambda: "3 would be taken in" in self.one("h1").text)
        self.one("[data-now] button").click()
        self.until(lambda: "/site/" in self.page.current_url)
        self.assertEqual(self.job.trees.count(), 4)
        self.until(lambda: len(self.all(".jobtree")) == 4)


class BodyBench(BrowserTestCase):
    def test_walk_round_replace_and_draw(self):
        self.open("body")
        svg = self.one(".turnable svg")
        view = self.one("[name=view]")
        before = view.get_attribute("value")
        chain = ActionChains(self.page).move_to_element_with_offset(svg, -180, 200).click_and_hold()
        self.answered(lambda: chain.move_by_offset(60, 0).move_by_offset(60, 0).release().perform())
        self.assertNotEqual(view.get_attribute("value"), before)
        count = len(self.all(".limb.assumed"))
        self.answered(
            lambda: self.page.execute_script(
                "document.querySelector('[data-act=take]').dispatchEvent(new MouseEvent('click', {bubbles: true}))"
            )
        )
        self.assertEqual(len(self.all(".limb.assumed")), count - 1)
        self.one("[data-draw]").click()
        svg = self.one(".turnable svg")
        middle = ActionChains(self.page).move_to_element_with_offset(svg, 1, 200).click_and_hold()
        self.answered(lambda: middle.move_by_offset(40, -20).move_by_offset(40, -20).release().perform())
        self.assertEqual(self.one("[data-form-error]").text, "")
        self.tree.refresh_from_db()
        scene = body_planner.scene(self.tree)
        self.assertEqual(len(scene["limbs"]), 4)
        shown = [float(b.get_attribute("data-raw")) for b in self.all(".limbtable [data-raw]")]
        for raw, row in zip(shown, scene["limbs"], strict=True):
            self.assertAlmostEqual(raw, row.mass.value, delta=1e-6 * raw)
        self.page.execute_script("document.querySelectorAll('details').forEach(d => d.open = true)")
        self.assertAlmostEqual(self.shown("inertia"), scene["result"].inertia.estimate.value, delta=1)
        self.no_complaints()

    def test_every_new_page_on_a_phone_and_in_the_office(self):
        base = self.live_server_url
        pages = [
            f"{base}/species/",
            f"{base}/species/abies_grandis/",
            f"{base}/species/new/",
            f"{base}/approach/",
            f"{base}/jobs/{self.tree.job_id}/site/",
            f"{base}/jobs/{self.tree.job_id}/trees/{self.tree.pk}/body/",
        ]
        for wide, high in ((1280, 800), (390, 844)):
            self.size(wide, high)
            for page in pages:
                self.page.get(page)
                self.no_complaints()
