"""What stands on a drawing as a sign of its own, drawn about the point it names; each is its own handle."""

from __future__ import annotations

from django import template
from django.utils.safestring import SafeString, mark_safe

register = template.Library()

# Drawn about 0, 0 in points of the picture: ink lines on paper, so that they read over leaves and wood.
GLYPHS = {
    "cut": '<path d="M-10 0H10M-10-4V4M10-4V4"/>',
    "tie": '<path d="M-9-5H9M-9 0H9M-9 5H9"/>',
    "point": '<path class="body" d="M-7-7Q0-13 7-7L8 3Q0 13-8 3Z"/><circle class="hole" r="3.6"/><circle r="1"/>',
    "redirect": '<circle class="body" r="8"/><circle class="hole" r="4"/>',
    "device": '<path class="body" d="M-8-9H8V-6H4V7H8V10H-8V7H-4V-6H-8Z"/><path d="M-5-3L5-1M-5 1L5 3M-5 5L5 7"/>',
    "stance": '<circle class="body" cx="0" cy="-8" r="4.5"/><path d="M0-3V4L6 9M0 4L-6 9M0-1L8 1M0-1L-7 2"/>',
    "tie_in": '<path d="M-8-3H8M-8 2H8"/><circle class="body" cx="0" cy="8" r="4"/>',
    "second_in": '<path d="M-8-3H8M-8 2H8"/><circle class="body" cx="0" cy="8" r="4"/><path d="M-2 8H2"/>',
    "landing": '<path d="M-9-4V-9H-4M4-9H9V-4M9 4V9H4M-4 9H-9V4M0-6V4M-3 1L0 4 3 1"/>',
    "faces": '<path d="M-8 6L0-8 8 6" class="body"/>',
}
# A saw's edge or line is marked as on a timber: a crow's foot with its toes together at the very place.
CROW = '<path d="M-6-10L0 0L6-10M0 0V-12"/>'
UP = '<path d="M-6 10L0 0L6 10M0 0V12"/>'
LEFT = '<path d="M-10-6L0 0L-10 6M0 0H-12"/>'
RIGHT = '<path d="M10-6L0 0L10 6M0 0H12"/>'
STAKE = '<path class="body" d="M-3-9H3L1 9H-1Z"/>'
GLYPHS |= {
    "depth": RIGHT,
    "hinge": LEFT,
    "left_end": CROW,
    "right_end": UP,
    "opening": RIGHT,
    "rise": LEFT,
    "lay": '<path class="body" d="M0 10V-10L11-6 0-2"/>',
    "anchor": STAKE,
    "guy": STAKE,
}
OTHER = '<circle class="body" r="7"/>'


@register.simple_tag
def glyph(name: str) -> SafeString:
    """The sign of a handle on a halo of paper."""
    drawn = GLYPHS.get(name, OTHER)
    return mark_safe(f'<circle class="knob" r="13"/><g class="glyph-halo">{drawn}</g><g class="glyph">{drawn}</g>')
