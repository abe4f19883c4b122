"""Routes of what records teach, and of the review of a job."""

from django.urls import path

from apps.lessons import views

urlpatterns = [
    path("yard/learning/", views.learning, name="learning"),
    path("yard/learning/wood/<slug:key>/", views.wood, name="learning-wood"),
    path("jobs/<row:job_id>/review/", views.review, name="review"),
]
