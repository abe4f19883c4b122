"""Times of the clock and money, as a day says them."""

from __future__ import annotations

from typing import TYPE_CHECKING

from django.utils.translation import gettext

if TYPE_CHECKING:
    from treecore.estimate import Estimate


def time_of(seconds: float) -> str:
    """A time of the clock; beyond midnight with the days."""
    days, rest = divmod(round(seconds / 60.0), 24 * 60)
    said = f"{rest // 60}:{rest % 60:02d}"
    return said if not days else gettext("{time}, {days} days on").format(time=said, days=days)


def money(amount: Estimate, sign: str) -> str:
    """An amount of money to three figures, with its interval."""
    spread = gettext(" ({low} to {high})").format(low=f"{amount.low:,.0f}", high=f"{amount.high:,.0f}")
    return f"{sign}{amount.value:,.0f}{spread if amount.low != amount.high else ''}".replace(",", "\u00a0")
