"""A figure with its why as one piece of markup: written here rather than as a template, because a drag asks for forty."""

from django import template
from django.utils.html import escape, format_html
from django.utils.safestring import mark_safe

register = template.Library()
TERM = "<li><b>{}</b> = {} <span>{}</span></li>"
ROW = (
    '<details class="fig {}" data-figure="{}"><summary><span class="name">{}</span>'
    '<span class="big" data-raw="{}">{}<small>{}</small></span><span class="spread">{}</span></summary>'
    '<div class="why"><p class="formula">{}</p><ul>{}</ul><p class="source">{}.</p></div></details>'
)


@register.simple_tag
def figure(row):
    """A figure: label, value, unit, interval and kind, and behind it the formula with this case's values."""
    kind = f"{row['spread']} · {row['kind']}" if row["spread"] else row["kind"]
    widest = f". Widened most by: {row['widest']}" if row["widest"] and row["spread"] else ""
    terms = "".join(
        [TERM.format(*[str(escape(t[part])) for part in ("symbol", "value", "meaning")]) for t in row["terms"]]
    )
    return format_html(
        ROW, row["kind"], row["key"], row["label"], row["raw"], row["value"], row["unit"], kind, row["formula"],
        mark_safe(terms), row["source"] + widest,
    )  # fmt: skip
