"""Speed of a day's work, by hand: ``.venv/bin/python bench/work_day.py``: paper, phone, days, cell, learning, changes.

Uses a scratch database of its own; a fixed loop is timed beside every figure, as in ``speed.py``.
"""

import gc
import gzip
import io
import json
import random
import time
import uuid
from datetime import datetime, timedelta

from speed import ONCE, show


def started():
    import django
    from django.core.management import call_command

    django.setup()
    call_command("migrate", verbosity=0)
    call_command("collectstatic", verbosity=0, interactive=False)
    call_command("load_demo", plans=True, verbosity=0, stdout=io.StringIO())
    from django.test import Client

    from apps.crews.models import Person

    client = Client(HTTP_HOST="127.0.0.1")
    client.force_login(Person.objects.get())
    return client, Person.objects.get()


def paper(tree):
    """The brief of a job with forty picks as PDF, and how often it says how far it is."""
    from apps.briefing import job_views
    from apps.takedown import planner

    plan = planner.plan_for(tree)
    entries = [*plan.picks]
    limbs = [p for p in entries if p.get("member") and p["method"] == "butt"][:6]
    more = [p | {"at_m": round(p["at_m"] + 1.5, 2), "id": f"x{i}"} for i, p in enumerate(limbs)]
    planner.keep(plan, [*more, *entries])
    said = []
    start = time.perf_counter()
    made = job_views._made(tree.job, "a4", "metric", lambda *step: said.append(step))
    taken = time.perf_counter() - start
    print(f"PDF of {len(planner.plan_for(tree).picks)} picks, {len(made) / 1024:.0f} KB: {taken:.2f} s cold", end=" ")
    print(f"(wanted: 8), progress said {len(said)} times")
    planner.keep(planner.plan_for(tree), entries)


def phone(client, tree):
    from apps.takedown.planner import plan_for

    pick = plan_for(tree).picks[8]["id"]
    address = f"/jobs/{tree.job_id}/trees/{tree.pk}/crew/{pick}/"
    page = client.get(address).content
    print(f"phone pick {len(page) / 1024:.1f} KB, compressed {len(gzip.compress(page)) / 1024:.1f} KB (wanted: 60)")
    show("phone pick", lambda i: client.get(address), 20, 100)


def day(tree):
    from apps.day.planner import tree_work
    from treecore.day.queueing import Crew
    from treecore.day.queueing import day as simulated

    work = tree_work(tree, 0.15)
    picks = (list(work.picks) * 2)[:60]
    show(f"day of {len(picks)} picks 500 times", lambda i: simulated(picks, Crew(ground=2), seed=i), 10, 1000)


def cell(tree, person):
    """Ten minutes of a cell at a hundred readings a second, as fast as they can be kept, and what is missing."""
    from apps.daybook import cell_planner

    trace = cell_planner.listen(tree, "felling", "point", person)
    listener = cell_planner.Listener(person.crew, "point")
    lines = (cell_planner.line_of(n / 100.0, 1000.0 + n % 500, "kN") for n in range(600 if ONCE else 60_000))
    start = time.perf_counter()
    for second in cell_planner.gathered(lines):
        listener.hear(second)
    taken = time.perf_counter() - start
    kept = sum(len(row.readings) for row in trace.seconds.all())
    print(f"10 minutes of a cell at 100 Hz kept in {taken:.1f} s, {60_000 - kept} of 60,000 readings lost (wanted: 0)")
    show("what a bench asks four times a second", lambda i: cell_planner.now(trace), 50, 20)
    cell_planner.stop(trace)


def learning(tree, person, client):
    from django.utils import timezone

    from apps.daybook.models import WorkRecord
    from apps.jobs.models import Tree
    from apps.lessons import planner

    drawn, rows = random.Random(3), []
    many = [
        Tree(job=tree.job, name=f"L{i}", species="fagus_sylvatica", diameter=0.5, height=18, spread=6)
        for i in range(400)
    ]
    Tree.objects.bulk_create(many)
    trees = list(Tree.objects.filter(name__startswith="L"))
    began = timezone.make_aware(datetime(2026, 5, 1, 8))
    for n in range(50 if ONCE else 20_000):
        mass = drawn.uniform(20.0, 300.0)
        plan = {
            "mass": [mass, 0.7 * mass, 1.4 * mass], "modelled": mass, "density": 1050.0, "species": "fagus_sylvatica",
            "method": drawn.choice(["butt", "balance", "negative"]), "by": drawn.choice("ABC"),
            "seconds": [600.0, 250.0, 1500.0], "peak_point": [4e3, 3e3, 6e3], "wraps": 2.0, "run": 2.0,
            "gear": [{"role": r, "name": r, "demand": [1.0] * 3, "allowed": [2.0] * 3} for r in ("rope", "block")],
        }  # fmt: skip
        rows.append(
            WorkRecord(
                tree=trees[n % 400], uid=uuid.uuid4(), pick=f"p{n}", planned=plan, mass=mass * drawn.gauss(1, 0.1),
                mass_by="cell", started=began, ended=began + timedelta(seconds=drawn.uniform(200, 900)), by="A",
            )
        )  # fmt: skip
    WorkRecord.objects.bulk_create(rows, batch_size=1000)
    rows.clear()
    found = len(planner.lessons(person.crew))
    gc.collect()
    gc.freeze()  # as the server does once it is up
    show(
        f"learning over 20,000 records ({found} figures)",
        lambda i: planner.groups(planner.lessons(person.crew), "who"),
        5,
        300,
    )
    show("green density from 20,000 weighed pieces", lambda i: planner.woods(person.crew), 5, 300)
    show("page of learning", lambda i: client.get("/yard/learning/?by=method"), 5)


def changes(tree, client):
    """A job with five thousand changes in its past, its first page and a late one."""
    from apps.jobs.models import Job

    job = Job.objects.get(pk=tree.job_id)
    past = Job.history.filter(id=job.pk).latest()
    rows = []
    for n in range(50 if ONCE else 5000):
        row = type(past)(
            **{f.attname: getattr(past, f.attname) for f in past._meta.concrete_fields if not f.primary_key}
        )
        row.history_type, row.notes = "~", f"note {n}"
        rows.append(row)
    Job.history.bulk_create(rows, batch_size=1000)
    for page in ("", "?page=40"):
        show(f"5,000 changes {page}", lambda i, p=page: client.get(f"/jobs/{job.pk}/activity/{p}"), 10, 100)


def documents(tree):
    from apps.briefing import planner
    from treecore.formats.changes import changes as between

    one = planner._newest(planner.document(tree))
    other = json.loads(json.dumps(one))
    for pick in other["trees"][0]["takedown"]["picks"]:
        pick["wraps"] = 3.25
    show(f"{len(between(one, other))} changes between two plans", lambda i: between(one, other), 20, 100)


if __name__ == "__main__":
    asker, who = started()
    from apps.jobs.models import Tree as Rows

    beech = Rows.objects.get(name="Copper beech")
    paper(beech)
    phone(asker, beech)
    day(beech)
    documents(beech)
    cell(beech, who)
    learning(beech, who, asker)
    changes(beech, asker)
