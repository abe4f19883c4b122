"""What a field of a plan document says of itself, and what follows from that for core, forms, database and schema."""

from __future__ import annotations

import dataclasses
import math
from collections.abc import Callable
from dataclasses import dataclass
from functools import cache, lru_cache
from typing import Any, TypeVar

from treecore.ranges import believed

# Endings of keys that carry a quantity, longest first, and what one of it is in SI.
UNITS = {
    "_kg_m3": 1.0, "_m_s": 1.0, "_MPa": 1e6, "_GPa": 1e9, "_deg": math.pi / 180.0, "_kg": 1.0, "_m": 1.0, "_N": 1.0,
}  # fmt: skip
T = TypeVar("T")
ID = "^[A-Za-z][A-Za-z0-9_-]{0,39}$"


@dataclass(frozen=True, slots=True, kw_only=True)
class Spec:
    """A field: its label in English, and what is known of its values.

    ``dimension`` is how a quantity is shown (a key of ``treecore.units``), ``range`` a key of ``data/ranges.csv``;
    ``choices`` names a table of ``treecore.document.choices``, which a document is held to on reading where it is
    ``closed``; ``most`` is the longest text or list. ``core`` is the name the core has for it, with a dot where it
    belongs to an object of its own, empty where it takes no part; ``column`` is where rows keep it. ``part`` is where
    on its form it stands, ``asked`` the field and the values of it with which it is asked for; ``must`` says that a
    person has to say it there although a document may leave it out, ``empty`` what it means there if they may not;
    ``widget`` is how it is typed where its type does not tell.
    """

    label: str = ""
    dimension: str = ""
    range: str = ""
    choices: str = ""
    closed: bool = False
    most: int | None = None
    pattern: str = ""
    core: str | None = None
    column: str | None = None
    part: str = ""
    asked: tuple[str, str] | None = None
    must: bool = False
    empty: str = ""
    widget: str = ""


def declared(default: Any = dataclasses.MISSING, **said: Any) -> Any:
    """Declare a field of an entry; without a default it has to be said.

    Parameters
    ----------
    default : object
        Its value where the document leaves it out.
    said : object
        Of ``Spec``, by name.
    """
    spec = {"spec": Spec(**said)}
    return (
        dataclasses.field(metadata=spec)
        if default is dataclasses.MISSING
        else dataclasses.field(default=default, metadata=spec)
    )


def ident() -> Any:
    """Declare the name an entry keeps for good, so that addresses and changes can name it."""
    return declared("", label="Name that stays with it", pattern=ID, core="", column="", most=40)


def specs(entry: type) -> dict[str, Spec]:
    """Return what every field of an entry says of itself, by key.

    Parameters
    ----------
    entry : type
        A declaration.
    """
    return _specs(entry)


def _read(entry: Any) -> dict[str, Spec]:
    return {f.name: f.metadata.get("spec", Spec()) for f in dataclasses.fields(entry)}


_specs: Callable[[Any], dict[str, Spec]] = cache(_read)


def defaults(entry: type) -> dict[str, Any]:
    """Return what an entry stands for where a document leaves a field out, by key.

    Parameters
    ----------
    entry : type
        A declaration.
    """
    declared_fields = dataclasses.fields(entry)
    return {f.name: f.default for f in declared_fields if f.default is not dataclasses.MISSING}


def usual(entry: type) -> dict[str, Any]:
    """Return the defaults of an entry that are a choice: numbers and words, not what nobody said.

    Parameters
    ----------
    entry : type
        A declaration.
    """
    chosen = {k: v for k, v in defaults(entry).items() if isinstance(v, float | int | str) and v is not False}
    return {key: value for key, value in chosen.items() if value != ""}


@lru_cache(maxsize=4096)
def unit_of(key: str) -> str:
    """Return the ending of a key that names its unit; nothing for one without.

    Parameters
    ----------
    key : str
        Of a document.
    """
    return next((unit for unit in UNITS if key.endswith(unit) and key != unit), "")


