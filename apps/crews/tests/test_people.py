"""People come in, do what their role lets them, forget passwords, show a second factor, and leave."""

import re
from datetime import timedelta

import pyotp
from django.contrib.sessions.models import Session
from django.core import mail
from django.core.management import CommandError, call_command
from django.test import TestCase, override_settings
from django.urls import reverse
from django.utils import timezone

from apps.crews import people_planner, throttle
from apps.crews.models import Crew, Invitation, Person, SignIn
from apps.jobs.models import Job

WORD = "Sorrel-Bank-77"


class Yard(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.crew = Crew.objects.create(name="Alder Yard")
        cls.owner = Person.objects.create_user("maren", password=WORD, crew=cls.crew, role="owner")
        cls.job = Job.objects.create(crew=cls.crew, name="Kestrel Lane")

    def setUp(self):
        self.client.force_login(self.owner)

    def person(self, name, role="planner", **more):
        return Person.objects.create_user(name, password=WORD, crew=self.crew, role=role, **more)

    def link(self, page):
        return re.search(r'class="link"[^>]*value="http://testserver([^"]+)"', page.content.decode())[1]

    def invited(self, name="Ned Ash", role="planner", **more):
        page = self.client.post(reverse("invite"), {"name": name, "role": role, **more}, follow=True)
        return self.link(page)

    def try_in(self, name, word, **more):
        return self.client.post(reverse("sign-in"), {"username": name, "password": word}, **more)


class ComingIn(Yard):
    COMING = {"username": "ned", "first_name": "Ned", "last_name": "Ash", "password": WORD, "again": WORD}

    def test_by_an_invitation_once_with_a_password_of_ones_own(self):
        link = self.invited()
        self.client.logout()
        for word, why in (("kestrel", "too short"), ("password1234", "too common"), ("193847561920", "numeric")):
            with self.subTest(why=why):
                page = self.client.post(link, self.COMING | {"password": word, "again": word})
                self.assertContains(page, why)
        self.assertContains(self.client.post(link, self.COMING | {"again": "Other-Word-9"}), "error")
        self.assertRedirects(self.client.post(link, self.COMING), reverse("jobs"))
        ned = Person.objects.get(username="ned")
        self.assertEqual((ned.crew, ned.role, ned.shown_name()), (self.crew, "planner", "Ned Ash"))
        self.client.logout()
        self.assertEqual(self.client.get(link).status_code, 403, "it works once")
        self.assertNotIn(link.split("/")[2], str(list(Invitation.objects.values())), "only its digest is kept")

    def test_a_name_is_taken_however_it_is_written(self):
        link = self.invited()
        self.client.logout()
        self.assertContains(self.client.post(link, self.COMING | {"username": "MAREN"}), "error")

    def test_an_invitation_ends_with_its_time_its_giver_and_when_it_is_taken_back(self):
        for end in ("time", "giver", "back"):
            with self.subTest(end=end):
                self.client.force_login(self.owner)
                link, row = self.invited(), Invitation.objects.latest("pk")
                if end == "time":
                    Invitation.objects.filter(pk=row.pk).update(until=timezone.now() - timedelta(seconds=1))
                elif end == "back":
                    self.client.post(reverse("withdraw", args=[row.pk]))
                else:
                    Person.objects.filter(pk=self.owner.pk).update(is_active=False)
                self.client.logout()
                self.assertEqual(self.client.post(link, self.COMING).status_code, 403)
                Person.objects.filter(pk=self.owner.pk).update(is_active=True)
        self.assertFalse(Person.objects.filter(username="ned").exists())

    def test_a_guest_sees_one_job_and_nothing_else(self):
        other = Job.objects.create(crew=self.crew, name="Far Field")
        link = self.invited("Tam Reed", "guest", only_job=str(self.job.pk))
        self.client.logout()
        self.client.post(link, self.COMING | {"username": "tam"})
        self.assertEqual(self.client.get(reverse("job", args=[self.job.pk])).status_code, 200)
        for page in (reverse("job", args=[other.pk]), reverse("gear"), reverse("people"), reverse("species-table")):
            self.assertEqual(self.client.get(page).status_code, 403, page)
        self.assertNotContains(self.client.get(reverse("jobs")), "Far Field")

    @override_settings(EMAIL_BACKEND="django.core.mail.backends.locmem.EmailBackend")
    def test_mail_where_it_is_set(self):
        self.invited(email="ned@alder.example")
        self.assertEqual(mail.outbox[0].to, ["ned@alder.example"])
        self.assertIn("/join/", mail.outbox[0].body)

    def test_the_first_owner_by_page_on_this_machine_or_by_command(self):
        with self.assertRaisesMessage(CommandError, "there already"):
            call_command("owner", "maren", yard="Another")
        self.assertEqual(self.client.get(reverse("first")).status_code, 403)
        Job.objects.all().delete()
        Person.objects.all().delete()
        Crew.objects.all().delete()
        self.client.logout()
        sent = self.COMING | {"yard": "Alder Yard"}
        self.client.post(reverse("first"), sent, REMOTE_ADDR="192.0.2.7")
        self.assertFalse(Person.objects.exists(), "from elsewhere only the command makes one")
        self.assertRedirects(self.client.get(reverse("sign-in")), reverse("first"))
        self.assertRedirects(self.client.post(reverse("first"), sent), reverse("people"))
        self.assertEqual(Person.objects.get().role, "owner")


class Passwords(Yard):
    def test_a_forgotten_one_by_an_owners_link_once(self):
        ned = self.person("ned")
        there = self.client_class()
        there.force_login(ned)
        link = self.link(self.client.post(reverse("reset-link", args=[ned.pk]), follow=True))
        self.client.logout()
        new = {"password": "Other-Word-99", "again": "Other-Word-99"}
        self.client.post(link, new)
        self.assertEqual(self.client.post(link, new).status_code, 403)
        self.client.logout()
        self.assertEqual(self.try_in("ned", WORD).status_code, 200)
        self.assertRedirects(self.try_in("ned", "Other-Word-99"), reverse("jobs"))
        self.assertEqual(there.get(reverse("jobs")).status_code, 302, "whoever was in is out")

    def test_ones_own_is_changed_with_the_old_one(self):
        new = {"password": "Other-Word-99", "again": "Other-Word-99"}
        self.client.post(reverse("account-password"), new | {"old": "wrong"})
        self.owner.refresh_from_db()
        self.assertTrue(self.owner.check_password(WORD))
        self.client.post(reverse("account-password"), new | {"old": WORD})
        self.owner.refresh_from_db()
        self.assertTrue(self.owner.check_password("Other-Word-99"))
        self.assertEqual(self.client.get(reverse("account")).status_code, 200, "who changed it stays in")

    def test_another_yards_people_are_not_there(self):
        other = Person.objects.create_user("far", crew=Crew.objects.create(name="Far"), role="owner")
        for route in ("person", "leave", "reset-link"):
            self.assertEqual(self.client.post(reverse(route, args=[other.pk])).status_code, 404, route)


class SecondFactor(Yard):
    def setUp(self):
        self.secret = people_planner.new_secret()
        self.codes = people_planner.start_second(self.owner, self.secret, pyotp.TOTP(self.secret).now())
        self.owner.refresh_from_db()

    def code(self, steps=1):
        return pyotp.TOTP(self.secret).at(timezone.now() + timedelta(seconds=30 * steps))

    def test_a_password_alone_does_not_come_in(self):
        self.assertRedirects(self.try_in("maren", WORD), reverse("second"))
        self.assertEqual(self.client.get(reverse("jobs")).status_code, 302)
        self.assertContains(self.client.post(reverse("second"), {"code": "000000"}), "not right")
        self.assertRedirects(self.client.post(reverse("second"), {"code": self.code()}), reverse("jobs"))

    def test_each_code_works_once_and_a_rescue_code_too(self):
        code = self.code()
        self.assertTrue(people_planner.second_fits(self.owner, code))
        self.assertFalse(people_planner.second_fits(self.owner, code))
        self.assertFalse(people_planner.second_fits(self.owner, self.code(0)), "an earlier one after a later one")
        self.assertTrue(people_planner.second_fits(self.owner, self.codes[0].upper()))
        self.assertFalse(people_planner.second_fits(self.owner, self.codes[0]))
        self.assertFalse(people_planner.second_fits(self.owner, "٠٠٠٠٠٠"))

    def test_it_is_taken_off_with_the_password_only(self):
        self.client.force_login(self.owner)
        for word, left in (("wrong", True), (WORD, False)):
            self.client.post(reverse("account-second-off"), {"password": word})
            self.owner.refresh_from_db()
            self.assertEqual(bool(self.owner.second_factor), left)


class Guessing(Yard):
    def setUp(self):
        pass

    def test_a_name_from_an_address_waits_after_a_few(self):
        for _ in range(throttle.BY_NAME_AND_ADDRESS):
            self.assertEqual(self.try_in("maren", "wrong").status_code, 200)
        held = self.try_in("maren", WORD)
        self.assertEqual((held.status_code, held["Retry-After"]), (429, "900"))
        self.assertEqual(self.try_in("maren", WORD, REMOTE_ADDR="192.0.2.9").status_code, 302, "elsewhere they come in")
        SignIn.objects.update(at=timezone.now() - throttle.SPAN - timedelta(seconds=1))
        self.assertEqual(self.try_in("maren", WORD).status_code, 302)

    def test_an_address_that_tries_many_names_and_a_name_tried_from_many(self):
        for n in range(throttle.BY_ADDRESS):
            SignIn.objects.create(name=f"n{n}", address="192.0.2.1", outcome=SignIn.Outcome.REFUSED)
        self.assertTrue(throttle.held("maren", "192.0.2.1"))
        self.assertFalse(throttle.held("maren", "192.0.2.2"))
        SignIn.objects.create(name="maren", address="192.0.2.2", outcome=SignIn.Outcome.IN)
        for n in range(throttle.BY_NAME):
            SignIn.objects.create(name="Maren", address=f"198.51.100.{n}", outcome=SignIn.Outcome.REFUSED)
        self.assertTrue(throttle.held("maren", "203.0.113.5"))
        self.assertFalse(throttle.held("maren", "192.0.2.2"), "where they usually come from they still may")

    def test_guesses_take_two_places_of_a_process_and_no_more(self):
        with throttle.in_turn() as first:
            self.assertTrue(first)
            self.assertTrue(throttle._places.acquire(blocking=False))
            with throttle.in_turn() as third:
                self.assertFalse(third)
            throttle._places.release()

    def test_who_is_in_and_guesses_a_password_is_held_too(self):
        self.client.force_login(self.owner)
        for _ in range(throttle.BY_NAME_AND_ADDRESS + 1):
            self.client.post(reverse("account-password"), {"old": "x", "password": WORD, "again": WORD})
        self.client.post(
            reverse("account-password"), {"old": WORD, "password": "Other-Word-99", "again": "Other-Word-99"}
        )
        self.owner.refresh_from_db()
        self.assertTrue(self.owner.check_password(WORD))


class Leaving(Yard):
    def test_who_leaves_is_out_at_once_and_keeps_their_name(self):
        ned = self.person("ned", first_name="Ned")
        there = self.client_class()
        there.post(reverse("sign-in"), {"username": "ned", "password": WORD})
        self.assertEqual(there.get(reverse("jobs")).status_code, 200)
        self.client.post(reverse("leave", args=[ned.pk]))
        self.assertEqual(there.get(reverse("jobs")).status_code, 302)
        self.assertContains(self.client.get(reverse("people")), "Ned")
        self.assertEqual(there.post(reverse("sign-in"), {"username": "ned", "password": WORD}).status_code, 200)

    def test_the_only_owner_can_neither_leave_nor_become_less(self):
        self.client.post(reverse("leave", args=[self.owner.pk]))
        self.client.post(reverse("person", args=[self.owner.pk]), {"role": "hand"})
        self.owner.refresh_from_db()
        self.assertEqual((self.owner.is_active, self.owner.role), (True, "owner"))
        ned = self.person("ned", "owner")
        self.client.post(reverse("person", args=[ned.pk]), {"role": "hand"})
        ned.refresh_from_db()
        self.assertEqual(ned.role, "hand")

    def test_sessions_are_seen_and_ended(self):
        self.client.logout()
        other = self.client_class()
        for client in (self.client, other):
            client.post(reverse("sign-in"), {"username": "maren", "password": WORD})
        self.assertEqual(len(people_planner.sessions_of(self.owner)), 2)
        self.client.post(reverse("account-sessions"), {"end": "others"})
        self.assertEqual(other.get(reverse("jobs")).status_code, 302)
        self.assertEqual(self.client.get(reverse("jobs")).status_code, 200)
        other.post(reverse("sign-in"), {"username": "maren", "password": WORD})
        row = self.owner.sign_ins.latest("pk")
        self.client.post(reverse("account-sessions"), {"end": str(row.pk)})
        self.assertEqual(other.get(reverse("jobs")).status_code, 302)
        self.assertEqual(Session.objects.count(), 1)
