"""Species as the table and the page of one show them."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.utils.translation import gettext

from apps.species import planner
from apps.species.forms import FIGURES, HABITS
from cantrel import quantities

if TYPE_CHECKING:
    from apps.species.models import YardSpecies
    from treecore.species import Species


def _row(species: Species, system: str) -> dict[str, Any]:
    return {
        "key": species.key,
        "common": species.common,
        "scientific": species.scientific,
        "group": species.group,
        "region": species.region,
        "hinge": species.hinge,
        "splits": species.splits,
        "density": quantities.estimate(species.density, "density", system),
        "mor": quantities.estimate(species.mor, "strength", system),
    }


def table(found: list[dict[str, Any]], system: str) -> dict[str, Any]:
    """Species that were found, each with the yard's own rows of it, and what can be searched by."""
    rows = [_row(f["species"], system) | {"own": [_own(r, system) for r in f["own"]]} for f in found]
    regions = (gettext("Europe"), gettext("North America"))
    return {"rows": rows, "units": system, "groups": ("conifer", "larch", "broadleaf"), "regions": regions}


def _own(row: YardSpecies, system: str) -> dict[str, Any]:
    return _row(planner.core_row(row), system) | {"pk": row.pk, "source": row.source}


def one(published: Species, own: list[tuple[YardSpecies, Species]], system: str) -> dict[str, Any]:
    """A species with every figure and its source, the yard's own beside it."""
    return {
        "species": published,
        "figures": [_figure(published, own, *row, system) for row in FIGURES],
        "basic": quantities.text(published.basic, "density", system),
        "basic_source": published.sources["basic"],
        "moisture": quantities.text(published.moisture, "share", system),
        "habits": [
            (label, gettext(getattr(published, name)), [gettext(getattr(core, name)) for _, core in own])
            for name, label in HABITS
        ],
        "units": system,
        "habit_source": published.sources["habit"],
        "own": [row for row, _ in own],
    }


def _figure(
    published: Species, own: list[tuple[YardSpecies, Species]], name: str, dimension: str, label: str, system: str
) -> dict[str, Any]:
    """One figure of a species, and the yard's own of it."""
    return {
        "label": label,
        "shown": quantities.estimate(getattr(published, name), dimension, system),
        "source": published.sources[name],
        "own": [
            quantities.estimate(getattr(core, name), dimension, system) | {"changed": getattr(row, name) is not None}
            for row, core in own
        ],
        "raw": quantities.raw(getattr(published, name).value),
    }
