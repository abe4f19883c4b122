"""The tree's body: limbs, cavities and diameters as rows, each change checked by the core and kept as a step."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any

from django.utils.translation import gettext

from apps.crews import steps
from apps.jobs.models import Limb
from apps.survey.planner import measured_entry
from cantrel.limits import limit_said
from treecore.errors import NotSolvable
from treecore.formats.plan_document import tree_of
from treecore.tree.assumed import assumed_limbs
from treecore.tree.crown import SLOTS
from treecore.tree.ladder import ladder, piece
from treecore.tree.shaping import drawn, free_name, moved, split
from treecore.tree.soundness import weak_places
from treecore.tree.weigh import limb_rows, weigh
from treecore.verdict import ruling

if TYPE_CHECKING:
    from contextlib import AbstractContextManager

    from apps.jobs.models import Tree
    from treecore.tree.body import TreeInput
    from treecore.tree.ladder import Piece, Rung
    from treecore.tree.limb import Limb as CoreLimb

FIELDS = (
    "name",
    "at",
    "azimuth",
    "rise",
    "length",
    "diameter",
    "foliage",
    "dead",
    "union",
    "codominant",
    "kind",
    "note",
)
SHAPE = ("at", "azimuth", "rise", "length", "diameter")


def core_tree(tree: Tree) -> TreeInput:
    """The core's tree of the stored rows."""
    return tree_of(measured_entry(tree))[0]


def scene(tree: Tree) -> dict[str, Any]:
    """The core's tree with all that is worked out of it: figures, limbs, assumed limbs, weak places."""
    core = core_tree(tree)
    result, weak = weigh(core), weak_places(core)
    return {
        "core": core,
        "result": result,
        "limbs": limb_rows(core),
        "assumed": assumed_limbs(core, result.whole_crown),
        "weak": weak,
        "ruling": ruling(weak) if weak else None,
    }


def rungs(core: TreeInput, limit: float) -> tuple[Rung, ...]:
    """The weight ladder."""
    return ladder(core, limit, 1.0 if core.stem.top <= 40.0 else 2.0)


def stem_piece(core: TreeInput, low: float, high: float) -> Piece:
    """A piece of stem between two cuts."""
    return piece(core, low, high)


def weak_said(core: TreeInput, system: str = "metric") -> list[str]:
    """Every weak place of a tree in words."""
    return [limit_said(limit, system)["sentence"] for limit in weak_places(core)]


def _put(row: Limb, limb: CoreLimb) -> Limb:
    for name in SHAPE:
        setattr(row, name, getattr(limb, name))
    return row


def _step(tree: Tree, label: str, by: str) -> AbstractContextManager[None]:
    return steps.recorded("body", tree, label, by)


def _checked(tree: Tree) -> None:
    """Hold the stored tree against the core; its error undoes the change it stands in."""
    tree.refresh_from_db()
    core_tree(tree)


def _limb(tree: Tree, name: str) -> Limb:
    row = tree.limbs.filter(name=name).first()
    if row is None:
        raise NotSolvable(what="limb", why="there is no limb “{name}”", name=name)
    return row


def take_slot(tree: Tree, number: int, by: str = "") -> str:
    """Put a limb of one's own in place of an assumed one, shaped like it; returns its name."""
    data = scene(tree)
    found = next((row for row in data["assumed"] if row.number == number), None)
    if found is None:
        raise NotSolvable(what="limb", why="that assumed limb is not there any more")
    with _step(tree, gettext("assumed limb {number} replaced").format(number=number + 1), by):
        parent = _limb(tree, found.limb.parent) if found.limb.parent else None
        row = _put(Limb(tree=tree, name=free_name(data["core"]), parent=parent, kind="estimated"), found.limb)
        row.save()
        tree.replaced = sorted({*tree.replaced, number})
        tree.save()
        _checked(tree)
    return row.name


def drop_slot(tree: Tree, number: int, by: str = "") -> None:
    """Take an assumed limb off: there is none there."""
    if not 0 <= number < SLOTS:
        raise NotSolvable(what="limb", why="there is no such assumed limb")
    with _step(tree, gettext("assumed limb {number} taken off").format(number=number + 1), by):
        tree.replaced = sorted({*tree.replaced, number})
        tree.save()
        _checked(tree)


