"""Routes of measuring and the walk-up."""

from django.urls import path

from apps.survey import bodyviews, views

TREE = "jobs/<row:job_id>/trees/<row:tree_id>/"
urlpatterns = [
    path("jobs/<row:job_id>/tree-preview/", views.tree_preview, name="tree-preview"),
    path(TREE + "measure/", views.measure, name="measure"),
    path(TREE + "body/", bodyviews.tree_body, name="tree-body"),
    path(TREE + "body/edit/", bodyviews.tree_body_edit, name="tree-body-edit"),
    path(TREE + "measure/readings/<slug:method>/", views.reading_new, name="reading-new"),
    path(TREE + "measure/use/<row:reading_id>/", views.reading_use, name="reading-use"),
    path(TREE + "walk-up/", views.walk_up, name="walk-up"),
    path(TREE + "walk-up/own/", views.line_new, name="line-new"),
    path(TREE + "walk-up/photo/<row:pk>/", views.hazard_photo, name="hazard-photo"),
    path(TREE + "walk-up/rest/", views.rest, name="walk-up-rest"),
    path(TREE + "walk-up/<slug:hazard>/", views.answer, name="hazard-answer"),
]
