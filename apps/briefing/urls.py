"""Routes of the brief."""

from django.urls import path

from apps.briefing import views

TREE = "jobs/<row:job_id>/trees/<row:tree_id>/"
urlpatterns = [
    path(TREE + "brief/", views.brief, name="brief"),
    path(TREE + "brief/sign/", views.sign, name="sign"),
    path(TREE + "brief/signed/<row:pk>/", views.signed, name="signed"),
    path(TREE + "brief/signed/<row:pk>/file/", views.signed_file, name="signed-file"),
    path(TREE + "brief/roles/", views.roles, name="roles"),
]
