"""Routes of jobs."""

from django.urls import path

from apps.jobs import views

urlpatterns = [
    path("", views.jobs, name="jobs"),
    path("jobs/new/", views.job_new, name="job-new"),
    path("jobs/<int:job_id>/", views.job, name="job"),
    path("jobs/<int:job_id>/trees/new/", views.tree_new, name="tree-new"),
]
