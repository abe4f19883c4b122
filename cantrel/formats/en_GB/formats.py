"""Dates with the month in letters, times by the 24 hour clock."""

DATETIME_FORMAT = "j F Y, H:i"
SHORT_DATETIME_FORMAT = "j M Y, H:i"
SHORT_DATE_FORMAT = "j M Y"
