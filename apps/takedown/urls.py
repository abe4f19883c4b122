"""Routes of the takedown."""

from django.urls import path

from apps.takedown import views

TREE = "jobs/<row:job_id>/trees/<row:tree_id>/"
urlpatterns = [
    path(TREE + "takedown/", views.takedown, name="takedown"),
    path(TREE + "takedown/access/", views.access, name="takedown-access"),
    path(TREE + "takedown/undo/", views.undo, name="takedown-undo"),
]
