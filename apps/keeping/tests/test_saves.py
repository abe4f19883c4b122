"""Saves made while others write, brought back, and what a kill leaves: real commands, a real server, real files."""

import http.client
import json
import os
import shutil
import signal
import socket
import sqlite3
import subprocess
import sys
import tempfile
import threading
import time
import uuid
import zipfile
from contextlib import closing
from datetime import datetime, timedelta
from pathlib import Path
from urllib.parse import urlencode

from django.conf import settings
from django.test import SimpleTestCase

WRITER = """
from apps.crews.models import Crew
from apps.jobs.models import Job
crew, n = Crew.objects.get(), 0
while True:
    Job.objects.create(crew=crew, name=f"Written {n}")
    print(n, flush=True)
    n += 1
"""


class Machine(SimpleTestCase):
    """A data folder of its own with the demo in it, and the program's own commands on it."""

    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        cls.fresh = Path(tempfile.mkdtemp(prefix="cantrel-"))
        cls.addClassCleanup(shutil.rmtree, cls.fresh, ignore_errors=True)
        cls.run_in(cls.fresh, "migrate", "-v0")
        cls.run_in(cls.fresh, "collectstatic", "--noinput", "-v0")
        cls.run_in(cls.fresh, "load_demo", "--plans")

    def setUp(self):
        self.var = Path(tempfile.mkdtemp(prefix="cantrel-"))
        self.addCleanup(shutil.rmtree, self.var, ignore_errors=True)
        shutil.copytree(self.fresh, self.var, dirs_exist_ok=True)

    @classmethod
    def env(cls, var, **more):
        return os.environ | {"CANTREL_VAR": str(var), "CANTREL_NIGHTLY": "off"} | more

    @classmethod
    def run_in(cls, var, *words, good=True):
        call = [sys.executable, "manage.py", *map(str, words)]
        done = subprocess.run(
            call, cwd=settings.BASE_DIR, env=cls.env(var), capture_output=True, text=True, check=False
        )
        if good and done.returncode:
            raise AssertionError(done.stderr)
        return done

    def writing(self):
        """Somebody who writes one job after the other and says each that is stored."""
        call = [sys.executable, "manage.py", "shell", "-v0", "-c", WRITER]
        made = subprocess.Popen(call, cwd=settings.BASE_DIR, env=self.env(self.var), stdout=subprocess.PIPE, text=True)
        self.addCleanup(made.stdout.close)
        self.addCleanup(made.wait)
        self.addCleanup(made.kill)
        made.stdout.readline()
        return made

    def names(self, database):
        with closing(sqlite3.connect(f"file:{database}?mode=ro", uri=True)) as opened:
            self.assertEqual(opened.execute("pragma integrity_check").fetchall(), [("ok",)])
            return {row[0] for row in opened.execute("select name from jobs_job")}


