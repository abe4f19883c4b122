"""Routes of the record."""

from django.urls import path

from apps.daybook import views

urlpatterns = [path("jobs/<row:job_id>/trees/<row:tree_id>/record/", views.record, name="record")]
