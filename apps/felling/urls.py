"""Routes of method and felling."""

from django.urls import path

from apps.felling import fallviews, pullviews, targets, views

TREE = "jobs/<row:job_id>/trees/<row:tree_id>/"
urlpatterns = [
    path(TREE + "method/", views.method, name="method"),
    path(TREE + "method/lay/", views.lay, name="lay"),
    path(TREE + "method/refer/", views.referral, name="referral"),
    path("yard/schools/", views.yard, name="yard-schools"),
    path(TREE + "fell/", views.fell, name="fell"),
    path(TREE + "fell/pull/", pullviews.pull, name="pull"),
    path(TREE + "fell/fall/", fallviews.footprint, name="footprint"),
    path(TREE + "fell/down/", fallviews.down, name="down"),
    path(TREE + "fell/undo/", views.undo, name="undo"),
    path(TREE + "targets/", targets.target_new, name="target-new"),
    path(TREE + "targets/<row:target_id>/remove/", targets.target_delete, name="target-remove"),
]
