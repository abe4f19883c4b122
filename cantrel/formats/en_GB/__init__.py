"""Dates as British crews write them: with the month in letters, by the 24 hour clock."""
