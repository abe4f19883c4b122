"""Whoever may only read meets no button that ends in a refusal, and no handle that does nothing."""

import re

from django.test import TestCase
from django.urls import get_resolver, reverse

from apps.crews.models import Person
from apps.crews.tests.scene import load_scene, whole_demo
from tests.test_hostile import Forms


class Buttons(Forms):
    """Forms a person can send: those with a button that is not shut."""

    def __init__(self, page):
        super().__init__(page)
        self.sendable, self.shut, self.current = [], 0, None

    def handle_starttag(self, tag, attrs):
        super().handle_starttag(tag, attrs)
        at = dict(attrs)
        if tag == "form":
            self.current = self.found[-1] if at.get("method", "").lower() == "post" else None
        if tag == "fieldset":
            self.shut += "disabled" in at
        works = tag == "button" and at.get("type", "submit") == "submit" and "disabled" not in at and not self.shut
        if works and self.fields is not None and self.current is not None:
            self.sendable.append(self.current)

    def handle_endtag(self, tag):
        super().handle_endtag(tag)
        if tag == "fieldset":
            self.shut = 0


class ReadOnly(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.crew, _, cls.tree = load_scene(whole_demo())
        cls.beech = cls.tree.job.trees.get(name="Copper beech")
        cls.hand = Person.objects.create_user("hand", crew=cls.crew, role="hand")
        cls.guest = Person.objects.create_user("guest", crew=cls.crew, role="guest", only_job=cls.tree.job)

    def pages(self):
        """Every page a person can see: address and text."""
        found = get_resolver().reverse_dict
        for name in sorted(key for key in found if isinstance(key, str)):
            *_, converters = found.getlist(name)[0]
            if not set(converters) <= {"job_id", "tree_id"}:
                continue
            for tree in (self.tree, self.beech) if "tree_id" in converters else (self.tree,):
                known = {"job_id": tree.job_id, "tree_id": tree.pk}
                address = reverse(name, kwargs={key: known[key] for key in converters})
                answer = self.client.get(address)
                if answer.status_code == 200 and answer.headers["Content-Type"].startswith("text/html"):
                    yield address, answer.content.decode()

    def test_every_form_that_is_shown_may_be_sent(self):
        for person in (self.hand, self.guest):
            self.client.force_login(person)
            tried = 0
            for address, text in list(self.pages()):
                reader = Buttons(address)
                reader.feed(text)
                for to, fields in reader.sendable:
                    if to == reverse("sign-out"):
                        continue
                    tried += 1
                    with self.subTest(person=person.username, page=address, to=to):
                        self.assertNotEqual(self.client.post(to, fields).status_code, 403)
            self.assertGreater(tried, 2)

    def test_every_link_that_is_shown_may_be_followed(self):
        for person in (self.hand, self.guest):
            self.client.force_login(person)
            links = {to for _, text in self.pages() for to in re.findall(r'<a[^>]*\shref="(/[^"#?]*)', text)}
            for to in sorted(links):
                with self.subTest(person=person.username, to=to):
                    self.assertNotEqual(self.client.get(to).status_code, 403)
            self.assertGreater(len(links), 10)

    def test_a_bench_says_that_it_is_only_read_and_draws_nothing_to_take_hold_of(self):
        for person in (self.hand, self.guest):
            self.client.force_login(person)
            for address, text in self.pages():
                if "data-bench " not in text and "data-bench>" not in text:
                    continue
                with self.subTest(person=person.username, page=address):
                    self.assertRegex(text, "data-(read-only|looks-only|preview-only)")
                    self.assertNotRegex(text, r'<[^>]*\stabindex="0"[^>]*\sdata-handle=')
