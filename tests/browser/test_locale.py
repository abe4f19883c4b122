"""Texts two fifths longer: no page scrolls sideways, nothing that is read is cut off."""

from apps.crews.tests.pseudo import OPEN, pseudo
from tests.browser.browser import BrowserTestCase

PAGES = ("walk-up", "measure", "method", "fell", "takedown", "brief", "record")
CUT = """
const cut = [];
for (const e of document.querySelectorAll("button, .button, label, legend, summary, h1, h2, th, dt, .strip a, .hint")) {
  if (!e.offsetParent || !e.textContent.trim()) continue;
  const style = getComputedStyle(e);
  if (style.overflowX === "visible" || e.matches(".visually-hidden")) continue;
  if (e.scrollWidth > e.clientWidth + 1) cut.push(e.textContent.trim().slice(0, 60));
}
return cut;
"""
OUT = """
const out = [];
for (const e of document.querySelectorAll("body *")) {
  const box = e.getBoundingClientRect();
  if (!e.offsetParent || !box.width || getComputedStyle(e).visibility === "hidden") continue;
  if (e.closest(".sideways, .strip, .skip, .where, svg, dialog")) continue;
  if (box.right > innerWidth + 1 || box.left < -1) out.push(
    `${e.tagName}.${e.className} ${e.textContent.trim().slice(0, 40)}`);
}
return out.slice(0, 6);
"""


class LongerWords(BrowserTestCase):
    def test_layouts_hold_texts_two_fifths_longer(self):
        with pseudo():
            for width, height in ((1280, 800), (390, 844)):
                self.size(width, height)
                for name in PAGES:
                    self.open(name)
                    with self.subTest(page=name, width=width):
                        self.assertIn(OPEN, self.one("main").text)
                        self.assertEqual(self.page.execute_script(CUT), [])
                        self.assertEqual(self.page.execute_script(OUT), [])
