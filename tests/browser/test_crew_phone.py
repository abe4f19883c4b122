"""The crew's phone: records made without a signal, over a certificate of the machine's own, signed and lapsed."""

import asyncio
import os
import shutil
import socket
import ssl
import subprocess
import sys
import tempfile
import threading
import time
from contextlib import suppress
from pathlib import Path
from unittest import mock
from urllib.parse import urlsplit

from django.conf import settings
from django.db import connection
from django.test import override_settings
from django.urls import reverse
from selenium import webdriver

from apps.briefing import planner as briefing
from apps.crews.models import Person
from apps.crews.tests.scene import whole_demo
from apps.daybook import cell_planner
from apps.daybook.models import TraceSecond, WorkRecord
from apps.exchange.planner import import_document
from apps.survey import planner as survey
from apps.takedown import planner as takedown
from cantrel import lan
from cantrel import phone as front
from tests.browser.browser import FLAGS, BrowserTestCase

PHONE = {"width": 390, "height": 844, "deviceScaleFactor": 1, "mobile": True}


def _free():
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return probe.getsockname()[1]


class CrewPhone(BrowserTestCase):
    def setUp(self):
        super().setUp()
        job = import_document(self.crew, whole_demo())
        self.beech = job.trees.get(name="Copper beech")
        self.picks = takedown.plan_for(self.beech).picks
        self.page.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", PHONE)
        self.page.execute_cdp_cmd("Emulation.setTouchEmulationEnabled", {"enabled": True})

    def address(self, number=None):
        keys = [self.beech.job_id, self.beech.pk]
        path = (
            reverse("phone-pick", args=[*keys, self.picks[number - 1]["id"]]) if number else reverse("phone", args=keys)
        )
        return self.live_server_url + path

    def tap(self, selector):
        """A finger on it: a touch, not a click of a mouse."""
        place = self.page.execute_script(
            "const e = document.querySelector(arguments[0]); e.scrollIntoView({block: 'center'});"
            "const r = e.getBoundingClientRect(); return [r.x + r.width / 2, r.y + r.height / 2, r.width, r.height]",
            selector,
        )
        self.assertGreaterEqual(min(place[2:]), 44.0, f"{selector} is too small for a glove")
        for kind, points in (("touchStart", [{"x": place[0], "y": place[1]}]), ("touchEnd", [])):
            self.page.execute_cdp_cmd("Input.dispatchTouchEvent", {"type": kind, "touchPoints": points})

    def signal(self, there):
        """Cut the network, for the page and its service worker."""
        conditions = {"offline": not there, "latency": 0, "downloadThroughput": -1, "uploadThroughput": -1}
        self.page.execute_cdp_cmd("Network.enable", {})
        self.page.execute_cdp_cmd("Network.emulateNetworkConditions", conditions)

    def keep(self):
        """Open the list once, and wait until its pages are on the phone."""
        self.page.get(self.address())
        self.until(lambda: "39 of 39" in self.one("[data-kept]").text or "38 of 38" in self.one("[data-kept]").text)

    def queued(self):
        return self.page.execute_async_script(
            "const done = arguments[0]; idb.openDB('cantrel', 1).then(d => d.getAll('queue')).then(r => done(r.length))"
        )

    def test_by_touch_and_without_complaints(self):
        self.page.get(self.address(9))
        self.assertIn("North limb 1", self.one("h1").text)
        figure = self.one(".crewfigures dd b").text
        rows = takedown.work_out(takedown.scene_of(self.beech), self.picks)
        self.assertEqual(figure, takedown.turns_taken(rows[8].pick))
        hand = self.all(".crewfigures dd b")[1].text.replace("\u00a0", "")
        self.assertAlmostEqual(float(hand), rows[8].held.forces.hand.value, delta=0.51)
        self.tap("button[data-role=device]")
        self.until(lambda: "at the device" in self.one("[data-you]").text)
        self.assertTrue(self.one(".person.isme .me").is_displayed())
        self.no_complaints()
        self.tap(".crewnav .after")
        self.until(lambda: self.picks[9]["id"] in self.page.current_url)
        self.assertIn("at the device", self.one("[data-you]").text)  # who one is stays
        size = len(self.page.page_source.encode())
        self.assertLessEqual(size, 60_000)

    def test_recorded_in_seconds_and_what_is_typed_stays(self):
        self.page.get(self.address(3))
        self.tap("[data-time=started]")
        self.until(lambda: self.one("[data-time=started] b").text)
        self.tap(".crewrecord summary")
        self.type("wraps", "2.5")
        self.page.get(self.address(4))
        self.page.get(self.address(3))  # gone away and come back
        self.until(lambda: self.one("[name=wraps]").get_attribute("value") == "2.5")
        self.assertTrue(self.one("[data-time=started] b").text)
        self.tap("[data-time=ended]")
        self.tap(".crewrecord > form > button.strong")
        self.until(lambda: "recorded" in self.one("[data-outcome]").text)
        row = WorkRecord.objects.get()
        self.assertEqual((row.wraps, row.done, row.person), (2.5, "planned", self.person))
        self.assertLess((row.ended - row.started).total_seconds(), 120.0)

    def test_without_a_signal_kept_then_sent_once(self):
        self.keep()
        self.page.get(self.address(3))
        self.until(lambda: self.page.execute_script("return navigator.serviceWorker.controller !== null"))
        self.signal(False)
        self.page.get(self.address(5))  # never opened before
        self.assertIn("South limb 3", self.one("h1").text)
        self.tap(".crewrecord > form > button.strong")
        self.until(lambda: "waits for a signal" in self.one("[data-outcome]").text)
        self.page.get(self.address(6))
        self.tap(".crewrecord > form > button.strong")
        self.until(lambda: "waits for a signal" in self.one("[data-outcome]").text)
        self.page.get(self.address())
        self.until(lambda: len(self.all("[data-waiting] li")) == 2)
        self.assertFalse(WorkRecord.objects.exists())
        self.signal(True)
        self.page.get(self.address())
        self.until(lambda: WorkRecord.objects.count() == 2 and self.queued() == 0)
        self.page.get(self.address())
        time.sleep(1)
        self.assertEqual(WorkRecord.objects.count(), 2)
        self.assertEqual({r.number for r in WorkRecord.objects.all()}, {5, 6})
        self.assertIn("recorded", self.one(f"[data-state={self.picks[4]['id']}]").text)

    def test_refused_waits_for_a_person_and_loses_nothing(self):
        self.page.get(self.address(3))
        self.tap(".crewrecord summary")
        self.type("mass", "40000")
        self.page.execute_script("document.querySelector('[name=mass_by]').value = 'cell'")
        self.signal(False)
        self.tap(".crewrecord > form > button.strong")
        self.until(lambda: self.queued() == 1)
        self.signal(True)
        self.page.get(self.address())
        self.until(lambda: "more than the whole tree weighs" in self.one("[data-waiting]").text)
        self.one("[data-waiting] li button").click()  # change it
        self.until(lambda: self.picks[2]["id"] in self.page.current_url)
        self.until(lambda: self.one("[name=mass]").get_attribute("value") == "40000")
        self.assertFalse(WorkRecord.objects.exists())

    def test_two_phones_record_one_pick(self):
        first = WorkRecord.objects.create(tree=self.beech, pick=self.picks[2]["id"], number=3, what="x", by="Bram")
        self.page.get(self.address(3))
        self.tap(".crewrecord > form > button.strong")
        self.until(lambda: "recorded by Bram already" in self.one("[data-outcome]").text)
        self.assertEqual(WorkRecord.objects.filter(counts=True).get(), first)
        self.assertEqual(WorkRecord.objects.count(), 2)

    def test_signed_by_the_crew_changed_and_lapsed(self):
        self.page.execute_cdp_cmd("Emulation.clearDeviceMetricsOverride", {})
        self.beech.answers.all().delete()
        for gate in survey.open_gates(self.beech):
            survey.answer(self.beech, gate.hazard.key, {"finding": "absent"}, self.person)
        seen = briefing.keep_seen(briefing.document(self.beech))
        self.assertEqual((briefing.blocks(self.beech), briefing.sign(self.beech, self.person, seen)), ([], ""))
        Person.objects.create_user(
            "ines", password="far-up-high", crew=self.crew, role="hand", first_name="Ines Pargeter"
        )
        other = self.page
        self.page = self.started()
        self.page.get(f"{self.live_server_url}/sign-in/")
        self.type("username", "ines")
        self.type("password", "far-up-high\n")
        self.until(lambda: "/sign-in/" not in self.page.current_url)
        self.page.get(self.address())
        self.one("form button.strong").click()
        self.until(lambda: not self.all("form button.strong"))
        self.assertNotIn("Not signed as it stands", self.one("main").text)
        self.page = other
        plan = takedown.plan_for(self.beech)
        takedown.keep(plan, [plan.picks[0], plan.picks[1] | {"wraps": 3.5}, *plan.picks[2:]])
        self.page.get(self.address())
        self.assertIn("Not signed as it stands", self.one("main").text)
        number = self.beech.signoffs.get().pk
        self.page.get(self.live_server_url + reverse("plan-changes", args=[self.beech.job_id, self.beech.pk, number]))
        self.assertIn("Wraps", self.one("main table").text)
        self.assertIn("3.5", self.one("main table").text)

    def test_a_live_cell_follows_the_stand_in(self):
        self.page.execute_cdp_cmd("Emulation.clearDeviceMetricsOverride", {})
        code = (
            "import django; from django.conf import settings; django.setup(); "
            f"settings.DATABASES['default']['NAME'] = {str(connection.settings_dict['NAME'])!r}; "
            "from django.core.management import call_command; call_command({call})"
        )
        port = _free()
        stand_in = (
            f"'simulated_cell', tree={self.beech.pk}, pick=9, port={port}, wait=2.0, hang=8.0, noise=5.0, once=True"
        )
        reader = f"'cell', port={port}, yard={self.crew.name!r}"
        env = {**os.environ, "DJANGO_SETTINGS_MODULE": "cantrel.settings"}
        url = reverse("cell", args=[self.beech.job_id, self.beech.pk, self.picks[8]["id"]])
        self.page.get(self.live_server_url + url)
        self.page.execute_script("document.querySelector('[name=where]').value = 'point'")
        self.one("form button.strong").click()
        self.until(lambda: self.all("[data-trace]"))
        for call in (stand_in, reader):
            command = [sys.executable, "-c", code.replace("{call}", call)]
            process = subprocess.Popen(command, env=env, cwd=settings.BASE_DIR, stdout=subprocess.DEVNULL)
            self.addCleanup(process.wait)
            self.addCleanup(process.kill)
        trace, still = cell_planner.motion(self.beech, 9, "point")
        peak = max(force for _, force in trace)
        said = lambda name: self.one(f"[data-cell={name}]").text.replace("\u00a0", " ")  # noqa: E731
        self.until(lambda: said("peak")[:1].isdigit() and abs(float(said("peak").split()[0]) - peak / 1000.0) < 0.1)
        self.until(lambda: abs(float(said("value").split()[0]) - still / 1000.0) < 0.1)
        self.assertGreater(TraceSecond.objects.count(), 3)


