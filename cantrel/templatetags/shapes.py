"""The shape of a verdict as a drawing of its own, so that it is on paper with backgrounds off and in forced colours."""

from __future__ import annotations

from django import template
from django.utils.html import format_html
from django.utils.safestring import mark_safe

register = template.Library()

DRAWN = {
    "within": '<circle cx="8" cy="8" r="7"/>',
    "near": '<path d="M8 1L15.5 15H.5Z"/>',
    "over": '<path d="M5 1H11L15 5V11L11 15H5L1 11V5Z"/>',
    "unknown": '<rect x="2" y="2" width="12" height="12"/>',
}


@register.simple_tag
def shape(kind: str) -> str:
    """Disc, triangle, octagon or dashed square of a verdict; what has none is not known. Its word stands beside it."""
    known = kind if kind in DRAWN else "unknown"
    return format_html(
        '<svg class="shape is-{}" viewBox="0 0 16 16" aria-hidden="true" focusable="false">{}</svg>',
        known,
        mark_safe(DRAWN[known]),
    )
