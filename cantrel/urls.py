"""All routes, one room after another."""

from django.urls import include, path

ROOMS = ("crews", "species", "jobs", "site", "survey", "felling", "gear", "takedown", "briefing", "daybook", "exchange")
urlpatterns = [path("", include(f"apps.{room}.urls")) for room in ROOMS]
