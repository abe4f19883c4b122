"""Tree lists as CSV: whatever encoding, separator and decimal sign; columns by their headings; line by line."""

from __future__ import annotations

import csv
import io
import math
import re
from collections.abc import Callable, Iterator, Mapping
from functools import cache, lru_cache
from itertools import islice
from typing import Any, NamedTuple

from treecore.errors import BadDocument, CoreError, NotSolvable, none_of
from treecore.formats.plan_document import build_tree
from treecore.species import species_table, states
from treecore.tree.body import usual_spread
from treecore.typed import parse

Entry = dict[str, Any]


class Field(NamedTuple):
    """What a column may hold: its name in words, its dimension ('' for words), and headings it goes by."""

    key: str
    label: str
    dimension: str
    needed: bool
    headings: tuple[str, ...]


FIELDS = (
    Field("name", "Name or number", "", True, ("name", "tree", "treeid", "tree id", "id", "no", "number", "nr", "tag",
    "label")),
    Field("species", "Species", "", True, ("species", "botanical name", "latin name", "scientific name", "common name",
    "art", "baumart")),
    Field("diameter", "Diameter", "girth", False, ("diameter", "dbh", "diam", "d", "bhd")),
    Field("girth", "Girth", "girth", False, ("girth", "circumference", "cbh", "gbh", "umfang")),
    Field("height", "Height", "length", True, ("height", "h", "tree height", "hoehe", "höhe")),
    Field("spread", "Crown spread", "length", False, ("spread", "crown spread", "crown", "crown width",
    "crown diameter", "krone")),
    Field("crown_base", "Foot of the crown", "length", False, ("crown base", "crown height", "first branch",
    "kronenansatz")),
    Field("lean", "Lean", "angle", False, ("lean", "lean angle", "inclination")),
    Field("lean_azimuth", "Leans towards", "angle", False, ("lean azimuth", "lean direction", "leans towards")),
    Field("x", "East", "length", False, ("x", "east", "easting")),
    Field("y", "North", "length", False, ("y", "north", "northing")),
    Field("lat", "Latitude", "", False, ("lat", "latitude")),
    Field("lon", "Longitude", "", False, ("lon", "lng", "long", "longitude")),
    Field("state", "State", "", False, ("state", "condition", "leaf")),
)  # fmt: skip
_BY_KEY = {field.key: field for field in FIELDS}
# What a spreadsheet would run, whatever blanks stand before it, and the same once it was made text.
_FORMULA = re.compile(r"\s*'*\s*[=+\-@|%＝＋－＠]|[\t\r\n]")
_GUARDED = re.compile(r"'+\s*[=+\-@|%＝＋－＠]|'[\t\r\n]")
_UNITS = {"mm", "cm", "m", "in", "ft", "deg", "°"}
MOST_ROWS = 50_000
MOST_COLUMNS = 60


def decoded(raw: bytes) -> tuple[str, str]:
    """Text of a file and the encoding it was in.

    Parameters
    ----------
    raw : bytes
        The file.

    Raises
    ------
    BadDocument
        If it is no text.
    """
    if raw.startswith((b"\xff\xfe", b"\xfe\xff")):
        return _tried(raw, "utf-16"), "UTF-16"
    try:
        text, name = raw.decode("utf-8-sig"), "UTF-8"
    except UnicodeDecodeError:
        text, name = _tried(raw, "cp1252"), "Windows-1252"
    if "\x00" in text or sum(ord(c) < 32 and c not in "\r\n\t" for c in text[:4000]) > 4:
        raise BadDocument(field="file", why="this is no text: save the list as CSV")
    return text, name


def _tried(raw: bytes, encoding: str) -> str:
    try:
        return raw.decode(encoding)
    except UnicodeDecodeError:
        raise BadDocument(field="file", why="the letters of this file can't be read: save it as CSV in UTF-8") from None


class Sheet(NamedTuple):
    """A list as it was typed: headings, raw lines with their numbers, and the separator."""

    headings: tuple[str, ...]
    lines: tuple[tuple[int, tuple[str, ...]], ...]
    separator: str


