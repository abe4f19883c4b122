"""Entries out of plain data and back, and the JSON schema of all of them; both follow from the declarations alone."""

from __future__ import annotations

import contextlib
import dataclasses
import json
import math
import threading
from collections.abc import Mapping
from functools import cache
from importlib.resources import files
from typing import Any, TypeVar

import msgspec

from treecore.document.choices import keys
from treecore.document.fields import UNITS, Spec, specs, unit_of
from treecore.document.versions import SCHEMA, VERSION
from treecore.document.whole import PlanDocument
from treecore.errors import BadDocument
from treecore.ranges import ranges

FILE = "document/plan.schema.json"

T = TypeVar("T")


_READY: set[type] = set()
_ONE_AT_A_TIME = threading.Lock()


def _get_ready(entry: type) -> None:
    """Let the library learn a declaration before it is used: two threads that make it learn at once end the process."""
    if entry in _READY:
        return
    with _ONE_AT_A_TIME:
        with contextlib.suppress(msgspec.ValidationError):
            msgspec.convert({}, entry)
        _READY.add(entry)


def decode(entry: type[T], row: Mapping[str, Any]) -> T:
    """Build an entry of plain data; what is null counts as left out.

    Parameters
    ----------
    entry : type
        The declaration.
    row : mapping
        Plain data by the document's keys.

    Raises
    ------
    BadDocument
        Naming the field that is missing or is not what it has to be.
    """
    said = {key: value for key, value in row.items() if value is not None}
    unknown = next((key for key in said if key not in specs(entry)), None)
    if unknown is not None:
        raise BadDocument(unknown, "a plan has no such field")
    _get_ready(entry)
    try:
        return msgspec.convert(said, entry)
    except msgspec.ValidationError as error:
        why, _, where = str(error).partition(" - at `$")
        field = where.strip("`").lstrip(".") or why.rpartition("`")[0].rpartition("`")[2]
        raise BadDocument(field or "document", why) from None


def encode(entry: Any) -> dict[str, Any]:
    """Write an entry as plain data; what it leaves at its default is left out.

    Parameters
    ----------
    entry : object
        Of a declaration.
    """
    found = {}
    for field in dataclasses.fields(entry):
        value = getattr(entry, field.name)
        if field.default is dataclasses.MISSING or value != field.default:
            found[field.name] = _plain(value)
    return found


def _plain(value: Any) -> Any:
    if dataclasses.is_dataclass(value):
        return encode(value)
    if isinstance(value, tuple):
        return [_plain(v) for v in value]
    return value


def schema() -> dict[str, Any]:
    """Return the JSON schema of a plan document: shapes by the declarations' types, the rest by
    what each field says.
    """
    _, parts = msgspec.json.schema_components([PlanDocument], ref_template="#/$defs/{name}")
    text = json.dumps(parts)
    for cls in _entries(PlanDocument):
        text = text.replace(f'/{cls.__name__}"', f'/{_named(cls)}"')
    parts = json.loads(text)
    said = {_named(cls): _described(parts[cls.__name__], cls) for cls in _entries(PlanDocument)}
    top = said.pop(_named(PlanDocument))
    top["properties"] |= {"schema": {"const": SCHEMA}, "version": {"const": VERSION}}
    top["properties"]["trees"]["minItems"] = 1
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": f"Cantrel plan document, version {VERSION}",
        "description": "A whole job. Every key that carries a quantity ends in its unit, as _m, _deg, _N, _m_s. "
        "x is east, y is north; bearings clockwise from north.",
        **{k: v for k, v in top.items() if k not in ("title", "description")},
        "$defs": dict(sorted(said.items())),
    }


def _entries(top: type) -> list[type]:
    """Declarations that a declaration is made of, itself among them."""
    found: dict[str, type] = {}

    def walk(node: Any) -> None:
        if isinstance(node, msgspec.inspect.DataclassType) and node.cls.__name__ not in found:
            found[node.cls.__name__] = node.cls
            for field in node.fields:
                walk(field.type)
        for inner in (*getattr(node, "types", ()), *getattr(node, "item_types", ())):
            walk(inner)
        if hasattr(node, "item_type"):
            walk(node.item_type)

    walk(msgspec.inspect.type_info(top))
    return list(found.values())


