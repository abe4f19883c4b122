"""Routes of the takedown."""

from django.urls import path

from apps.takedown import layviews, views

TREE = "jobs/<row:job_id>/trees/<row:tree_id>/"
urlpatterns = [
    path(TREE + "takedown/", views.takedown, name="takedown"),
    path(TREE + "takedown/access/", views.access, name="takedown-access"),
    path(TREE + "takedown/lay-out/", layviews.lay_out, name="takedown-lay-out"),
    path(TREE + "takedown/mends/", layviews.mends, name="takedown-mends"),
    path(TREE + "takedown/undo/", views.undo, name="takedown-undo"),
]
