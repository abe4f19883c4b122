"""A row of a table looked up by its key."""

from __future__ import annotations

from typing import Any

from django import template

register = template.Library()


@register.filter
def of(found: Any, key: Any) -> Any:
    """What a table says of a key; nothing where there is no table."""
    return found.get(key, "") if isinstance(found, dict) else ""
