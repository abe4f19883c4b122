"""Drawings as the browser shows them: no label lies on another, nothing under 12 px, at both widths."""

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from apps.crews.tests.scene import whole_demo
from apps.exchange.planner import import_document
from apps.felling import planner as planner_of_fell
from apps.takedown import planner
from tests.browser.browser import BrowserTestCase

# Pairs of labels of one drawing whose ink overlaps by more than a hair, and labels smaller than 12 px on the glass.
LABELS = """
const bad = [];
document.querySelectorAll("svg.drawing").forEach((svg) => {
  if (!svg.getBoundingClientRect().width) return;
  const seen = (t) => t.textContent.trim() && t.getBoundingClientRect().width;
  const found = [...svg.querySelectorAll("text")].filter(seen);
  const boxes = found.map((t) => {
    const b = t.getBoundingClientRect(), up = /rotate/.test(t.getAttribute("transform") ?? "");
    const [w, h] = up ? [b.width * 0.22, 2] : [2, b.height * 0.22];
    return { t, l: b.left + w, r: b.right - w, o: b.top + h, u: b.bottom - h };
  });
  const name = (svg.getAttribute("class") + " " + (svg.getAttribute("aria-label") ?? "")).slice(0, 60);
  boxes.forEach((a, i) => {
    boxes.slice(i + 1).forEach((b) => {
      const meet = a.l < b.r && b.l < a.r && a.o < b.u && b.o < a.u;
      if (meet) bad.push(`${name}: ${a.t.textContent} on ${b.t.textContent}`);
    });
    const px = parseFloat(getComputedStyle(a.t).fontSize) * Math.abs(a.t.getScreenCTM().d || a.t.getScreenCTM().b);
    if (px < 11.8) bad.push(`${name}: ${a.t.textContent.trim()} is ${px.toFixed(1)} px`);
  });
});
return bad;
"""
# Sizes of letters on the page and on the glass of its drawings, to the nearest point.
SIZES = """
const sizes = {};
const walk = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
while (walk.nextNode()) {
  const el = walk.currentNode.parentElement;
  if (!walk.currentNode.textContent.trim() || !el.getBoundingClientRect().width) continue;
  if (el.closest("option, template, .visually-hidden")) continue;
  const scale = el.getScreenCTM ? Math.hypot(el.getScreenCTM().b, el.getScreenCTM().d) : 1;
  const px = Math.round(parseFloat(getComputedStyle(el).fontSize) * scale);
  const said = `${el.tagName} ${el.className.baseVal ?? el.className} ${el.textContent.trim().slice(0, 30)}`;
  if (px) sizes[px] ??= `${px}: ${said}`;
}
return sizes;
"""
FIVE = {"12", "14", "17", "22", "36"}
PAGES = (
    "measure/",
    "body/",
    "method/",
    "fell/",
    "fell/pull/",
    "takedown/?pick=2",
    "takedown/?pick=9",
    "takedown/?pick=22",
    "brief/",
)


