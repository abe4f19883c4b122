"""Ids in addresses: whole numbers that a row can have."""

from django.urls import register_converter
from django.urls.converters import IntConverter

DIGITS = 18  # more than any row's; a bigger number is no row's and must not reach the database


class RowConverter(IntConverter):
    def to_python(self, value: str) -> int:
        """The number; ValueError, and so not found, where no row can have it."""
        if len(value) > DIGITS:
            raise ValueError
        return int(value)


register_converter(RowConverter, "row")
