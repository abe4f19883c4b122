"""All routes, one room after another."""

from django.urls import include, path

from cantrel import converters  # noqa: F401

ROOMS = (
    "crews",
    "species",
    "jobs",
    "site",
    "survey",
    "felling",
    "gear",
    "takedown",
    "day",
    "briefing",
    "daybook",
    "phone",
    "lessons",
    "exchange",
    "keeping",
)
urlpatterns = [path("", include(f"apps.{room}.urls")) for room in ROOMS]
handler400 = "cantrel.errorpages.bad_request"
handler403 = "cantrel.errorpages.denied"
handler404 = "cantrel.errorpages.not_found"
handler500 = "cantrel.errorpages.failed"
