"""Routes of the record."""

from django.urls import path

from apps.daybook import views, work_views

TREE = "jobs/<row:job_id>/trees/<row:tree_id>/"
urlpatterns = [
    path(TREE + "record/", views.record, name="record"),
    path(TREE + "record/work/", work_views.send, name="record-work"),
    path(TREE + "record/work/<row:pk>/", work_views.work, name="work-record"),
    path(TREE + "record/work/<row:pk>/counts/", work_views.counts, name="work-record-counts"),
    path(TREE + "record/photo/<row:pk>/", work_views.photo, name="record-photo"),
]
