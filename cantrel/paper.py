"""Pages as PDF, and drawings that stand on their own: the styles of the pages' drawings, put into each of them."""

from __future__ import annotations

import re
from functools import cache
from typing import TYPE_CHECKING

import tinycss2
from django.contrib.staticfiles import finders

if TYPE_CHECKING:
    from collections.abc import Iterator
    from typing import Any

SIZES = {"a4": "A4", "letter": "letter"}
SHEETS = ("cantrel/fieldbook.css", "cantrel/bench.css", "cantrel/paper.css")
PAINTS = re.compile(r"(fill|stroke|font-|text-anchor|opacity|paint-order|display)")
SVG = re.compile(r"<svg\b[^>]*>.*?</svg>", re.DOTALL)
HEAD = re.compile(r"<svg\b[^>]*>")
CLASS = re.compile(r"\.([A-Za-z_][\w-]*)")
CLASSES = re.compile(r'class="([^"]*)"')
MIXED = re.compile(r"color-mix\(in srgb, (#[0-9a-f]{6}) ([\d.]+)%, (#[0-9a-f]{6})\)")
SCALED = re.compile(r"calc\(([\d.]+(?:px|rem))(?:[^()]|\([^()]*\))*\)")  # what a zoomed drawing divides by its zoom
VARIABLE = re.compile(r"var\((--[\w-]+)\)")


def _text(name: str) -> str:
    path = finders.find(name)
    if path is None:
        raise FileNotFoundError(name)
    with open(path, encoding="utf-8") as file:
        return file.read()


@cache
def _colours() -> dict[str, str]:
    """The day's colours and sizes by their names."""
    found: dict[str, str] = {}
    for rule in _rules(_text(SHEETS[0])):
        if tinycss2.serialize(rule.prelude).strip() == ":root":
            for said in tinycss2.parse_blocks_contents(rule.content):
                if said.type == "declaration":
                    found.setdefault(said.name, tinycss2.serialize(said.value).strip())
    return found


def _rules(text: str) -> Iterator[Any]:
    for rule in tinycss2.parse_stylesheet(text, skip_comments=True, skip_whitespace=True):
        if rule.type == "qualified-rule":
            yield rule


@cache
def _drawing_rules() -> tuple[tuple[str, frozenset[str], str], ...]:
    """Rules that paint: one selector each, the classes it asks for, what it says with the day's colours put in."""
    found = []
    for name in SHEETS:
        for rule in _rules(_text(name)):
            said = _day(tinycss2.serialize(rule.content).strip())
            if not PAINTS.search(said):
                continue
            for selector in tinycss2.serialize(rule.prelude).split(","):
                found.append((selector.strip(), frozenset(CLASS.findall(selector)), said))
    return tuple(found)


def _mixed(match: re.Match[str]) -> str:
    """Two colours mixed, as the maker of PDF can't."""
    share = float(match[2]) / 100.0
    one, two = (tuple(int(match[i][1 + k : 3 + k], 16) for k in (0, 2, 4)) for i in (1, 3))
    return "#" + "".join(f"{round(share * a + (1.0 - share) * b):02x}" for a, b in zip(one, two, strict=True))


def _day(text: str) -> str:
    """A text with names of colours and sizes replaced by what they are by day; sizes in points of the drawing."""
    text = VARIABLE.sub(lambda match: _colours().get(match[1], match[0]), text)
    text = MIXED.sub(_mixed, SCALED.sub(r"\1", text))
    return re.sub(r"([\d.]+)rem", lambda match: f"{16.0 * float(match[1]):g}px", text)


def styled(svg: str, halo: bool = True) -> str:
    """A drawing with the styles it needs inside it, so that it can stand on its own; ``halo`` that letters are painted
    over their own edge, which the maker of PDF can't.
    """
    used = {name for names in CLASSES.findall(svg) for name in names.split()}
    rules = [
        f"{selector}{{{said if halo else _without_halo(said)}}}"
        for selector, classes, said in _drawing_rules()
        if classes and classes <= used and ":" not in selector.replace("::", "")
    ]
    head = HEAD.match(svg)
    if head is None:
        return svg
    whole = head[0] if "xmlns=" in head[0] else head[0].replace("<svg", '<svg xmlns="http://www.w3.org/2000/svg"', 1)
    return f"{whole}<style>svg{{font-family:Archivo,sans-serif}}{''.join(rules)}</style>{svg[head.end() :]}"


def _without_halo(said: str) -> str:
    """What a rule says, without the edge of letters where they would be painted over it."""
    if "paint-order" not in said:
        return said
    return ";".join(part for part in said.split(";") if not part.strip().startswith(("stroke", "paint-order")))


def with_drawings(html: str) -> str:
    """A page with every drawing of it styled by itself."""
    return SVG.sub(lambda match: styled(match[0], halo=False), html)


def pdf(html: str, size: str) -> bytes:
    """A page as PDF, on A4 or Letter."""
    from cantrel.pdf import drawn  # what draws it takes a second to load, and nobody else needs it

    return drawn(with_drawings(html), _day(_text("cantrel/paper.css")), SIZES[size])
