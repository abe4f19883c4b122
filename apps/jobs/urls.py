"""Routes of jobs."""

from django.urls import path

from apps.jobs import views

urlpatterns = [
    path("", views.jobs, name="jobs"),
    path("jobs/new/", views.job_new, name="job-new"),
    path("jobs/<int:job_id>/", views.job, name="job"),
    path("jobs/<int:job_id>/trees/new/", views.tree_new, name="tree-new"),
    path("jobs/<int:job_id>/trees/<int:tree_id>/targets/", views.target_new, name="target-new"),
    path(
        "jobs/<int:job_id>/trees/<int:tree_id>/targets/<int:target_id>/remove/",
        views.target_delete,
        name="target-remove",
    ),
]
