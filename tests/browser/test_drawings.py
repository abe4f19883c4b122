"""Drawings as the browser shows them: no label lies on another, nothing under 12 px, at both widths."""

from apps.crews.tests.scene import whole_demo
from apps.exchange.planner import import_document
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