class Drawings(BrowserTestCase):
    def test_labels_lie_apart_and_can_be_read(self):
        job = import_document(self.crew, whole_demo())
        for width, height in ((1280, 800), (390, 844)):
            self.size(width, height)
            for tree in job.trees.all():
                for path in PAGES:
                    with self.subTest(tree=tree.name, path=path, width=width):
                        self.page.get(f"{self.live_server_url}/jobs/{job.pk}/trees/{tree.pk}/{path}")
                        self.one("h1, svg")
                        self.assertEqual(self.page.execute_script(LABELS), [])
                        sizes = self.page.execute_script(SIZES)
                        self.assertEqual([said for px, said in sizes.items() if px not in FIVE], [])

    def test_a_drawing_comes_nearer_and_a_sign_still_goes_where_the_hand_puts_it(self):
        self.tree = import_document(self.crew, whole_demo()).trees.get(name="Copper beech")
        self.open("takedown")
        box = lambda: [float(n) for n in self.one("svg.takedown").get_dom_attribute("viewBox").split()]  # noqa: E731
        whole = box()
        self.page.execute_script("arguments[0].focus()", self.one("[data-handle=stance]"))
        for _ in range(4):
            ActionChains(self.page).send_keys("+").perform()
        near = box()
        self.assertAlmostEqual(whole[2] / near[2], 1.25**4, delta=0.01)
        # One step of an arrow key is a quarter metre however near it is, and the answer leaves the view as it was.
        before = planner.plan_for(self.tree).picks[0]["climber"]["stance_m"]
        self.answered(lambda: ActionChains(self.page).send_keys(Keys.ARROW_UP).perform())
        after = planner.plan_for(self.tree).picks[0]["climber"]["stance_m"]
        self.assertAlmostEqual(after - before, 0.25, delta=0.06)
        self.assertEqual(box(), near)
        svg = self.one("svg.takedown")
        self.page.execute_script("arguments[0].scrollIntoView({block: 'center'})", svg)
        ActionChains(self.page).move_to_element_with_offset(svg, -230, -200).double_click().perform()
        self.until(lambda: box() == whole)

    def test_two_fingers_bring_it_nearer_on_a_phone(self):
        self.size(390, 844)
        self.page.execute_cdp_cmd("Emulation.setTouchEmulationEnabled", {"enabled": True, "maxTouchPoints": 2})
        self.open("fell")
        self.assertGreater(self.one(".thumbbar").rect["width"], 370)  # the next step lies along the foot of the page
        at = self.page.execute_script(
            "const svg = document.querySelector('[data-fragment=stump] svg'); svg.scrollIntoView({block: 'center'});"
            "const b = svg.getBoundingClientRect(); return [b.x, b.y, svg.viewBox.baseVal.width]"
        )
        wide, before = at[2], planner_of_fell.plan_for(self.tree).revision

        def touch(kind, *places):
            points = [{"x": at[0] + x, "y": at[1] + y, "id": i} for i, (x, y) in enumerate(places)]
            self.page.execute_cdp_cmd("Input.dispatchTouchEvent", {"type": kind, "touchPoints": points})

        touch("touchStart", (150, 150), (190, 150))
        for far in (30, 60, 90):
            touch("touchMove", (150 - far, 150), (190 + far, 150))
        touch("touchEnd")
        near = "return document.querySelector('[data-fragment=stump] svg').viewBox.baseVal.width"
        self.assertLess(self.page.execute_script(near), 0.5 * wide)
        self.assertEqual(planner_of_fell.plan_for(self.tree).revision, before)  # nothing was dragged by two fingers


class Everyone(BrowserTestCase):
    def test_a_bench_is_reached_within_thirty_stops_and_nothing_sticks_out_of_a_narrow_page(self):
        job = import_document(self.crew, whole_demo())
        for tree in job.trees.all():
            for path in PAGES:
                with self.subTest(tree=tree.name, path=path):
                    # 320 points wide is also what 1280 come to at 400 %, and 640 at 200 %.
                    self.size(320, 800)
                    self.page.get(f"{self.live_server_url}/jobs/{job.pk}/trees/{tree.pk}/{path}")
                    wide = self.page.execute_script("return document.documentElement.scrollWidth")
                    self.assertLessEqual(wide, 320)
                    self.size(1280, 800)
                    stops = self.page.execute_script(
                        "const kinds = 'a[href], button, input, select, textarea, summary, [tabindex]';"
                        "const open = (e) => e.tabIndex >= 0 && !e.disabled && e.type !== 'hidden' && e.offsetParent;"
                        "const all = [...document.querySelectorAll(kinds)].filter(open);"
                        "return all.findIndex((e) => e.closest('main'))"
                    )
                    self.assertLessEqual(stops, 30)
                    self.assertIn(tree.name, self.page.title)
                    self.assertIn(tree.name, self.one("h1").get_attribute("textContent"))

    def test_a_verdict_that_changes_is_told_and_the_same_is_not(self):
        self.open("fell")
        self.assertEqual(self.one("#announced").get_attribute("textContent"), "")
        handle = self.one("[data-handle=hinge]")
        self.assertIn("holds from", handle.get_attribute("aria-valuetext"))
        self.answered(lambda: self.over("hinge", "7.2", Keys.TAB))
        self.assertEqual(self.one("#announced").get_attribute("textContent"), "")
        self.answered(lambda: self.over("hinge", "2", Keys.TAB))
        self.assertIn("over a limit", self.one("#announced").get_attribute("textContent"))
