"""What ``manage.py check --deploy`` says besides what Django says."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.core.checks import CheckMessage, Warning, register

from cantrel.surroundings import ALONE, said


@register(deploy=True)
def others_reach_it_in_the_clear(**kwargs: Any) -> list[CheckMessage]:
    """Passwords must not go over a network unsealed."""
    if settings.TLS or said("HOST", ALONE[0]) in ALONE:
        return []
    words = "Others can reach it without TLS."
    return [Warning(words, hint="Put a proxy that speaks TLS in front and set CANTREL_TLS=1.", id="cantrel.W001")]
