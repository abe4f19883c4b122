"""The project's own documents as pages: every section and every numbered item of one can be linked to."""

from __future__ import annotations

import re
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from django.urls import reverse
from django.utils.text import slugify
from markdown_it import MarkdownIt

if TYPE_CHECKING:
    from collections.abc import Iterator

    from markdown_it.token import Token

FOLDER = Path(__file__).resolve().parent.parent / "docs"
_CITED = re.compile(r"docs/methods\.md,? ([a-z ]+?) \((\d+)\)")


class Document(NamedTuple):
    """A document for a page: its title, its text as HTML, and its sections as (anchor, heading)."""

    title: str
    html: str
    sections: tuple[tuple[str, str], ...]


@cache
def document(name: str) -> Document:
    """A document by its file's name without ending; raw HTML in it is text."""
    reader = MarkdownIt("commonmark", {"html": False}).enable("table")
    tokens = reader.parse((FOLDER / f"{name}.md").read_text(encoding="utf-8"))
    title, sections = "", []
    for level, heading, text in _headings(tokens):
        if level == "h1":
            title = text
            continue
        anchor = slugify(text)
        heading.attrSet("id", anchor)
        sections.append((anchor, text))
    _number(tokens)
    rest = [t for i, t in enumerate(tokens) if not _of_title(tokens, i)]
    return Document(title, reader.renderer.render(rest, reader.options, {}), tuple(sections))


def _headings(tokens: list[Token]) -> Iterator[tuple[str, Token, str]]:
    for i, token in enumerate(tokens):
        if token.type == "heading_open":
            yield token.tag, token, tokens[i + 1].content


def _of_title(tokens: list[Token], i: int) -> bool:
    """Whether a token belongs to the first heading, which the page says itself."""
    near = tokens[max(i - 2, 0) : i + 1]
    return any(t.type == "heading_open" and t.tag == "h1" for t in near)


def _number(tokens: list[Token]) -> None:
    """Give every item of a section's own numbered list its anchor: the section and the number."""
    section, number = "", 0
    for token in tokens:
        if token.type == "heading_open":
            section, number = str(token.attrGet("id") or ""), 0
        elif token.type == "ordered_list_open" and token.level == 0:
            number = int(token.attrGet("start") or 1) - 1
        elif token.type == "list_item_open" and token.level == 1 and token.markup in (".", ")"):
            number += 1
            token.attrSet("id", f"{section}-{number}")


def cited(source: str) -> str:
    """Address of the place of the methods that a figure's or a limit's source cites; empty without one."""
    found = _CITED.search(source)
    return f"{reverse('methods')}#{slugify(found[1])}-{found[2]}" if found else ""
