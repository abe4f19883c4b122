"""Routes of the record."""

from django.urls import path

from apps.daybook import views

urlpatterns = [path("jobs/<int:job_id>/trees/<int:tree_id>/record/", views.record, name="record")]
