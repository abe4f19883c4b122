"""Routes of what is kept."""

from django.urls import path

from apps.keeping import views

urlpatterns = [
    path("jobs/<row:job_id>/activity/", views.job_activity, name="job-activity"),
    path("yard/activity/", views.yard_activity, name="yard-activity"),
]
