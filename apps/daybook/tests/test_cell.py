"""A load cell's traces: whole seconds kept, gaps shown, a reader that was killed, a logger's file."""

import os
import socket
import subprocess
import sys
import threading
import time
from datetime import timedelta
from io import StringIO

from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import CommandError, call_command
from django.test import TestCase, TransactionTestCase
from django.urls import reverse
from django.utils import timezone

from apps.crews.models import Crew
from apps.crews.tests.scene import load_scene, whole_demo
from apps.daybook import cell_planner
from apps.daybook.models import Trace, TraceSecond
from apps.takedown import planner as takedown
from treecore.learning.cell import Gatherer
from treecore.units import GRAVITY


def seconds(*forces, unit="kN", begins=0.0):
    """Ten readings a second of each force, as the core gathers them."""
    gatherer, found = Gatherer(), []
    for n, force in enumerate(forces):
        for tenth in range(10):
            found += gatherer.line(f"{begins + n + tenth / 10},{force},{unit}")
    return found + list(gatherer.rest())


class Traces(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.crew, cls.person, fir = load_scene(whole_demo())
        cls.tree = fir.job.trees.get(name="Copper beech")
        cls.picks = takedown.plan_for(cls.tree).picks

    def setUp(self):
        self.client.force_login(self.person)
        self.keys = [self.tree.job_id, self.tree.pk, self.picks[8]["id"]]
        self.page = reverse("cell", args=self.keys)

    def listen(self, where="point"):
        self.client.post(self.page, {"where": where})
        return Trace.objects.get(open=True, where=where)

    def now(self, trace):
        return self.client.get(reverse("cell-now", args=[*self.keys[:2], trace.pk])).json()

    def test_seconds_go_under_the_pick_that_is_listened_to(self):
        listener = cell_planner.Listener(self.crew, "point")
        self.assertIsNone(listener.hear(seconds(1)[0]))  # nobody listens yet
        trace = self.listen()
        for second in seconds(0, 7.4, 2.1):
            listener.hear(second)
        said = self.now(trace)
        self.assertEqual((said["peak"], said["value"], said["seconds"]), ("7.40\xa0kN", "2.10\xa0kN", 3))
        self.assertNotIn("missing", said["said"])
        self.client.post(self.page, {"stop": "1"})
        self.assertIsNone(listener.hear(seconds(9)[0]))
        self.assertContains(self.client.get(self.page), "peak 7.40\xa0kN")

    def test_another_pick_ends_the_one_before(self):
        first = self.listen()
        self.client.post(reverse("cell", args=[*self.keys[:2], self.picks[9]["id"]]), {"where": "point"})
        self.assertFalse(Trace.objects.get(pk=first.pk).open)

    def test_a_reader_that_was_gone_leaves_a_gap_and_doubles_nothing(self):
        trace = self.listen()
        before = cell_planner.Listener(self.crew, "point")
        for second in seconds(1, 2):
            before.hear(second)
        Trace.objects.filter(pk=trace.pk).update(began=timezone.now() - timedelta(seconds=30))
        after = cell_planner.Listener(self.crew, "point")  # another process: it counts from its own first second
        for second in seconds(3, 4):
            after.hear(second)
        numbers = list(TraceSecond.objects.values_list("number", flat=True))
        self.assertEqual(numbers[:2], [0, 1])
        self.assertGreaterEqual(numbers[2], 28)
        said = self.now(trace)["said"]
        self.assertIn("a peak may be missing", said)
        self.assertEqual(len(self.client.get(self.page).context["drawing"]["gaps"]), 1)

    def test_what_hangs_between_rope_and_piece_is_its_weight_and_a_block_tells_none(self):
        for where, mass in (("piece", 1000.0 / GRAVITY), ("point", None)):
            trace = self.listen(where)
            listener = cell_planner.Listener(self.crew, where)
            for second in seconds(3, 1, 1, 1):
                listener.hear(second)
            found = cell_planner.weighed(trace)
            self.assertEqual(found is None, mass is None)
            if mass:
                self.assertAlmostEqual(found, mass, places=6)

    def test_the_simulated_motion_peaks_where_the_plan_says(self):
        rows = takedown.work_out(takedown.scene_of(self.tree), self.picks)
        forces = rows[8].held.forces
        for where, planned in (
            ("point", forces.on_point),
            ("base", forces.control_leg),
            ("piece", forces.peaks.motion),
        ):
            with self.subTest(where):
                trace, still = cell_planner.motion(self.tree, 9, where)
                self.assertAlmostEqual(max(f for _, f in trace) / planned.value, 1.0, delta=0.02)
                self.assertLess(still, planned.value)
        weight = rows[8].held.piece.mass.value * GRAVITY
        self.assertAlmostEqual(cell_planner.motion(self.tree, 9, "piece")[1], weight)

    def upload(self, text, **said):
        data = {"where": "point", "time": "t", "force": "F", "unit": "kN", **said}
        file = SimpleUploadedFile("run.csv", text.encode(), content_type="text/csv")
        return self.client.post(reverse("cell-file", args=self.keys), data | {"file": file}, follow=True)

    def test_a_loggers_file_with_its_own_columns_and_commas(self):
        self.upload("n;t;F\n1;0,00;0,1\n2;0,01;8,25\nx;y;z\n3;0,02;3,0\n")
        trace = Trace.objects.get()
        self.assertEqual(cell_planner.peak(trace), 8250.0)
        self.assertEqual(trace.source, "run.csv")

    def test_a_file_without_the_columns_says_so_and_keeps_nothing(self):
        self.assertContains(self.upload("a,b\n1,2\n"), "he file has no column")
        self.assertContains(self.upload("t,F\nx,y\n"), "o line of it has a time and a force")
        self.assertContains(self.upload("t\n1\n"), "nly one column")
        self.assertFalse(Trace.objects.exists())

    def test_lines_of_a_stream_cut_anywhere(self):
        parts = [b"0.1,1,k", b"N\n0.2,2,kN\n0.3,", b"3,kN\n0.4,4"]
        self.assertEqual(list(cell_planner.lines(parts)), ["0.1,1,kN", "0.2,2,kN", "0.3,3,kN"])  # the last never ended
        self.assertEqual(len(list(cell_planner.lines([b"x" * 20_001]))), 1)

    def test_a_pick_nothing_pulls_on_has_no_cell(self):
        with self.assertRaisesMessage(CommandError, "nothing pulls on a cell"):
            call_command("simulated_cell", tree=self.tree.pk, pick=1, stdout=StringIO())
        with self.assertRaisesMessage(CommandError, "there is no tree 999"):
            call_command("simulated_cell", tree=999, pick=1, stdout=StringIO())

    def test_whose_cell_it_is_has_to_be_said_among_several_yards(self):
        Crew.objects.create(name="Others")
        with self.assertRaisesMessage(CommandError, "say whose cell it is"):
            call_command("cell", once=True, stdout=StringIO())


class Reader(TransactionTestCase):
    """The reader as a process of its own, killed on the way."""

    def play(self, server, lines):
        stream, _ = server.accept()
        with stream:
            for line in lines:
                try:
                    stream.sendall(line.encode())
                except OSError:
                    return
                time.sleep(0.01)

    def test_killed_it_loses_at_most_the_second_it_was_in(self):
        _, person, tree = load_scene(whole_demo())
        trace = cell_planner.listen(tree, "felling", "point", person)
        lines = [f"{n / 50:.3f},{n},N\n" for n in range(2000)]
        with socket.create_server(("127.0.0.1", 0)) as server:
            threading.Thread(target=self.play, args=(server, lines), daemon=True).start()
            port = str(server.getsockname()[1])
            code = (
                "import django; from django.conf import settings; django.setup(); "
                f"settings.DATABASES['default']['NAME'] = {str(settings.DATABASES['default']['NAME'])!r}; "
                f"from django.core.management import call_command; call_command('cell', port={port}, once=True)"
            )
            process = subprocess.Popen(
                [sys.executable, "-c", code], cwd=settings.BASE_DIR, env={**os.environ,
                "DJANGO_SETTINGS_MODULE": "cantrel.settings"}, stdout=subprocess.DEVNULL,
            )  # fmt: skip
            while trace.seconds.count() < 4:
                time.sleep(0.05)
            process.kill()
            process.wait()
        kept = list(trace.seconds.all())
        self.assertGreaterEqual(len(kept), 4)
        self.assertEqual([len(s.readings) for s in kept], [50] * len(kept))  # each whole, or not there
        self.assertEqual([s.number - kept[0].number for s in kept], list(range(len(kept))))
