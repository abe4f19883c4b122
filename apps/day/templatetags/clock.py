"""A time of the day, kept as minutes from midnight."""

from django import template

register = template.Library()


@register.filter
def clock(minutes: int) -> str:
    """As people read it on a clock."""
    return f"{minutes // 60}:{minutes % 60:02d}"