def sheet(text: str) -> Sheet:
    """Split a list into its cells.

    Parameters
    ----------
    text : str
        The list, headings first.

    Raises
    ------
    BadDocument
        If it holds no table.
    """
    head = next((line for line in text.splitlines() if line.strip()), "")
    separator = max(";\t,|", key=head.count)
    if head.count(separator) == 0:
        raise BadDocument(field="line 1", why="only one column: separate columns by commas, semicolons or tabs")
    if head.count(separator) >= MOST_COLUMNS:
        raise BadDocument(field="line 1", why="more than {most} columns", most=MOST_COLUMNS)
    rows = csv.reader(io.StringIO(text), delimiter=separator)
    try:
        filled = ((rows.line_num, tuple(c.strip() for c in row)) for row in rows if any(c.strip() for c in row))
        found = list(islice(filled, MOST_ROWS + 2))
    except csv.Error as error:
        raise BadDocument(field=f"line {rows.line_num}", why="not a table: {error}", error=error) from None
    if len(found) < 2:
        raise BadDocument(field="line 1", why="there are headings but no trees below them")
    if len(found) > MOST_ROWS + 1:
        raise BadDocument(field="file", why="more than {most} rows: take them in part by part", most=MOST_ROWS)
    return Sheet(found[0][1], tuple(found[1:]), separator)


def _plain(heading: str) -> tuple[str, str]:
    """Return a heading without its unit, and the unit."""
    words = re.sub(r"[()\[\]/_\-.]+", " ", heading.lower()).split()
    unit = words.pop() if len(words) > 1 and words[-1] in _UNITS else ""
    return " ".join(words), unit


def guessed(headings: tuple[str, ...]) -> dict[str, str]:
    """Guess which column holds what.

    Parameters
    ----------
    headings : tuple of str
        First line of the list.

    Returns
    -------
    dict of str
        Field key by heading; '' where nothing fits.
    """
    taken: set[str] = set()
    mapping = {}
    for heading in headings:
        word, _ = _plain(heading)
        fits = next((f.key for f in FIELDS if word in f.headings and f.key not in taken), "")
        taken.add(fits)
        mapping[heading] = fits
    return mapping


def missing(mapping: Mapping[str, str]) -> list[str]:
    """Return what a mapping still lacks, in words.

    Parameters
    ----------
    mapping : mapping of str
        Field key by heading.
    """
    keys = set(mapping.values())
    lack = [f.label for f in FIELDS if f.needed and f.key not in keys]
    return lack + (["Diameter or girth"] if not keys & {"diameter", "girth"} else [])


class Line(NamedTuple):
    """One line of a list: its number, its cells, and either an entry of the document or why it is refused."""

    number: int
    cells: tuple[str, ...]
    entry: Entry | None
    refused: CoreError | None


def lines(
    table: Sheet,
    mapping: Mapping[str, str],
    system: str,
    corrections: Mapping[int, tuple[str, ...]] | None = None,
    place: Callable[[float, float], tuple[float, float]] | None = None,
    taken: frozenset[str] = frozenset(),
) -> Iterator[Line]:
    """Read a list line by line.

    Parameters
    ----------
    table : Sheet
        The list.
    mapping : mapping of str
        Field key by heading.
    system : str
        Units of numbers that have none in their cell or heading.
    corrections : mapping, optional
        Cells typed anew, by line number.
    place : callable, optional
        Local metres of a longitude and latitude [degrees], where the list has them.
    taken : frozenset of str
        Names of trees that are there already.
    """
    columns = [(i, mapping.get(h, ""), _plain(h)[1]) for i, h in enumerate(table.headings)]
    seen: dict[str, int] = {}
    for number, cells in table.lines:
        cells = (corrections or {}).get(number, cells)
        try:
            entry = _entry(cells, columns, system, place)
            name = entry["name"]
            if name in taken:
                raise NotSolvable(what="name", why="a tree of this job is called “{name}” already", name=name)
            if name in seen:
                raise NotSolvable(what="name", why="line {seen} is called “{name}” too", seen=seen[name], name=name)
            build_tree(entry)
            seen[name] = number
            yield Line(number, cells, entry, None)
        except CoreError as error:
            yield Line(number, cells, None, error)


def _entry(
    cells: tuple[str, ...],
    columns: list[tuple[int, str, str]],
    system: str,
    place: Callable[[float, float], tuple[float, float]] | None,
) -> Entry:
    got = {key: (cells[i], unit) for i, key, unit in columns if key and i < len(cells) and cells[i]}
    values = {key: _value(key, text, unit, system) for key, (text, unit) in got.items()}
    for field in FIELDS:
        if field.needed and field.key not in values:
            raise NotSolvable(field.key, "{label} is empty", label=field.label.lower())
    if "diameter" not in values and "girth" not in values:
        raise NotSolvable(what="diameter", why="neither diameter nor girth is given")
    diameter = values["diameter"] if "diameter" in values else values["girth"] / math.pi
    entry: Entry = {
        "name": str(values["name"])[:80],
        "species": values["species"],
        "diameter_m": round(diameter, 4),
        "height_m": values["height"],
        "diameter_kind": "measured",
        "height_kind": "estimated",
        "lean_kind": "assumed",
        "spread_m": values["spread"] if "spread" in values else round(usual_spread(values["species"], diameter), 2),
        "lean_deg": math.degrees(values.get("lean", 0.0)),
        "lean_azimuth_deg": math.degrees(values.get("lean_azimuth", 0.0)) % 360.0,
    }
    if "lean" in values:
        entry["lean_kind"] = "estimated"
    if "crown_base" in values:
        entry["crown_base_m"] = values["crown_base"]
    if "state" in values:
        entry["state"] = values["state"]
    x, y = _spot(values, place)
    return entry | {"x_m": round(x, 3), "y_m": round(y, 3)}


