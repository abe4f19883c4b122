"""Every form and every call of a script, given what nobody would type: no failure, and all pages still show."""

import os
import re
from html.parser import HTMLParser

from django.urls import get_resolver, reverse
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from hypothesis.extra.django import TestCase

from apps.crews.models import Person
from apps.crews.tests.scene import load_scene, whole_demo

COUNT = int(os.environ.get("CANTREL_FUZZ", "150"))
NUMBERS = [
    "",
    " ",
    "0",
    "-1",
    "0.0001",
    "1e300",
    "NaN",
    "Infinity",
    "-inf",
    "1e999",
    "9" * 5000,
    "²",
    "١",
    "2655",
    "1,2,3",
]
PARTS = ["null", "true", "[]", "{}", "[[1,2],[NaN,3]]", "[" * 2000, '{"parts": [1], "ropes": [], "tie_m": []}', "\x00"]
WORDS = [
    "part 99",
    "add nothing",
    "corner x",
    "cut -1",
    "ready none",
    "on",
    "abc",
    "N45E",
    "//elsewhere.example/",
    "data:1",
]
SIZES = ["1" + "0" * 30, "1.5", "5 m 3", "12 kg", "7' 6\"", "½"]
TEXT = st.text(alphabet=st.characters(exclude_categories=["Cs"]), max_size=20)
ODD = st.one_of(*(st.sampled_from(some) for some in (NUMBERS, PARTS, WORDS, SIZES)), TEXT)
# What scripts send beside the fields of their page.
CALLS = (
    "handle act picked pick which step save points entry corner dx dy frame x y view near revision next page changed"
)
CALLS = (*CALLS.split(), "tree", "over", "undo", "end", "drop", "retire", "keeper")
SENT_IF_CHECKED = ("checkbox", "radio", "file")
LEFT_OUT = ("sign-out",)  # ends what is tried


class Forms(HTMLParser):
    """The forms of a page: where each goes, and its fields as they would be sent untouched."""

    def __init__(self, page):
        super().__init__()
        self.page, self.found, self.fields, self.select = page, [], None, ""

    def handle_starttag(self, tag, attrs):
        at = dict(attrs)
        if tag == "form":
            self.fields = {}
            if at.get("method", "").lower() == "post":
                self.found.append((at.get("action") or self.page, self.fields))
        if self.fields is None:
            return
        name, kind = at.get("name", ""), at.get("type", "")
        if tag == "select":
            self.select = name
        elif tag == "option" and ("selected" in at or self.select not in self.fields):
            self.fields[self.select] = at.get("value", "")
        elif name and tag in ("input", "textarea", "button") and (kind not in SENT_IF_CHECKED or "checked" in at):
            self.fields[name] = at.get("value", "")

    def handle_endtag(self, tag):
        if tag == "form":
            self.fields = None


class Hostile(TestCase):
    @classmethod
    def setUpTestData(cls):
        _, cls.person, cls.tree = load_scene(whole_demo())
        cls.person.role = "owner"
        cls.person.save()
        ids = {"job_id": cls.tree.job_id, "tree_id": cls.tree.pk}
        names = [name for name in get_resolver().reverse_dict if isinstance(name, str)]
        cls.pages = sorted({address for name in names if (address := cls.address(name, ids))})

    @staticmethod
    def address(name, ids):
        *_, converters = get_resolver().reverse_dict.getlist(name)[0]
        if not set(converters) <= set(ids):
            return None
        return reverse(name, kwargs={key: ids[key] for key in converters}).replace("//", "/")

    def setUp(self):
        self.client.force_login(self.person)

    def test_every_page_shows_itself_to_begin_with(self):
        forms = self.forms()
        self.assertGreater(len(self.pages), 40)
        self.assertGreater(len(forms), 60)

    def forms(self):
        found = []
        for page in self.pages:
            got = self.client.get(page)
            if got.status_code == 200 and got.headers["Content-Type"].startswith("text/html"):
                reader = Forms(page)
                reader.feed(got.content.decode())
                found += reader.found
        return [(to, fields) for to, fields in found if not any(word in to for word in LEFT_OUT)]

    @settings(max_examples=COUNT, deadline=None, suppress_health_check=list(HealthCheck))
    @given(st.data())
    def test_no_answer_is_a_failure_and_nothing_is_kept_that_no_page_shows(self, data):
        to, fields = data.draw(st.sampled_from(self.known()), label="to")
        names = st.sampled_from([*sorted(fields), *CALLS])
        odd = data.draw(st.dictionaries(names, ODD, min_size=1, max_size=3), label="odd")
        sent = odd | ({"save": "1"} if data.draw(st.booleans(), label="save") else {})
        got = self.client.post(to, {**fields, **sent} if data.draw(st.integers(0, 3), label="whole") else sent)
        self.assertLess(got.status_code, 500)
        self.assertNotRegex(got.headers.get("Location", ""), r"^(//|\w+:)")
        self.client.force_login(Person.objects.get(pk=self.person.pk))
        shown = self.client.get(data.draw(st.sampled_from(self.pages), label="page"))
        self.assertLess(shown.status_code, 500)
        if shown.headers["Content-Type"].startswith("text/html"):
            self.assertIsNone(re.search(r"(?<![\w-])(NaN|nan|inf|Infinity)(?![\w-])", shown.content.decode()))

    def known(self):
        """The forms, looked for once: the scene is the same for every example."""
        if not FORMS:
            FORMS.extend(self.forms())
        return FORMS


FORMS = []