class OverTls(BrowserTestCase):
    """A phone that trusts the machine's own authority: nothing is ignored."""

    def trusting(self, authority):
        home = tempfile.mkdtemp()
        self.addCleanup(shutil.rmtree, home, ignore_errors=True)
        store = Path(home) / ".pki" / "nssdb"
        store.mkdir(parents=True)
        for words in (["-N", "--empty-password"], ["-A", "-t", "C,,", "-n", "cantrel", "-i", str(authority)]):
            subprocess.run(["certutil", "-d", f"sql:{store}", *words], check=True)
        options = webdriver.ChromeOptions()
        for flag in (*FLAGS, f"--user-data-dir={home}/profile"):
            options.add_argument(flag)
        options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
        options.binary_location = shutil.which("chromium")
        service = webdriver.ChromeService(shutil.which("chromedriver"), env={**os.environ, "HOME": home})
        page = webdriver.Chrome(options=options, service=service)
        self.addCleanup(page.quit)
        return page

    def test_its_pages_are_kept_over_https_and_a_stranger_is_not_trusted(self):
        folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, folder, ignore_errors=True)
        found = lan.certificates(folder, "127.0.0.1")
        inner, outer, plain = urlsplit(self.live_server_url).port, _free(), _free()
        with mock.patch.object(lan, "TLS_PORT", outer), mock.patch.object(lan, "TRUST_PORT", plain):
            running = {}
            thread = threading.Thread(target=asyncio.run, args=(self.serve(running, inner, found),), daemon=True)
            thread.start()
            with override_settings(CSRF_TRUSTED_ORIGINS=[f"https://127.0.0.1:{outer}"]):
                self.through(f"https://127.0.0.1:{outer}", f"http://127.0.0.1:{plain}", found)
            self.page.quit()
            running["loop"].call_soon_threadsafe(running["task"].cancel)
            thread.join(20)

    async def serve(self, running, inner, found):
        running |= {"loop": asyncio.get_running_loop(), "task": asyncio.current_task()}
        with suppress(asyncio.CancelledError):
            await front.front(inner, found)

    def through(self, program, trust, found):
        self.page.get(trust)
        self.assertIn("Trust this machine", self.page.page_source)
        self.assertIn(front.mark(found.authority), self.page.page_source)
        context = ssl.create_default_context()
        with (
            self.assertRaises(ssl.SSLCertVerificationError),
            socket.create_connection(("127.0.0.1", urlsplit(program).port), timeout=10) as stream,
        ):
            context.wrap_socket(stream, server_hostname="127.0.0.1")
        self.page = self.trusting(found.authority)
        self.page.get(f"{program}/sign-in/")
        self.type("username", "mara")
        self.type("password", "kestrel-lane\n")
        self.until(lambda: "/sign-in/" not in self.page.current_url)
        self.page.get(program + reverse("phone", args=[self.tree.job_id, self.tree.pk]))
        self.assertTrue(self.page.execute_script("return window.isSecureContext"))
        self.until(lambda: "of" in self.one("[data-kept]").text and self.one("[data-kept]").text[:1].isdigit())
        self.page.get(program + reverse("phone-pick", args=[self.tree.job_id, self.tree.pk, "felling"]))
        self.page.execute_script("arguments[0].click()", self.one(".crewrecord > form > button.strong"))
        self.until(lambda: WorkRecord.objects.filter(pick="felling").exists())
        self.assertFalse([x for x in self.page.get_log("browser") if "certificate" in x["message"].lower()])
