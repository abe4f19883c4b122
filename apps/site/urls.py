"""Routes of the site."""

from django.urls import path

from apps.site import views

urlpatterns = [
    path("approach/", views.approach, name="approach"),
    path("jobs/<row:job_id>/site/", views.site, name="site"),
    path("jobs/<row:job_id>/site/edit/", views.site_edit, name="site-edit"),
    path("jobs/<row:job_id>/site/picture/", views.picture, name="site-picture"),
    path("jobs/<row:job_id>/site/picture/put/", views.picture_put, name="site-picture-put"),
]