def _spot(values: Entry, place: Callable[[float, float], tuple[float, float]] | None) -> tuple[float, float]:
    if "lat" in values and "lon" in values:
        if place is None:
            raise NotSolvable(what="latitude", why="say at which latitude and longitude the job's origin lies first")
        if abs(values["lat"]) > 90.0 or abs(values["lon"]) > 180.0:
            raise NotSolvable(
                what="latitude",
                why="{lat:g}, {lon:g} is no latitude and longitude",
                lat=values["lat"],
                lon=values["lon"],
            )
        return place(values["lon"], values["lat"])
    return values.get("x", 0.0), values.get("y", 0.0)


@lru_cache(maxsize=4096)
def _value(key: str, text: str, unit: str, system: str) -> Any:
    if key == "species":
        return _species(text)
    if key == "state":
        return _state(text)
    if key == "name":
        return text[1:] if _GUARDED.match(text) else text
    if key in ("lat", "lon"):
        return _number(key, text)
    field = _BY_KEY[key]
    plain = _decimal(text)
    typed = f"{plain} {unit}" if unit and re.fullmatch(r"[-+−]?[\d.]+", plain) else plain
    try:
        return parse(typed, field.dimension, system)
    except ValueError as error:
        raise NotSolvable(key, "“{text}”: {error}", text=text, error=error) from None


def _decimal(text: str) -> str:
    """Return a number with a point for its decimal sign, whichever the list uses."""
    number = text.replace("\u00a0", "").replace("'", "'")
    if re.fullmatch(r"[-+−]?\d{1,3}(\.\d{3})+,\d+", number):
        return number.replace(".", "").replace(",", ".")
    if re.fullmatch(r"[-+−]?\d{1,3}(,\d{3})+\.\d+", number):
        return number.replace(",", "")
    return re.sub(r"(?<=\d),(?=\d)", ".", number)


def _number(key: str, text: str) -> float:
    try:
        value = float(_decimal(text))
    except ValueError:
        value = math.nan
    if not math.isfinite(value):
        raise NotSolvable(key, "“{text}” is no number", text=text)
    return value


@cache
def _names() -> dict[str, str]:
    names: dict[str, str] = {}
    for row in species_table().values():
        beside = re.sub(r".*\((?:and )?(.*)\)", r"\1", row.common)  # “European beech (and copper beech)”
        for word in (row.key, row.scientific, row.common, row.common.split(" (")[0], beside):
            names.setdefault(word.lower().replace("×", "x"), row.key)
    return names


def _species(text: str) -> str:
    word = " ".join(text.lower().replace("×", "x").split())
    found = _names().get(word)
    if found is None:
        raise NotSolvable(what="species", why="“{text}” is not in the species table", text=text)
    return found


def _state(text: str) -> str:
    word = text.strip().lower()
    found = next((s.key for s in states().values() if word in (s.key, s.name.lower())), None)
    if found is None:
        raise none_of(what="state", given=text, known=(s.name.lower() for s in states().values()))
    return found


def write(trees: list[Mapping[str, Any]]) -> str:
    """Return a tree list as CSV that ``sheet`` reads again; lengths in metres, angles in degrees.

    Parameters
    ----------
    trees : list of mapping
        The document's trees.
    """
    out = io.StringIO()
    columns = (
        ("name", "name"),
        ("species", "species"),
        ("state", "state"),
        ("diameter (m)", "diameter_m"),
        ("height (m)", "height_m"),
        ("spread (m)", "spread_m"),
        ("crown base (m)", "crown_base_m"),
        ("lean (deg)", "lean_deg"),
        ("lean azimuth (deg)", "lean_azimuth_deg"),
        ("x (m)", "x_m"),
        ("y (m)", "y_m"),
    )
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow([heading for heading, _ in columns])
    writer.writerows([_guarded(row.get(key, "")) for _, key in columns] for row in trees)
    return out.getvalue()


def _guarded(cell: Any) -> Any:
    """A cell that a spreadsheet will not take for a formula."""
    return f"'{cell}" if isinstance(cell, str) and _FORMULA.match(cell) else cell