@lru_cache(maxsize=4096)
def bare(key: str) -> str:
    """Return a key without its unit.

    Parameters
    ----------
    key : str
        Of a document.
    """
    return key.removesuffix(unit_of(key)) if unit_of(key) else key


def to_si(key: str, value: float) -> float:
    """Return a number of a document in SI.

    Parameters
    ----------
    key : str
        Its key, which names the unit.
    value : float
        The number. [unit of the key]
    """
    return float(value) * UNITS.get(unit_of(key), 1.0)


def from_si(key: str, value: float) -> float:
    """Return a number as a document writes it, without the last bit's noise.

    Parameters
    ----------
    key : str
        Its key, which names the unit.
    value : float
        The number. [SI]
    """
    factor = UNITS.get(unit_of(key), 1.0)
    return value if factor == 1.0 else round(value / factor, 10)


def core_name(key: str, spec: Spec) -> str:
    """Return what the core calls a field; empty where it takes no part.

    Parameters
    ----------
    key : str
        Of a document.
    spec : Spec
        What the field says.
    """
    return bare(key) if spec.core is None else spec.core


def for_core(entry: Any, group: str = "") -> dict[str, Any]:
    """Return what an entry says, in SI, by the core's names; what was not said is left out.

    Parameters
    ----------
    entry : object
        Of a declaration.
    group : str
        An object of its own in the core; the entry's main one by default.
    """
    found = {}
    kind: type = type(entry)
    for key, name, factor in _for_group(kind, group):
        value = getattr(entry, key)
        if value is not None and not dataclasses.is_dataclass(value):
            found[name] = float(value) * factor if factor is not None and isinstance(value, float | int) else value
    return found


@cache
def _for_group(entry: type, group: str) -> tuple[tuple[str, str, float | None], ...]:
    """Fields of an entry that take part in a group of the core: key, the core's name, and what makes it SI."""
    rows = []
    for key, spec in specs(entry).items():
        where, _, name = core_name(key, spec).rpartition(".")
        if name and where == group:
            rows.append((key, name, UNITS[unit_of(key)] if unit_of(key) else None))
    return tuple(rows)


def hold(what: Any, entry: type, group: str = "", said: str = "{}") -> None:
    """Hold an object of the core against the ranges its entry declares.

    Parameters
    ----------
    what : object
        With attributes by the core's names. [SI]
    entry : type
        The declaration.
    group : str
        Of an object of its own.
    said : str
        What an error names a field, with the core's name for the braces.

    Raises
    ------
    OutOfRange
        Naming the first field that is not in its range.
    """
    for name, key in _ranged(entry, group):
        value = getattr(what, name)
        if value is not None:
            believed(said.replace("{}", name), value, key)


def hold_said(entry: Any, where: str = "") -> None:
    """Hold what an entry itself says against the ranges it declares; entries inside it are left alone.

    Parameters
    ----------
    entry : object
        Of a declaration.
    where : str
        What an error names before the field.

    Raises
    ------
    OutOfRange
        Naming the first field that is not in its range.
    """
    for key, spec in specs(type(entry)).items():
        value = getattr(entry, key)
        if spec.range and value is not None:
            believed(f"{where} {bare(key)}".strip(), to_si(key, value), spec.range)


def of_core(entry: type[T], what: Any) -> T:
    """Write an object of the core as an entry, field by field.

    Parameters
    ----------
    entry : type
        The declaration.
    what : object
        With attributes by the core's names. [SI]
    """
    found = {}
    for key, spec in specs(entry).items():
        name = core_name(key, spec)
        if name and "." not in name and hasattr(what, name):
            value = getattr(what, name)
            found[key] = from_si(key, value) if isinstance(value, float) else value
    return entry(**found)


def _find_ranged(entry: Any, group: str) -> tuple[tuple[str, str], ...]:
    found = []
    for key, spec in specs(entry).items():
        where, _, name = core_name(key, spec).rpartition(".")
        if spec.range and name and where == group:
            found.append((name, spec.range))
    return tuple(found)


_ranged: Callable[[Any, str], tuple[tuple[str, str], ...]] = cache(_find_ranged)
