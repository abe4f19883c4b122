"""A figure with its why as one piece of markup: written here rather than as a template, because a
drag asks for forty.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django import template
from django.urls import reverse
from django.utils.html import escape, format_html
from django.utils.safestring import mark_safe
from django.utils.translation import gettext

if TYPE_CHECKING:
    from cantrel.art.tree import Art

register = template.Library()
TERM = "<li><b>{}</b> = {} <span>{}</span></li>"
ROW = (
    '<details class="fig {}" data-figure="{}"><summary><span class="name">{}</span>'
    '<span class="big" data-raw="{}">{}<small>{}</small></span><span class="spread">{}</span></summary>'
    '<div class="why"><p class="formula">{}</p><ul>{}</ul><p class="source">{}. <a href="{}">{}</a></p></div></details>'
)


LIMB = '<polygon class="limb {}" points="{}"{}><title>{}</title></polygon>'


@register.simple_tag
def limbs(rows: list[dict[str, Any]], act: str, bench: bool | str) -> str:
    """Limbs of an elevation as polygons; on a bench they can be pressed. A tree has up to some hundreds of them."""
    out = []
    for row in rows:
        words = escape(row["words"])
        press = f' data-act="{act}" data-which="{escape(row["which"])}"' if bench else ""
        if bench and act == "take":
            said = gettext("{words}: replace it by a measured one").format(words=words)
            press += f' role="button" aria-label="{said}"'
        out.append(LIMB.format(row["style"], row["points"], press, words))
    return mark_safe("".join(out))


@register.simple_tag
def treeart(art: Art) -> str:
    """A drawn tree: foliage behind its wood, then the wood, then what is marked on it."""
    groups = (("art-leaves", art.behind), ("art-wood", art.wood), ("art-marks", art.marks))
    return mark_safe(
        "".join(
            f'<g class="{name}">' + "".join(f'<path class="{row.style}" d="{row.path}"/>' for row in rows) + "</g>"
            for name, rows in groups
        )
    )


@register.simple_tag
def weights(assumed: list[dict[str, Any]], measured: list[dict[str, Any]]) -> str:
    """Masses written at the limbs they belong to."""
    parts = [
        f'<text class="weight guess" x="{r["tip"][0]}" y="{r["tip"][1]}" dx="4" dy="4">{escape(r["tag"])}</text>'
        for r in assumed
        if r["tag"]
    ]
    parts += [
        f'<text class="weight" x="{r["cg"][0]}" y="{r["cg"][1]}">{escape(r["tag"])}</text>'
        for r in measured
        if r["tag"]
    ]
    return mark_safe("".join(parts))


@register.simple_tag
def figure(row: dict[str, Any]) -> str:
    """A figure: label, value, unit, interval and kind, and behind it the formula with this case's values."""
    kind = f"{row['spread']} · {row['known']}" if row["spread"] else row["known"]
    widest = (
        gettext(". Widened most by: {widest}").format(widest=row["widest"]) if row["widest"] and row["spread"] else ""
    )
    terms = "".join(
        [TERM.format(*[str(escape(t[part])) for part in ("symbol", "value", "meaning")]) for t in row["terms"]]
    )
    return format_html(
        ROW,
        row["kind"],
        row["key"],
        row["label"],
        row["raw"],
        row["value"],
        row["unit"],
        kind,
        row["formula"],
        mark_safe(terms),
        row["source"] + widest,
        row["methods"] or reverse("methods"),
        gettext("How it is worked out"),
    )
