"""All routes, one room after another."""

from django.urls import include, path

urlpatterns = [
    path("", include("apps.crews.urls")),
]
