"""Every route by every role, method and yard: the table of permissions is what the server does."""

from django.test import TestCase
from django.urls import NoReverseMatch, get_resolver, reverse

from apps.crews.models import Crew, Person
from apps.crews.permissions import ANYWHERE, EVERYBODY, TABLE
from apps.crews.tests.scene import load_scene
from apps.jobs.models import Job

# Routes without a guard of the table: for people who are not in, or about to be.
OPEN = {"sign-in", "sign-out", "first", "second", "join", "reset", "worker", "manifest"}


def routes():
    """Every named route with its view and the names of its arguments."""
    found = get_resolver().reverse_dict
    for name in sorted(key for key in found if isinstance(key, str)):
        *_, converters = found.getlist(name)[0]
        yield name, sorted(converters)


class Table(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.crew, _, cls.tree = load_scene()
        cls.job = cls.tree.job
        cls.beside = Job.objects.create(crew=cls.crew, name="Beside")
        cls.people = {
            role: Person.objects.create_user(
                role, crew=cls.crew, role=role, only_job=cls.job if role == "guest" else None
            )
            for role in EVERYBODY
        }
        far = Crew.objects.create(name="Far Yard")
        cls.far_job = Job.objects.create(crew=far, name="Far")
        cls.far = Person.objects.create_user("far", crew=far, role="owner")

    def address(self, name, arguments, job, tree=None):
        known = {"job_id": job.pk, "tree_id": tree.pk if tree else 1}
        try:
            return reverse(name, kwargs={key: known.get(key, 1 if key != "scope" else "body") for key in arguments})
        except NoReverseMatch:
            return reverse(name, kwargs={key: known.get(key, "wind") for key in arguments})

    def test_every_route_has_a_guard_or_is_open_to_strangers(self):
        for name, arguments in routes():
            view = get_resolver().resolve(self.address(name, arguments, self.job, self.tree)).func
            with self.subTest(name=name):
                self.assertTrue(hasattr(view, "permissions") or name in OPEN)

    def test_route_by_role_by_method(self):
        """A role without the permission is refused by 403 on every route, one with it never is."""
        tried = 0
        for name, arguments in routes():
            address = self.address(name, arguments, self.job, self.tree)
            guard = getattr(get_resolver().resolve(address).func, "permissions", None)
            if guard is None:
                continue
            for role, person in self.people.items():
                self.client.force_login(person)
                for method, needed in (("get", guard[0]), ("post", guard[1])):
                    tried += 1
                    may = role in TABLE[needed] and (role != "guest" or needed in ANYWHERE or "job_id" in arguments)
                    answer = getattr(self.client, method)(address)
                    with self.subTest(name=name, role=role, method=method):
                        if may:
                            self.assertNotEqual(answer.status_code, 403)
                        else:
                            self.assertIn(answer.status_code, (403, 405))  # 405: it does not exist for anybody
            Person.objects.filter(pk__in=[p.pk for p in self.people.values()]).update(is_active=True)
        self.assertGreater(tried, 500)

    def test_nothing_of_another_yard_is_there(self):
        """For whoever may do most in their own yard, and for a guest beside their job."""
        for who, job in (
            (self.people["owner"], self.far_job),
            (self.far, self.job),
            (self.people["guest"], self.beside),
        ):
            self.client.force_login(who)
            for name, arguments in routes():
                if "job_id" not in arguments:
                    continue
                for method in ("get", "post"):
                    answer = getattr(self.client, method)(self.address(name, arguments, job, self.tree))
                    with self.subTest(who=who.username, name=name, method=method):
                        self.assertIn(answer.status_code, (403, 404, 405))

    def test_strangers_are_asked_to_sign_in(self):
        self.client.logout()
        for name, arguments in routes():
            if name in OPEN:
                continue
            for method in ("get", "post"):
                answer = getattr(self.client, method)(self.address(name, arguments, self.job, self.tree))
                with self.subTest(name=name, method=method):
                    self.assertRedirects(answer, answer["Location"], fetch_redirect_response=False)
                    self.assertTrue(answer["Location"].startswith(reverse("sign-in")))
        script = self.client.post(
            reverse("fell", args=[self.job.pk, self.tree.pk]), headers={"X-Requested-With": "fetch"}
        )
        self.assertEqual((script.status_code, script.json()), (401, {"signed_out": True}))
