"""Routes of import and export."""

from django.urls import path

from apps.exchange import views

urlpatterns = [path("jobs/<int:job_id>/trees/<int:tree_id>/plan.json", views.export, name="export")]
