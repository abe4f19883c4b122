"""Routes of the brief."""

from django.urls import path

from apps.briefing import job_views, views

TREE = "jobs/<row:job_id>/trees/<row:tree_id>/"
urlpatterns = [
    path(TREE + "brief/", views.brief, name="brief"),
    path(TREE + "brief/sign/", views.sign, name="sign"),
    path(TREE + "brief/signed/<row:pk>/", views.signed, name="signed"),
    path(TREE + "brief/signed/<row:pk>/file/", views.signed_file, name="signed-file"),
    path(TREE + "brief/signed/<row:pk>/read/", views.read, name="plan-read"),
    path(TREE + "brief/signed/<row:pk>/changes/", views.changes, name="plan-changes"),
    path(TREE + "brief/roles/", views.roles, name="roles"),
    path("jobs/<row:job_id>/brief/", job_views.job_brief, name="job-brief"),
    path("jobs/<row:job_id>/brief/pdf/<slug:size>/", job_views.make, name="job-brief-make"),
    path("jobs/<row:job_id>/brief/made/<slug:token>/", job_views.made, name="job-brief-made"),
    path("jobs/<row:job_id>/brief/made/<slug:token>/file/", job_views.made_file, name="job-brief-file"),
    path(TREE + "brief/picks.<slug:form>", job_views.pick_list, name="pick-list"),
    path(TREE + "brief/drawing/<slug:view>.<slug:form>", job_views.drawing_file, name="drawing-file"),
]
