"""Speed, by hand: ``.venv/bin/python bench/speed.py``. Prints medians; uses a scratch database of its own.

Machines change their speed while they run. A fixed loop is timed right before and after every figure; beside the
milliseconds stands how many of that loop they are. ``coverage`` as argument runs the long check of intervals instead,
``once`` a single round of everything.
"""

import gc
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

ONCE = "once" in sys.argv  # a round only, to see that it runs
ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))
os.environ["CANTREL_VAR"] = tempfile.mkdtemp()
os.environ["DJANGO_SETTINGS_MODULE"] = "cantrel.settings"


def loop_ms():
    """Wall time of a fixed loop of plain arithmetic [ms]."""
    start, total = time.perf_counter(), 0
    for i in range(200_000):
        total += i * i % 7
    assert total
    return (time.perf_counter() - start) * 1e3


def median_ms(action, times):
    """Median wall time of an action, after one warm-up."""
    action(0)
    taken = []
    for i in range(1 if ONCE else times):
        start = time.perf_counter()
        action(i)
        taken.append(time.perf_counter() - start)
    return statistics.median(taken) * 1e3


def show(name, action, times, wanted=None, calls=1):
    """Print the median of an action in milliseconds and in loops; ``calls`` it makes at once."""
    before = loop_ms()
    taken = median_ms(action, times) / calls
    loop = (before + loop_ms()) / 2.0
    asked = f"   (wanted: {wanted})" if wanted is not None else ""
    print(f"{name:36}{taken:9.3f} ms {taken / loop:9.3f} loops of {loop:5.1f} ms{asked}", flush=True)
    return taken


def core():
    from treecore.felling.evaluate import judged
    from treecore.felling.footprint import footprint
    from treecore.felling.plan import evaluate
    from treecore.tests.scenes import CUTS, PLAN

    # Every call differs in lay, depth and hinge, as while dragging.
    plans = [
        replace(PLAN, lay=1.2 + i / 900, cuts=replace(CUTS, depth=0.15 + i / 9000, hinge=0.05 + i / 12000))
        for i in range(300)
    ]
    show("ledger and window, core", lambda i: evaluate(plans[i]), 300, 5)
    show("with the fall, core", lambda i: judged(plans[i]), 200, 12)
    for count, wanted in ((10_000, 150), (100_000, 1000)):
        show(
            f"footprint, {count:,} samples",
            lambda i, n=count: footprint.__wrapped__(crowded(plans[i]), 0.0, n, 7 + i),
            12,
            wanted,
        )


def crowded(plan):
    """The plan with a dozen targets round the lay."""
    from treecore.site import Site, Target

    def box(i):
        x, y = 9.0 + 2.1 * i, -7.0 + 2.3 * (i * 5 % 7)
        return Target(
            name=f"T{i}", kind="building", outline=((x, y), (x + 3, y), (x + 3, y + 2), (x, y + 2)), height=3.0
        )

    return replace(plan, site=Site(targets=tuple(box(i) for i in range(12))))


def forked(i=0):
    """A forked fir with 4 leads and 146 limbs on them."""
    from treecore.tests.scenes import TREE
    from treecore.tree.limb import Limb

    leads = tuple(
        Limb(name=f"L{k}", at=8 + 0.1 * k, azimuth=1.2 * k, rise=1.4, length=12, diameter=0.3, codominant=True)
        for k in range(4)
    )
    limbs = tuple(
        Limb(
            name=f"l{k}",
            parent=f"L{k % 4}",
            at=0.5 + 11 * k / 146,
            azimuth=2.4 * k % 6.28,
            rise=0.5,
            length=2 + i * 1e-4 + 3 * (k % 7) / 7,
            diameter=0.04 + 0.06 * (k % 5) / 5,
        )
        for k in range(146)
    )
    return replace(TREE, limbs=leads + limbs, fork=8.4)


def body():
    from treecore.tree.soundness import weak_places
    from treecore.tree.weigh import limb_figures, weigh

    trees = [forked(i) for i in range(61)]

    def whole(i):
        return weigh(trees[i]), limb_figures(trees[i]), weak_places(trees[i])

    show("tree with 150 limbs, core", whole, 60, 5)


def motion():
    """One motion in a batch of a hundred, as ties go from the butt to past the balance."""
    import numpy as np

    from treecore.rigging.motion import Scene, moved

    ties = np.linspace(0.1, 3.5, 100)
    scene = Scene(
        mass=90.0,
        inertia=140.0,
        balance=2.2,
        tie=ties,
        length=5.5,
        butt=(0.3, 0.0, 10.2),
        way=(1.0, 0.0, 0.0),
        point=(0.4, 0.0, 13.9),
        beyond=(0.0, 0.0, -1.0),
        axial_stiffness=260e3,
        damping=0.06,
        lengths=(np.hypot(ties - 0.1, 3.7), 12.5),
        tension_ratios=(0.93,),
        parts=0.8,
    )
    table = scene.rows(100)
    show("a motion, in a batch", lambda i: moved(table), 20, 0.2, calls=100)


