"""Routes of the ground crew's phone."""

from django.urls import path

from apps.phone import views

TREE = "jobs/<row:job_id>/trees/<row:tree_id>/"
urlpatterns = [
    path(TREE + "crew/", views.screens, name="phone"),
    path(TREE + "crew/<slug:pick>/", views.pick, name="phone-pick"),
    path("phone/ready/", views.ready, name="phone-ready"),
    path("phone/trust/", views.trust, name="phone-trust"),
    path("worker.js", views.worker, name="worker"),
    path("manifest.webmanifest", views.manifest, name="manifest"),
]