def assume(tree: Tree, wanted: bool, by: str = "") -> None:
    """Take the whole assumed crown off, or put it back."""
    with _step(tree, gettext("assumed crown put back") if wanted else gettext("assumed crown taken off"), by):
        tree.replaced = [] if wanted else list(range(SLOTS))
        tree.save()
        _checked(tree)


def draw(tree: Tree, view: float, start: tuple[float, float], end: tuple[float, float], by: str = "") -> str:
    """Add a limb drawn from the stem or a limb to its tips; returns its name."""
    limb = drawn(core_tree(tree), view, start, end)
    with _step(tree, gettext("{name} drawn").format(name=limb.name), by):
        parent = _limb(tree, limb.parent) if limb.parent else None
        row = _put(Limb(tree=tree, name=limb.name, parent=parent, kind="estimated"), limb)
        row.save()
        _checked(tree)
    return row.name


def drag(
    tree: Tree, name: str, handle: str, view: float, at: tuple[float, float], save: bool = True, by: str = ""
) -> None:
    """Drag a limb by its union or its tips."""
    limb = moved(core_tree(tree), name, handle, view, at)
    with _step(tree, gettext("{name} moved").format(name=name), by):
        _put(_limb(tree, name), limb).save()
        _checked(tree)


def nudge(tree: Tree, name: str, handle: str, dx: float, dy: float, by: str = "") -> None:
    """Move a limb's union along its stem by 0.1 m, or its tips by 2 degrees up and 0.1 m out, per key press."""
    row = _limb(tree, name)
    with _step(tree, gettext("{name} moved").format(name=name), by):
        if handle == "union":
            row.at = max(row.at + 0.1 * dy, 0.0)
        else:
            row.rise = min(max(row.rise + math.radians(2.0) * dy, -math.pi / 2), math.pi / 2)
            row.length = max(row.length + 0.1 * dx, 0.1)
        row.save()
        _checked(tree)


def save(tree: Tree, name: str, values: dict[str, Any], by: str = "") -> str:
    """Change a limb by typed values, or add one where ``name`` is empty; returns its name."""
    row = _limb(tree, name) if name else Limb(tree=tree)
    label = (
        gettext("{name} changed").format(name=values["name"])
        if name
        else gettext("{name} added").format(name=values["name"])
    )
    with _step(tree, label, by):
        parent = values.pop("parent", "")
        row.parent = _limb(tree, parent) if parent else None
        for field, value in values.items():
            setattr(row, field, value)
        if tree.limbs.exclude(pk=row.pk).filter(name=row.name).exists():
            raise NotSolvable(what=f"limb {row.name} name", why="another limb has this name")
        row.save()
        _checked(tree)
    return row.name


def split_limb(tree: Tree, name: str, by: str = "") -> str:
    """Make two limbs of one, half its wood each; what grows on it stays on the first."""
    first, second = split(core_tree(tree), name)
    with _step(tree, gettext("{name} split").format(name=name), by):
        row = _limb(tree, name)
        twin = Limb.objects.get(pk=row.pk)
        row.name = first.name
        _put(row, first).save()
        twin.pk, twin.name = None, second.name
        twin._state.adding = True
        _put(twin, second).save()
        _checked(tree)
    return first.name


def delete(tree: Tree, name: str, by: str = "") -> None:
    """Take a limb off with all that grows on it."""
    with _step(tree, gettext("{name} taken off").format(name=name), by):
        _limb(tree, name).delete()
        _checked(tree)


def listed(tree: Tree, field: str) -> list[dict[str, Any]]:
    """Diameters or cavities, each under a name that stays; one from before they had is named by its place."""
    return [{"id": f"{field[0]}{i}"} | row for i, row in enumerate(getattr(tree, field))]


def put_list(tree: Tree, field: str, rows: list[dict[str, Any]], label: str, by: str = "") -> None:
    """Change the tree's measured diameters or cavities."""
    with _step(tree, label, by):
        setattr(tree, field, rows)
        tree.save()
        _checked(tree)