def drawing():
    from django.template.loader import render_to_string

    from apps.jobs import presenter
    from treecore.tree.weigh import limb_rows, weigh

    tree = forked()
    result, rows = weigh(tree), limb_rows(tree)

    def draw(i):
        drawn = presenter.elevation(tree, result, "metric", view=i / 20, limbs=rows, masses=True)
        return render_to_string("survey/_b_elevation.html", {"drawing": drawn, "writes": True})

    show(f"its elevation, {len(draw(0)) / 1024:.0f} KB (wanted: 150)", draw, 30, 30)


def lists(client, person):
    from apps.exchange import list_planner
    from apps.exchange.models import Intake
    from apps.jobs.models import Job, Tree

    jobs = Job.objects.bulk_create(
        [Job(crew=person.crew, name=f"Job {i}", address="A lane") for i in range(20 if ONCE else 2000)]
    )
    size = {"species": "abies_grandis", "diameter": 0.4, "height": 20, "spread": 5}
    Tree.objects.bulk_create([Tree(job=j, name=f"T{i}", **size) for j in jobs for i in range(10)], batch_size=2000)
    for page in ("/", "/?page=40"):
        show(f"2,000 jobs, 20,000 trees {page}", lambda i, p=page: client.get(p), 20, 100)
    rows = "\n".join(
        f"Q{i};Quercus robur;{30 + i % 60},5;{12 + i % 15};{i % 70};{i // 70}" for i in range(50 if ONCE else 5000)
    )
    job = Job.objects.create(crew=person.crew, name="Park")
    headings = "No;Species;DBH (cm);Height (m);X;Y"
    kept = Intake.objects.create(job=job, kind="csv", name="park.csv", text=f"{headings}\n{rows}\n")
    kept.mapping = dict(zip(headings.split(";"), ("name", "species", "diameter", "height", "x", "y"), strict=True))
    start = time.perf_counter()
    list_planner.look(kept, 25)
    print(f"5,000 trees looked at           {time.perf_counter() - start:7.2f} s")
    start = time.perf_counter()
    list_planner.take(kept, person)
    print(f"5,000 trees taken in            {time.perf_counter() - start:7.2f} s    (wanted: 10)")


def web():
    import django
    from django.core.management import call_command

    django.setup()
    call_command("migrate", verbosity=0)
    call_command("collectstatic", verbosity=0, interactive=False)
    call_command("load_demo", plans=True, verbosity=0, stdout=io.StringIO())
    from django.test import Client

    from apps.crews.models import Person
    from apps.felling import planner
    from apps.felling.forms import FellForm
    from apps.jobs.models import Tree

    tree = Tree.objects.first()
    drawing()
    client = Client(HTTP_HOST="127.0.0.1")
    client.force_login(Person.objects.get())
    base = f"/jobs/{tree.job_id}/trees/{tree.pk}/"
    form = FellForm(stored=planner.values_of(tree.felling))
    data = {n: "" if form[n].value() is None else form[n].value() for n in form.fields}

    def drag(i):
        move = {"handle": "depth", "x": 250 + i % 30, "y": 100, "frame": "200,165,260"}
        answer = client.post(base + "fell/", urlencode(data | move), "application/x-www-form-urlencoded")
        assert answer.json()["fragments"], answer.content[:300]

    show("drag to new numbers, Django", drag, 100, 40)
    pulling(client, base, tree)
    picks(client)
    for page in (
        "/",
        f"/jobs/{tree.job_id}/",
        *(
            base + s + "/"
            for s in (
                "walk-up",
                "measure",
                "body",
                "method",
                "method/refer",
                "fell",
                "fell/pull",
                "fell/fall",
                "fell/down",
                "brief",
                "record",
            )
        ),
        f"/jobs/{tree.job_id}/site/",
        "/species/",
    ):
        show(f"page {page}", lambda i, p=page: client.get(p), 30, 100)
    first_load(client, base + "fell/")
    lists(client, Person.objects.get())


def sixty(planner, seen, entries):
    """The demo's takedown as sixty picks: each limb and length of lead taken in two, the outer part first."""
    rows, made = planner.work_out(seen, entries), []
    for row in rows:
        entry, length = row.entry, row.step.piece.length
        outer = entry | {"at_m": round(entry["at_m"] + 0.5 * length, 2)}
        if entry.get("method") in ("butt", "balance", "bridle", "negative"):
            outer["tie_m"] = min(entry["tie_m"], round(0.2 * length, 2))
            outer.pop("second_tie_m", None)
        if entry.get("method") == "negative":
            outer["point"] = entry["point"] | {"at_m": round(outer["at_m"] - 0.3, 2)}
        made += [outer, entry]
    return made


