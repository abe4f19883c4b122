"""Speed, by hand: ``.venv/bin/python bench/speed.py``. Prints medians; uses a scratch database of its own."""

import gzip
import io
import os
import re
import statistics
import sys
import tempfile
import time
from dataclasses import replace
from pathlib import Path
from urllib.parse import urlencode

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))
os.environ["CANTREL_VAR"] = tempfile.mkdtemp()
os.environ["DJANGO_SETTINGS_MODULE"] = "cantrel.settings"


def median_ms(action, times):
    """Median wall time of an action, after one warm-up."""
    action(0)
    taken = []
    for i in range(times):
        start = time.perf_counter()
        action(i)
        taken.append(time.perf_counter() - start)
    return statistics.median(taken) * 1e3


def core():
    from treecore.felling.plan import evaluate
    from treecore.tests.scenes import CUTS, PLAN

    # Every call differs in lay, depth and hinge, as while dragging.
    plans = [
        replace(PLAN, lay=1.2 + i / 900, cuts=replace(CUTS, depth=0.15 + i / 9000, hinge=0.05 + i / 12000))
        for i in range(300)
    ]
    print(f"felling evaluation, core        {median_ms(lambda i: evaluate(plans[i]), 300):7.2f} ms   (wanted: 2)")


def web():
    import django
    from django.core.management import call_command

    django.setup()
    call_command("migrate", verbosity=0)
    call_command("collectstatic", verbosity=0, interactive=False)
    call_command("load_demo", verbosity=0, stdout=io.StringIO())
    from django.test import Client

    from apps.crews.models import Person
    from apps.felling import planner
    from apps.felling.forms import FellForm
    from apps.jobs.models import Tree

    tree = Tree.objects.get()
    client = Client(HTTP_HOST="127.0.0.1")
    client.force_login(Person.objects.get())
    base = f"/jobs/{tree.job_id}/trees/{tree.pk}/"
    form = FellForm(stored=planner.values_of(tree.felling))
    data = {n: "" if form[n].value() is None else form[n].value() for n in form.fields}

    def drag(i):
        move = {"handle": "depth", "x": 250 + i % 30, "y": 100, "frame": "200,165,260"}
        answer = client.post(base + "fell/", urlencode(data | move), "application/x-www-form-urlencoded")
        assert answer.json()["fragments"], answer.content[:300]

    print(f"drag to new numbers, Django     {median_ms(drag, 100):7.2f} ms   (wanted: 40)")
    for page in (
        "/",
        f"/jobs/{tree.job_id}/",
        *(base + s + "/" for s in ("walk-up", "measure", "method", "fell", "brief", "record")),
    ):
        print(f"page {page:27}{median_ms(lambda i, p=page: client.get(p), 30):7.2f} ms   (wanted: 100)")
    first_load(client, base + "fell/")


def first_load(client, page):
    """Bytes over the wire for a first page with everything it names, as served (compressed where a twin exists)."""
    answer = client.get(page, headers={"accept-encoding": "gzip"})
    raw = answer.content
    html = gzip.decompress(raw).decode() if answer.headers.get("Content-Encoding") == "gzip" else raw.decode()
    static = Path(os.environ["CANTREL_VAR"]) / "static"
    names = set(re.findall(r'(?:href|src)="/static/([^"#]+)', html))
    total = len(raw) + sum(
        min(f.stat().st_size for f in (static / n, static / (n + ".gz")) if f.exists()) for n in names
    )
    print(f"first page load, compressed     {total / 1024:7.0f} KB   (wanted: 300) in {len(names) + 1} files")


if __name__ == "__main__":
    core()
    web()