class Saves(Machine):
    def test_under_load_then_killed_then_restored(self):
        (self.var / "media" / "jobs").mkdir(parents=True)
        (self.var / "media" / "jobs" / "p.jpg").write_bytes(b"a picture")
        writer = self.writing()
        saves = [self.var / f"save-{n}.zip" for n in range(3)]
        for to in saves:
            self.run_in(self.var, "backup", to)
        time.sleep(0.3)
        os.kill(writer.pid, signal.SIGKILL)
        said = [f"Written {line.strip()}" for line in writer.stdout if line.endswith("\n")]
        now = self.names(self.var / "cantrel.sqlite3")
        self.assertLessEqual(set(said), now, "what was said to be stored is stored")
        counts = []
        for to in saves:
            self.assertIn("is whole", self.run_in(self.var, "backup", "--verify", to).stdout)
            with zipfile.ZipFile(to) as packed:
                counts.append(json.loads(packed.read("manifest.json"))["rows"]["jobs_job"])
        self.assertEqual(counts, sorted(counts))
        self.assertGreater(counts[-1], counts[0], "others went on writing")
        (self.var / "media" / "jobs" / "p.jpg").unlink()
        key = (self.var / "secret_key").read_bytes()
        (self.var / "secret_key").write_text("another")
        done = self.run_in(self.var, "restore", saves[0])
        self.assertEqual(len(self.names(self.var / "cantrel.sqlite3")), counts[0])
        self.assertEqual((self.var / "media" / "jobs" / "p.jpg").read_bytes(), b"a picture")
        self.assertEqual((self.var / "secret_key").read_bytes(), key)
        before = Path(done.stdout.strip().rpartition(" ")[2])
        self.run_in(self.var, "restore", before)
        self.assertEqual(self.names(self.var / "cantrel.sqlite3"), now, "what was there was saved first")

    def test_a_save_that_is_cut_off_changed_or_newer_is_refused(self):
        good = self.var / "good.zip"
        self.run_in(self.var, "backup", good)
        whole, names = good.read_bytes(), self.names(self.var / "cantrel.sqlite3")
        with zipfile.ZipFile(good) as packed:
            parts = {name: packed.read(name) for name in packed.namelist()}
        manifest = json.loads(parts["manifest.json"])
        newer = json.dumps(manifest | {"migrations": [*manifest["migrations"], ["jobs", "9999_later"]]}).encode()
        fewer = json.dumps(manifest | {"rows": manifest["rows"] | {"jobs_job": 7}}).encode()
        changed = {"newer": parts | {"manifest.json": newer}, "fewer": parts | {"manifest.json": fewer}}
        changed["other key"] = parts | {"secret_key": b"another"}
        changed["no database"] = {k: v for k, v in parts.items() if k != "cantrel.sqlite3"}
        bad = {"cut off": whole[: len(whole) // 2], "empty": b""}
        for name, some in changed.items():
            to = self.var / "made.zip"
            with zipfile.ZipFile(to, "w") as packed:
                for part, content in some.items():
                    packed.writestr(part, content)
            bad[name] = to.read_bytes()
        for name, content in bad.items():
            with self.subTest(name=name):
                odd = self.var / "odd.zip"
                odd.write_bytes(content)
                done = self.run_in(self.var, "restore", odd, good=False)
                self.assertEqual((done.returncode, "Traceback" in done.stderr), (1, False), done.stderr)
                self.assertEqual(self.names(self.var / "cantrel.sqlite3"), names)
        self.assertEqual(self.run_in(self.var, "backup", good, good=False).returncode, 1, "nothing is written over")

    def test_before_tables_change_and_every_night(self):
        self.run_in(self.var, "migrate", "-v0")
        self.assertFalse((self.var / "backups").exists(), "nothing would change")
        with closing(sqlite3.connect(self.var / "cantrel.sqlite3")) as opened:
            opened.execute("delete from django_migrations where app = 'jobs' and name = '0014_staging'")
            opened.execute("alter table jobs_job drop column staging")
            opened.execute("alter table jobs_historicaljob drop column staging")
            opened.commit()
        self.run_in(self.var, "migrate")
        self.assertEqual(len(list((self.var / "backups").glob("before-migration-*.zip"))), 1)
        old = datetime.now() - timedelta(days=15)
        for day in (old, old + timedelta(days=2)):
            (self.var / "backups" / f"nightly-{day:%Y-%m-%d}.zip").write_bytes(b"")
        said = self.run_in(self.var, "nightly").stdout
        self.assertIn("saved to", said)
        self.assertIn("there already", self.run_in(self.var, "nightly").stdout)
        kept = sorted(path.name for path in (self.var / "backups").glob("nightly-*"))
        self.assertEqual(len(kept), 2)
        self.assertNotIn(f"nightly-{old:%Y-%m-%d}.zip", kept)


class Served(Machine):
    def serve(self):
        with closing(socket.socket()) as free:
            free.bind(("127.0.0.1", 0))
            self.port = free.getsockname()[1]
        env = self.env(self.var, CANTREL_PORT=str(self.port), CANTREL_WORKERS="2")
        call = [sys.executable, "-m", "cantrel.serve"]
        made = subprocess.Popen(
            call, cwd=settings.BASE_DIR, env=env, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
        )
        self.addCleanup(made.wait)
        self.addCleanup(made.kill)
        until = time.monotonic() + 60
        while time.monotonic() < until:
            try:
                if self.ask("GET", "/ready/")[0] == 200:
                    return made
            except OSError:
                time.sleep(0.1)
        raise AssertionError

    def ask(self, method, path, body=None, headers=None):
        with closing(http.client.HTTPConnection("127.0.0.1", self.port, timeout=30)) as there:
            there.request(method, path, body, headers or {})
            answer = there.getresponse()
            return answer.status, dict(answer.getheaders()), answer.read().decode()

    def raw(self, text):
        """What is answered to bytes no library would send."""
        with closing(socket.create_connection(("127.0.0.1", self.port), timeout=30)) as there:
            there.sendall(text)
            return there.recv(4000).decode(errors="replace")

    def test_bodies_are_bounded_before_they_are_read_and_a_kill_takes_every_process(self):
        server = self.serve()
        head = b"POST /sign-in/ HTTP/1.1\r\nHost: 127.0.0.1\r\n"
        for sent in (
            head + b"Content-Length: 999999999999\r\n\r\n",
            head + b"Content-Length: 50000000\r\nExpect: 100-continue\r\n\r\n",
        ):
            self.assertRegex(self.raw(sent), r"^HTTP/1.1 413")
        self.assertRegex(self.raw(head + b"Content-Length: ten\r\n\r\n"), r"^HTTP/1.1 400")
        self.assertRegex(self.raw(b"GET / HTTP/1.1\r\nHost: elsewhere.example\r\n\r\n"), r"^HTTP/1.1 400")
        status, headers, _ = self.ask("GET", "/sign-in/", headers={"X-Forwarded-Proto": "https"})
        self.assertEqual(status, 200)
        self.assertIn("default-src", headers["Content-Security-Policy"])
        self.assertEqual(self.ask("GET", "/health/")[2], "ok\n")
        refused = self.run_in(self.var, "restore", self.var / "none.zip", good=False)
        self.assertEqual(refused.returncode, 1)
        self.run_in(self.var, "backup", self.var / "b.zip")
        running = self.run_in(self.var, "restore", self.var / "b.zip", good=False)
        self.assertIn("stop it first", running.stderr)
        server.kill()
        server.wait()
        until = time.monotonic() + 10
        while time.monotonic() < until:  # the processes it left die with it, and free the port
            try:
                self.ask("GET", "/health/")
                time.sleep(0.1)
            except OSError:
                break
        else:
            self.fail("somebody still serves")
        self.run_in(self.var, "restore", self.var / "b.zip")

    def test_killed_among_two_hundred_records_every_acknowledged_one_is_there(self):
        server = self.serve()
        session = self.session("mara")
        own = "a" * 32  # a browser's own secret, sent back as cookie and header
        form = {"Content-Type": "application/x-www-form-urlencoded", "Cookie": f"{session}; csrftoken={own}"}
        form |= {"X-CSRFToken": own, "X-Requested-With": "fetch"}
        kept, tried = [], []
        killer = threading.Thread(target=self.kill_after, args=(server, kept, 40))
        killer.start()
        for number in range(200):
            uid = str(uuid.uuid4())
            tried.append(uid)
            said = urlencode({"uid": uid, "pick": f"made-{number}", "what": f"Pick {number}", "done": "planned"})
            try:
                status, _, text = self.ask("POST", "/jobs/1/trees/2/record/work/", said, form)
            except (OSError, http.client.HTTPException):
                break
            if status == 200 and json.loads(text)["state"] == "kept":
                kept.append(uid)
        killer.join()
        self.assertGreaterEqual(len(kept), 40)
        self.assertLess(len(kept), 200)
        with closing(sqlite3.connect(self.var / "cantrel.sqlite3")) as opened:
            there = [row[0] for row in opened.execute("select uid from daybook_workrecord")]
            self.assertEqual(opened.execute("pragma integrity_check").fetchone()[0], "ok")
        self.assertEqual(len(there), len(set(there)))
        self.assertLessEqual({uid.replace("-", "") for uid in kept}, {uid.replace("-", "") for uid in there})
        self.assertLessEqual(len(there), len(tried))

    def kill_after(self, server, kept, count):
        until = time.monotonic() + 60
        while len(kept) < count and time.monotonic() < until:
            time.sleep(0.002)
        server.kill()

    def session(self, name):
        """A session of a person, made on the machine itself."""
        code = (
            "from django.contrib.sessions.backends.db import SessionStore; from apps.crews.models import Person; "
            f"p = Person.objects.get(username={name!r}); s = SessionStore(); s['_auth_user_id'] = str(p.pk); "
            "s['_auth_user_backend'] = 'apps.crews.backend.CrewBackend'; "
            "s['_auth_user_hash'] = p.get_session_auth_hash(); s.save(); print(s.session_key)"
        )
        return "sessionid=" + self.run_in(self.var, "shell", "-v0", "-c", code).stdout.strip().splitlines()[-1]