def picks(client):
    """A 60-pick takedown worked out whole in the core, one pick, and its page."""
    from apps.jobs.models import Tree
    from apps.takedown import planner
    from treecore.formats.takedown_entry import pick_row
    from treecore.takedown.pick_result import HeldPick

    tree = Tree.objects.get(name="Copper beech")
    seen, entries = planner.scene_of(tree), planner.plan_for(tree).picks
    many = sixty(planner, seen, entries)

    def fresh(i, rows=many):
        pick_row.cache_clear()
        return planner.work_out(seen, rows)

    done = [r for r in fresh(0) if r.worked]
    gc.collect()
    gc.freeze()  # as the server does once it is up
    row = next(r for r in done if isinstance(r.worked, HeldPick) and r.pick.climber)

    def one(i):
        pick_row.cache_clear()
        entry = row.entry | {"tie_m": round(row.entry["tie_m"] + 1e-4 * i, 4)}
        steps = planner.work_out(seen, [entry])
        assert steps[0].worked, steps[0].error

    def changed(i):
        turned = [*many]
        turned[-3] = turned[-3] | {"wraps": 3.0 + 1e-4 * i}
        planner.work_out(seen, turned)

    show("one pick with all intervals, core", one, 40, 10)
    show(f"{len(many)} picks cold, core ({len(done)} done)", fresh, 10, 400)
    fresh(0)
    show(f"{len(many)} picks, one changed, core", changed, 30, 40)
    base = f"/jobs/{tree.job_id}/trees/{tree.pk}/takedown/"
    planner.keep(planner.plan_for(tree), many)
    try:
        page = client.get(base + "?pick=5").content.decode()
        show(f"takedown page, {len(many)} picks", lambda i: client.get(base), 20, 150)
        drag_of_a_tie(client, base, page)
    finally:
        planner.keep(planner.plan_for(tree), entries)


def drag_of_a_tie(client, base, page):
    """Drag of a tie point to new numbers."""
    fields = dict(re.findall(r'<input[^>]*name="(\w+)" value="([^"]*)"', page)) | {"picked": "4", "view": "90"}
    fields |= {n: v for n, v in re.findall(r'<select name="(\w+)".*?<option value="([^"]*)" selected', page, re.S)}

    def tie(i):
        move = {"handle": "tie", "x": 200 + i % 20, "y": 300, "frame": "235,560,22"}
        assert client.post(base, fields | move).json()["fragments"]

    show("drag of a tie with intervals, Django", tie, 40, 60)


def pulling(client, base, tree):
    """Drag of a part of the pulling system to new numbers, and of the lay on the fall's page."""
    import json

    from apps.felling.pullforms import SystemForm

    entry = tree.felling.system
    form = SystemForm(entry=entry)
    data = {n: "" if form[n].value() is None else form[n].value() for n in form.fields} | {"entry": json.dumps(entry)}

    def part(i):
        move = {"handle": f"part {entry['parts'][1].get('id', 1)}", "x": 380 + i % 40, "y": 60, "frame": "0,200,10"}
        answer = client.post(base + "fell/pull/", urlencode(data | move), "application/x-www-form-urlencoded")
        assert answer.json()["fragments"], answer.content[:300]

    def lay(i):
        move = {"handle": "lay", "x": 400, "y": 100 + i, "frame": "0,200,10"}
        assert client.post(base + "fell/fall/", move).json()["fragments"]

    show("drag of a part, Django", part, 60, 50)
    show("turned lay with footprint", lay, 30)


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


def coverage(samples=10_000):
    """The intervals of the validation test with ten times its samples."""
    from treecore.takedown.members import members_of
    from treecore.tests.validation import test_coverage as check

    check.SAMPLES = samples
    picks = [(check.OAK, *row) for row in check.ON_OAK] + [(check.TREE, *row) for row in check.ON_FIR]
    for number, (tree, cuts, pick) in enumerate(picks, start=1):
        sampled = check.Sampled(members_of(tree), cuts, pick, seed=900 + number)
        shares = {
            name: 100.0 * ((found >= e.low - 1e-9) & (found <= e.high + 1e-9)).mean()
            for name, (e, found) in sampled.results(pick).items()
        }
        print(f"pick {number:2}  " + "  ".join(f"{name} {share:.1f} %" for name, share in shares.items()), flush=True)


if __name__ == "__main__":
    if "coverage" in sys.argv:
        coverage()
        sys.exit()
    core()
    body()
    motion()
    web()
