"""A takedown built on the tree by mouse, and changed by keyboard; the numbers shown are the core's."""

import time

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from apps.crews.tests.scene import whole_demo
from apps.exchange.planner import import_document
from apps.gear.planner import from_entry
from apps.takedown import planner
from tests.browser.browser import BrowserTestCase


class Takedown(BrowserTestCase):
    def picks(self, tree=None):
        return planner.plan_for(tree or self.tree).picks

    def place(self, share):
        """Press the button and touch the stem at a share of the picture's height."""
        self.one("[data-placing]").click()
        svg = self.one("svg.takedown")
        stem = self.one("svg.takedown .member.stem")
        self.page.execute_script("arguments[0].scrollIntoView({block: 'center'})", svg)
        box, whole = stem.rect, svg.rect
        x = box["x"] + box["width"] / 2 - whole["x"] - whole["width"] / 2
        y = box["y"] + share * box["height"] - whole["y"] - whole["height"] / 2
        self.answered(
            lambda: ActionChains(self.page).move_to_element_with_offset(svg, round(x), round(y)).click().perform()
        )

    def choose(self, name, value):
        field = self.one(f"main [name={name}]")
        self.page.execute_script(
            "for (let d = arguments[0].closest('details'); d; d = d.parentElement.closest('details')) d.open = true",
            field,
        )
        self.answered(lambda: field.find_element(By.CSS_SELECTOR, f"option[value='{value}']").click())

    def test_six_picks_by_mouse_then_ropes_and_order_by_keyboard(self):
        from_entry(
            self.crew,
            {
                "name": "Test line",
                "kind": "rope",
                "strength_N": 60000,
                "length_m": 60,
                "diameter_m": 0.014,
                "inspected": "2026-10-01",
            },
        )
        self.open("takedown")
        self.assertIn("No pick yet", self.one("[data-fragment=ruling]").text)
        for share in (0.2, 0.34, 0.48, 0.62, 0.76, 0.9):
            self.place(share)
        picks = self.picks()
        self.assertEqual(len(picks), 6)
        stem = [i for i, p in enumerate(picks) if p["member"] == ""]
        self.assertGreaterEqual(len(stem), 3)
        rows = planner.work_out(planner.scene_of(self.tree), picks)
        shown = [float(e.get_attribute("data-raw")) for e in self.all(".picks [data-raw]")]
        for row, mass in zip(rows, shown, strict=True):
            self.assertAlmostEqual(row.step.piece.mass.value, mass, delta=1e-4)
        n = stem[1]
        # A stem pick is held by a rope over a block below it: typed, all by keyboard.
        self.answered(lambda: self.one(f".picks [data-take='pick {picks[n]['id']}']").send_keys(Keys.ENTER))
        at = picks[n]["at_m"]
        self.choose("method", "free")
        self.choose("method", "negative")
        self.answered(lambda: self.type("point_m", f"{at - 0.6:.2f}", Keys.TAB))
        self.answered(lambda: self.type("bearing_deg", Keys.TAB))  # nobody says which way it goes
        self.assertEqual((self.picks()[n]["method"], self.picks()[n]["rope"]), ("negative", "Test line"))
        row = planner.work_out(planner.scene_of(self.tree), self.picks())[n]
        raw = {
            float(e.get_attribute("data-raw"))
            for e in self.all("[data-fragment=forces] [data-raw]")
            if e.get_attribute("data-raw")
        }
        for value in (row.worked.forces.peaks.elastic.value, row.worked.forces.on_point.value):
            self.assertTrue(any(abs(value - r) < 1e-4 * value for r in raw), value)
        # From above: where its notch faces, and where it is put down, by dragging.
        self.assertIn("Which way it goes", self.one("[data-fragment=decided]").get_attribute("innerHTML"))
        for name, key in (("faces", "bearing_deg"), ("landing", "landing_m")):
            handle = self.one(f"[data-fragment=above] [data-handle={name}] .knob")
            self.page.execute_script("arguments[0].scrollIntoView({block: 'center'})", handle)
            self.answered(
                lambda h=handle: ActionChains(self.page).click_and_hold(h).move_by_offset(40, 25).release().perform()
            )
            self.assertIn(key, self.picks()[n])
        self.assertEqual(self.one("[name=bearing_deg]").get_attribute("value"), str(self.picks()[n]["bearing_deg"]))
        # The picture turns under a drag beside its handles; the picks stay as they are.
        before, facing = self.picks(), int(self.one("[name=view]").get_attribute("value"))
        svg = self.one("svg.takedown")
        corner = ActionChains(self.page).move_to_element_with_offset(svg, -round(svg.rect["width"] * 0.45), 0)
        self.answered(lambda: corner.click_and_hold().move_by_offset(100, 0).release().perform())
        self.assertEqual(int(self.one("[name=view]").get_attribute("value")), (facing - 45) % 360)
        self.assertIn(f"facing {(facing - 45) % 360}°", self.one("svg.takedown").get_attribute("aria-label"))
        self.assertEqual(self.picks(), before)
        # Arrow keys on the tie, and a pick earlier and later in the order.
        self.page.execute_script("arguments[0].focus()", self.one("[data-handle=tie]"))
        before = self.picks()[n]["tie_m"]
        self.answered(lambda: ActionChains(self.page).send_keys(Keys.ARROW_UP).perform())
        self.assertAlmostEqual(self.picks()[n]["tie_m"], before + 0.25, delta=0.02)
        self.answered(lambda: self.one(f"[data-take='up {picks[n]['id']}']").send_keys(Keys.ENTER))
        self.assertEqual(self.picks()[n - 1]["method"], "negative")
        order = self.one("[data-take=order]")
        self.page.execute_script("arguments[0].scrollIntoView({block: 'center'})", order)  # clear of the ruling on top
        self.answered(order.click)
        self.assertIn("becomes", self.one("[data-figure=proposal]").text)
        self.assertEqual(self.picks()[n - 1]["method"], "negative")  # nothing moves before it is taken
        self.answered(lambda: self.one("[data-take=take-order]").send_keys(Keys.ENTER))
        self.assertEqual(
            [p["at_m"] for p in self.picks() if p["member"] == ""],
            sorted((p["at_m"] for p in picks if p["member"] == ""), reverse=True),
        )

    def test_six_picks_by_keyboard_from_nothing(self):
        self.open("takedown")
        for at in ("0.5", "16", "14", "12", "10", "8"):
            self.type("new_at_m", at)
            self.page.execute_script("arguments[0].focus()", self.one("[data-take=add]"))
            self.answered(lambda: ActionChains(self.page).send_keys(Keys.ENTER).perform())
            if at == "0.5":
                self.answered(lambda: self.one(".strip-of-picks [data-take^=drop]").send_keys(Keys.ENTER))
        self.assertEqual([p["at_m"] for p in self.picks()], [16.0, 14.0, 12.0, 10.0, 8.0])
        self.type("new_at_m", "12")
        self.answered(lambda: self.one("[data-take=add]").send_keys(Keys.ENTER))
        field = self.one("main [name=new_at_m]")
        self.assertEqual((field.get_attribute("aria-invalid"), field.get_attribute("value")), ("true", "12"))
        self.assertEqual(len(self.picks()), 5)
        self.type("new_at_m", "4")
        self.answered(lambda: self.one("[data-take=add]").send_keys(Keys.ENTER))
        rows = planner.work_out(planner.scene_of(self.tree), self.picks())
        shown = [float(e.get_attribute("data-raw")) for e in self.all(".picks [data-raw]")]
        self.assertEqual(len(shown), 6)
        for row, mass in zip(rows, shown, strict=True):
            self.assertAlmostEqual(row.step.piece.mass.value, mass, delta=1e-4)

    def test_a_setting_stands_for_wraps_and_a_weighed_piece_tells_of_the_next(self):
        self.open("takedown")
        for at in ("17", "14"):
            self.type("new_at_m", at)
            self.answered(lambda: self.one("[data-take=add]").send_keys(Keys.ENTER))
        self.answered(lambda: self.one(".picks li:nth-child(1) [data-take^=pick]").send_keys(Keys.ENTER))
        self.choose("method", "free")
        self.choose("method", "negative")
        wraps, setting = (self.one(f"main [name={n}]") for n in ("wraps", "setting"))
        self.assertEqual((wraps.is_displayed(), setting.is_displayed()), (True, False))
        self.choose("device_kind", "intree")
        self.choose("setting", "1")
        wraps, setting = (self.one(f"main [name={n}]") for n in ("wraps", "setting"))
        self.assertEqual((wraps.is_displayed(), setting.is_displayed()), (False, True))
        self.assertEqual(self.picks()[0]["setting"], 1)
        before = [r.step.piece.mass.value for r in planner.work_out(planner.scene_of(self.tree), self.picks())]
        field = self.one("main [name=weighed_kg]")
        self.page.execute_script("arguments[0].closest('details').open = true", field)
        self.answered(lambda: self.type("weighed_kg", f"{1.25 * before[0]:.0f}", Keys.TAB))
        self.answered(lambda: self.one(".picks li:nth-child(2) [data-take^=pick]").send_keys(Keys.ENTER))
        after = [r.step.piece.mass.value for r in planner.work_out(planner.scene_of(self.tree), self.picks())]
        self.assertGreater(after[1], 1.02 * before[1])
        said = self.one("[data-figure=corrected]").text
        self.assertIn("1 piece weighed before this one", said)
        undo = self.one("[data-undo]")
        self.page.execute_script("arguments[0].scrollIntoView({block: 'center'})", undo)
        undo.click()
        self.until(lambda: not any(p.get("weighed_kg") for p in self.picks()))
        again = [r.step.piece.mass.value for r in planner.work_out(planner.scene_of(self.tree), self.picks())]
        self.assertEqual(again, before)

    def test_pages_without_serious_complaints(self):
        job = import_document(self.crew, whole_demo())
        beech = job.trees.get(name="Copper beech")
        for width, height in ((1280, 800), (390, 844)):
            self.size(width, height)
            tree = f"/jobs/{job.pk}/trees/{beech.pk}"
            for path in (f"{tree}/takedown/?pick=10", f"{tree}/takedown/access/", f"{tree}/brief/", "/yard/gear/"):
                with self.subTest(path=path, width=width):
                    self.page.get(self.live_server_url + path)
                    self.no_complaints()

    def mends(self, number, **spoilt):
        """Changes the core finds for a pick that is spoilt."""
        picks = [p | spoilt if i == number else p for i, p in enumerate(self.picks())]
        scene = planner.scene_of(self.tree)
        return planner.mends_of(scene, planner.work_out(scene, picks)[number])

    def test_a_phone_changes_a_pick_by_touch_and_goes_to_the_next(self):
        self.tree = import_document(self.crew, whole_demo()).trees.get(takedown__isnull=False)
        self.size(390, 844)
        self.page.execute_cdp_cmd("Emulation.setTouchEmulationEnabled", {"enabled": True, "maxTouchPoints": 2})
        self.page.get(f"{self.live_server_url}/jobs/{self.tree.job_id}/trees/{self.tree.pk}/takedown/?pick=3")
        # The verdicts stand above the drawing, and the next step lies at the thumb.
        ruling, drawn = self.one("[data-fragment=ruling]").rect, self.one("svg.takedown").rect
        self.assertLess(ruling["y"], drawn["y"])
        bar = self.one(".stepper")
        self.assertAlmostEqual(bar.rect["y"] + bar.rect["height"], 844, delta=2)
        self.assertFalse(self.one("[name=wraps]").is_displayed())
        self.one(".stepper .changes").click()
        self.until(lambda: self.one("[name=wraps]").is_displayed())
        self.answered(lambda: self.over("wraps", "3", Keys.TAB))
        self.assertEqual(self.picks()[2]["wraps"], 3)
        self.one("#change .btn-close").click()
        self.until(lambda: not self.all(".offcanvas-backdrop"))
        self.answered(lambda: self.one(".stepper [aria-label='Pick after']").click())
        self.assertIn("4 of 34", self.one(".stepper").text)
        self.one(".menu-button").click()
        self.until(lambda: self.one("#menu .rooms").is_displayed())

    def test_the_order_is_changed_by_the_grip_with_a_mouse(self):
        self.tree = import_document(self.crew, whole_demo()).trees.get(takedown__isnull=False)
        self.open("takedown")
        before = [p["id"] for p in self.picks()]
        grips = self.all(".picks .grip")
        self.page.execute_script("arguments[0].scrollIntoView({block: 'center'})", grips[1])
        ActionChains(self.page).move_to_element(grips[1]).perform()
        self.until(lambda: self.page.execute_script("return 'Sortable' in window"))
        moves = ActionChains(self.page).move_to_element(grips[0]).click_and_hold().move_by_offset(10, 0)
        moves = moves.move_to_element(grips[2]).move_by_offset(20, 0)
        self.answered(lambda: moves.pause(0.3).release().perform())
        after = [p["id"] for p in self.picks()]
        self.assertEqual(after[:3], [before[1], before[2], before[0]])

    def test_the_order_is_changed_by_the_grip_with_a_thumb(self):
        self.tree = import_document(self.crew, whole_demo()).trees.get(takedown__isnull=False)
        self.size(390, 844)
        self.page.execute_cdp_cmd("Emulation.setTouchEmulationEnabled", {"enabled": True, "maxTouchPoints": 2})
        self.open("takedown")
        before = [p["id"] for p in self.picks()]
        self.page.execute_script("document.querySelector('.picks').scrollIntoView({block: 'center'})")
        middles = self.page.execute_script(
            "return [...document.querySelectorAll('.picks .grip')].slice(0, 3).map((g) => {"
            "const b = g.getBoundingClientRect(); return [b.x + b.width / 2, b.y + b.height / 2] })"
        )

        def touch(kind, *place):
            points = [{"x": place[0], "y": place[1], "id": 0}] if place else []
            self.page.execute_cdp_cmd("Input.dispatchTouchEvent", {"type": kind, "touchPoints": points})

        (left, high), (right, _) = middles[0], middles[1]
        touch("touchStart", left, high + 60)
        touch("touchEnd")
        self.until(lambda: self.page.execute_script("return 'Sortable' in window"))
        touch("touchStart", left, high)
        for share in (0.1, 0.3, 0.6, 0.9, 1.2):
            touch("touchMove", left + share * (right - left), high)
        time.sleep(0.3)  # the cards make room
        self.answered(lambda: touch("touchEnd"))
        after = [p["id"] for p in self.picks()]
        self.assertEqual(after[:2], [before[1], before[0]])

    def test_a_lead_laid_out_at_one_press_and_a_change_taken_by_a_tap(self):
        self.tree = import_document(self.crew, whole_demo()).trees.get(takedown__isnull=False)
        planner.keep(planner.plan_for(self.tree), [])
        self.open("takedown")
        self.type("lay_heaviest", "150")
        self.type("lay_longest", "6")
        self.one("[name=lay_member] option[value='North lead']").click()
        self.one("[data-lay] .button.strong").click()
        self.until(lambda: self.one("[data-progress]").is_displayed())
        self.until(lambda: len(self.picks()) >= 8)
        self.until(lambda: len(self.all(".picks [data-order]")) == len(self.picks()))
        rows = planner.work_out(planner.scene_of(self.tree), self.picks())
        self.assertFalse([r for r in rows if r.error])
        # One pick is spoilt, and mended by what the bench offers.
        held, wraps = next(
            (p["id"], wraps)
            for i, p in enumerate(self.picks())
            for wraps in ("1", "1.5", "2", "4")
            if p["method"] == "negative" and self.mends(i, wraps=float(wraps))
        )
        self.page.get(f"{self.page.current_url.split('?')[0]}?pick={held}")
        self.answered(lambda: self.type("wraps", wraps, Keys.TAB))
        self.until(lambda: self.all("[data-take^='mend ']"))
        self.answered(lambda: self.one("[data-take^='mend ']").send_keys(Keys.ENTER))
        self.assertNotIn("over", self.all("[data-fragment=ruling] [data-ruling]")[-1].get_attribute("class"))
        self.no_complaints()
