"""Routes of what is kept."""

from django.urls import path

from apps.keeping import views

urlpatterns = [
    path("jobs/<row:job_id>/activity/", views.job_activity, name="job-activity"),
    path("jobs/<row:job_id>/archive/", views.job_archive, name="job-archive"),
    path("yard/archive/", views.archive, name="archive"),
    path("yard/archive/whole/", views.yard_archive, name="yard-archive"),
    path("yard/activity/", views.yard_activity, name="yard-activity"),
]
