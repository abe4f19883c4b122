"""Permissions fail closed: every route, every stranger."""

from django.test import TestCase
from django.urls import get_resolver, reverse

from apps.crews.models import Crew, Person
from apps.crews.permissions import TABLE, permission
from apps.crews.tests.scene import load_scene

PUBLIC = {"sign-in", "second", "first", "join", "reset", "sign-out", "worker", "manifest"}


class Access(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.crew, cls.person, cls.tree = load_scene()
        cls.other = Person.objects.create_user("eve", password="x", crew=Crew.objects.create(name="Others"))
        cls.hand = Person.objects.create_user("ned", password="x", crew=cls.crew, role="hand")

    def routes(self):
        for resolver in get_resolver().url_patterns:
            yield from resolver.url_patterns

    def address(self, route):
        given = {
            "job_id": self.tree.job_id,
            "tree_id": self.tree.pk,
            "reading_id": 1,
            "target_id": 1,
            "method": "stick",
            "hazard": "wind",
            "intake_id": 1,
            "file_id": 1,
            "pk": 1,
            "key": "abies_grandis",
            "scope": "paper",
            "pick": "felling",
            "size": "a4",
            "token": "none",
            "view": "plan",
            "form": "svg",
        }
        return reverse(route.name, kwargs={k: given[k] for k in route.pattern.converters})

    def test_every_route_names_a_permission_in_the_table(self):
        for route in self.routes():
            if route.name not in PUBLIC:
                self.assertTrue(set(getattr(route.callback, "permissions", ("none",))) <= set(TABLE), route.name)

    def test_an_unknown_permission_stops_the_program(self):
        with self.assertRaises(LookupError):
            permission("plan.everything")

    def test_strangers_are_sent_to_sign_in_and_other_crews_find_nothing(self):
        for route in self.routes():
            if route.name in PUBLIC:
                continue
            with self.subTest(route=route.name):
                self.client.logout()
                self.assertIn("/sign-in/", self.client.get(self.address(route)).headers["Location"])
                if "job_id" in route.pattern.converters:
                    self.client.force_login(self.other)
                    self.assertEqual(self.client.post(self.address(route)).status_code, 404)

    def test_a_ground_worker_reads_and_records_but_does_not_plan_or_sign(self):
        self.client.force_login(self.hand)
        keys = {"job_id": self.tree.job_id, "tree_id": self.tree.pk}
        for name in ("fell", "method"):
            page = self.client.get(reverse(name, kwargs=keys)).content.decode()
            self.assertIn("data-read-only", page)
            self.assertIn("<fieldset disabled>", page)
            self.assertNotIn("data-undo", page)
        for name in ("fell", "sign", "lay", "undo"):
            self.assertEqual(self.client.post(reverse(name, kwargs=keys)).status_code, 403, name)
        for name, act in (("site-edit", "delete"), ("tree-body-edit", "assume-none")):
            own = {k: v for k, v in keys.items() if k == "job_id" or name == "tree-body-edit"}
            self.assertEqual(self.client.post(reverse(name, kwargs=own), {"act": act}).status_code, 403, name)
        self.assertEqual(self.client.post(reverse("record", kwargs=keys), {"height": "26"}).status_code, 302)

    def test_scripts_come_from_here_only(self):
        policy = self.client.get(reverse("sign-in")).headers["Content-Security-Policy"]
        self.assertIn("script-src 'self'", policy)
        self.assertNotIn("unsafe", policy)
