"""The yard's own species: rows to the plan document's entry, and changes to them."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.db import transaction
from django.shortcuts import get_object_or_404
from django.utils.translation import gettext

from apps.crews import steps
from apps.species.models import YardSpecies
from cantrel.words import said
from treecore.formats.plan_document import UNITS, own_row
from treecore.species import FIGURES, WORDS, find, species_table

if TYPE_CHECKING:
    from collections.abc import Iterable

    from django.db.models import QuerySet

    from apps.crews.models import Crew
    from treecore.species import Species

TEXTS = ("common", "scientific", "source", "note")


def yard_rows(crew: Crew) -> QuerySet[YardSpecies]:
    """The yard's own rows."""
    return YardSpecies.objects.filter(crew=crew)


def row_for(crew: Crew, pk: int) -> YardSpecies:
    """One of the yard's own rows; another yard's is not found."""
    return get_object_or_404(YardSpecies, crew=crew, pk=pk)


def yard_entry(row: YardSpecies) -> dict[str, Any]:
    """The document's own row of a tree."""
    entry = {n: getattr(row, n) for n in (*TEXTS, *WORDS) if getattr(row, n)}
    for name, factor in FIGURES.items():
        if getattr(row, name) is not None:
            three = (getattr(row, name), getattr(row, f"{name}_low"), getattr(row, f"{name}_high"))
            entry[f"{name}_{UNITS[name]}"] = [v / factor for v in three]
    return entry


def core_row(row: YardSpecies) -> Species:
    """The core's species of a yard's row."""
    return own_row(row.like, yard_entry(row))


def table(crew: Crew, text: str = "", group: str = "", region: str = "") -> list[dict[str, Any]]:
    """Species of the table that fit a search: published ones, each with the yard's corrections, then the yard's own."""
    own: dict[str, list[YardSpecies]] = {}
    for row in yard_rows(crew):
        own.setdefault(row.like, []).append(row)
    words = text.lower().split()
    found = []
    for species in sorted(species_table().values(), key=lambda s: s.common):
        names = " ".join(
            [species.common, species.scientific, species.key, *(r.common for r in own.get(species.key, ()))]
        )
        fits = (
            all(w in names.lower() for w in words) and group in ("", species.group) and region in ("", species.region)
        )
        if fits:
            found.append({"species": in_words(species), "own": own.get(species.key, [])})
    return found


def in_words(species: Species) -> Species:
    """A published row, what is said of it in the reader's language."""
    return said(species, "common", "note")


def all_published() -> Iterable[Any]:
    """Every published row."""
    return species_table().values()


def published(key: str) -> Species:
    """A published row."""
    return in_words(find(key))


@transaction.atomic
def save_row(crew: Crew, values: dict[str, Any], row: YardSpecies | None = None) -> YardSpecies:
    """Add or change one of the yard's rows once the core takes it."""
    row = row or YardSpecies(crew=crew)
    for name, value in values.items():
        setattr(row, name, value)
    core_row(row)
    with steps.recorded("species", crew, gettext("{common} kept").format(common=row.common)):
        row.save()
    return row


def delete_row(row: YardSpecies) -> bool:
    """Take a row off the table; False if a tree still stands on it."""
    if row.trees.exists():
        return False
    with steps.recorded("species", row.crew, gettext("{common} taken off").format(common=row.common)):
        row.delete()
    return True


steps.register(
    "species",
    steps.Part(
        "species", YardSpecies, steps.all_columns(YardSpecies), lambda crew: YardSpecies.objects.filter(crew=crew)
    ),
)
