"""The paper as the browser prints it: its pages counted on both sheets, and what it carries with backgrounds off."""

import base64
import re

from selenium.webdriver.common.print_page_options import PrintOptions

from apps.crews.tests.scene import whole_demo
from apps.exchange.planner import import_document
from tests.browser.browser import BrowserTestCase

SHEETS = {"A4": (21.0, 29.7), "Letter": (21.59, 27.94)}
EDGE = 0.9


class Paper(BrowserTestCase):
    def printed(self, wide, high):
        """Pages of the brief as printed with backgrounds off."""
        options = PrintOptions()
        options.page_width, options.page_height, options.background = wide, high, False
        options.margin_top = options.margin_bottom = options.margin_left = options.margin_right = EDGE
        return len(re.findall(rb"/Type\s*/Page\b(?!s)", base64.b64decode(self.page.print_page(options))))

    def test_pages_and_the_signature_on_the_first(self):
        job = import_document(self.crew, whole_demo())
        for name, most in (("Grand fir by the stream", 2), ("Copper beech", 6)):
            self.tree = job.trees.get(name=name)
            self.open("brief")
            for sheet, (wide, high) in SHEETS.items():
                with self.subTest(tree=name, sheet=sheet):
                    self.assertEqual(self.printed(wide, high), most)
            self.page.execute_cdp_cmd("Emulation.setEmulatedMedia", {"media": "print"})
            self.size(794, 1123)  # an A4 page at the browser's 96 px an inch
            sign = self.one(".brief .lines")
            self.assertTrue(sign.is_displayed())
            self.assertLess(sign.rect["y"], 400)
            shapes = self.all(".brief svg.shape")
            self.assertTrue(all(s.rect["width"] >= 10 for s in shapes if s.is_displayed()))
            self.page.execute_cdp_cmd("Emulation.setEmulatedMedia", {"media": ""})
            self.size(1280, 800)

    def test_a_phone_reads_the_steps_before_the_numbers_and_calls_at_a_tap(self):
        job = import_document(self.crew, whole_demo())
        self.tree = job.trees.get(name="Grand fir by the stream")
        self.size(390, 844)
        self.open("brief")
        tops = [self.one(f".brief {part}").rect["y"] for part in (".call", ".ruling", ".steps", ".sheets")]
        self.assertEqual(tops, sorted(tops))
        calls = [link.get_attribute("href") for link in self.all(".call a[href^='tel:']")]
        self.assertEqual(calls, ["tel:112", "tel:999"])
        self.assertGreaterEqual(self.one(".call a").rect["height"], 44)
        self.assertTrue(self.one(".call a[href^='geo:']").is_displayed())
