"""Routes of the record."""

from django.urls import path

from apps.daybook import cell_views, views, work_views

TREE = "jobs/<row:job_id>/trees/<row:tree_id>/"
urlpatterns = [
    path(TREE + "record/", views.record, name="record"),
    path(TREE + "record/work/", work_views.send, name="record-work"),
    path(TREE + "record/work/<row:pk>/", work_views.work, name="work-record"),
    path(TREE + "record/work/<row:pk>/counts/", work_views.counts, name="work-record-counts"),
    path(TREE + "record/photo/<row:pk>/", work_views.photo, name="record-photo"),
    path(TREE + "record/cell/<slug:pick>/", cell_views.cell, name="cell"),
    path(TREE + "record/cell/<slug:pick>/file/", cell_views.logger_file, name="cell-file"),
    path(TREE + "record/trace/<row:pk>/now/", cell_views.now, name="cell-now"),
]