def _named(cls: type) -> str:
    """Name of a declaration in the schema: picks are “pick”, device readings “device_reading”."""
    plain = cls.__name__.removesuffix("Entry")
    return "".join(f"_{c.lower()}" if c.isupper() and i else c.lower() for i, c in enumerate(plain))


def _described(shape: dict[str, Any], cls: type) -> dict[str, Any]:
    """A declaration's part of the schema: what its fields say laid over the shapes their types give."""
    found = {k: v for k, v in shape.items() if k != "title"} | {"additionalProperties": False}
    found["description"] = (cls.__doc__ or "").strip()
    found["properties"] = {
        key: _flat({k: v for k, v in shape["properties"][key].items() if k != "default"}) | _said(key, spec, shape)
        for key, spec in specs(cls).items()
    }
    return found


def _flat(shape: dict[str, Any]) -> dict[str, Any]:
    """A number, text or nothing as one type of several, which errors can name."""
    parts: list[dict[str, Any]] = shape.get("anyOf", [])
    if len(parts) == 2 and parts[1] == {"type": "null"} and "$ref" not in parts[0]:
        return parts[0] | {"type": [parts[0]["type"], "null"]}
    return shape


def _said(key: str, spec: Spec, shape: dict[str, Any]) -> dict[str, Any]:
    of_list = shape["properties"][key].get("type") == "array" or _lists(shape["properties"][key])
    found: dict[str, Any] = {"title": spec.label} if spec.label else {}
    unit = unit_of(key).lstrip("_").replace("m_s", "m/s").replace("kg_m3", "kg/m³")
    row = ranges().get(spec.range)
    said = [f"[{unit}]" if unit else "", row.why if row else ""]
    if any(said):
        found["description"] = " ".join(s for s in said if s)
    if row and not of_list:
        factor = UNITS.get(unit_of(key), 1.0)
        found |= {"minimum": _end(row.low / factor), "maximum": _end(row.high / factor)}
    if keys(spec.choices):
        found["enum"] = [*keys(spec.choices), *([None] if _nullable(shape["properties"][key]) else [])]
    if spec.most is not None:
        found["maxItems" if of_list else "maxLength"] = spec.most
    if spec.pattern:
        found["pattern"] = f"^$|{spec.pattern}"
    return found


def _end(value: float) -> float:
    """An end of a range in the document's unit, without the last bit's noise."""
    found = float(f"{value:.12g}")
    return int(found) if found == int(found) and math.isfinite(found) else found


def _nullable(shape: dict[str, Any]) -> bool:
    return any(part.get("type") == "null" for part in shape.get("anyOf", ()))


def _lists(shape: dict[str, Any]) -> bool:
    return any(part.get("type") == "array" for part in shape.get("anyOf", ()))


@cache
def published() -> dict[str, Any]:
    """Return the schema as it is checked in beside the code."""
    found: dict[str, Any] = json.loads(files("treecore").joinpath(FILE).read_text(encoding="utf-8"))
    return found


@cache
def enforced() -> dict[str, Any]:
    """Return the schema a document is held to on reading.

    Ranges, and choices that are not closed, are left to the core: it refuses with the reason, tree by tree and pick by
    pick, where a schema could only turn the whole document away.
    """
    found: dict[str, Any] = json.loads(json.dumps(published()))
    soft = {_named(cls): {k for k, s in specs(cls).items() if not s.closed} for cls in _entries(PlanDocument)}
    for name, part in found["$defs"].items():
        for key, shape in part["properties"].items():
            for word in ("minimum", "maximum", "enum") if key in soft[name] else ():
                shape.pop(word, None)
            shape.pop("maxLength", None)
    return found


def write() -> str:
    """Return the text the schema is checked in as."""
    return json.dumps(schema(), indent=1, ensure_ascii=False) + "\n"
