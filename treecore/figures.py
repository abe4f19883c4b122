"""Figures: a result with its unit, its interval, and the why that a person can open."""

from __future__ import annotations

from typing import NamedTuple

from treecore.estimate import Estimate


class Term(NamedTuple):
    """One symbol of a formula with its value in this case [SI of ``dimension``]."""

    symbol: str
    meaning: str
    value: float
    dimension: str


class Figure(NamedTuple):
    """A named result. ``formula`` uses the symbols of ``terms``; ``widest`` names the input that widens it most."""

    key: str
    label: str
    estimate: Estimate
    dimension: str
    formula: str
    terms: tuple[Term, ...]
    source: str
    widest: str = ""
