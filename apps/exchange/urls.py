"""Routes of import and export."""

from django.urls import path

from apps.exchange import views

JOB = "jobs/<row:job_id>/"
urlpatterns = [
    path("jobs/plan-file/", views.plan_file, name="plan-file"),
    path("jobs/plan-file/<row:file_id>/", views.plan_file_look, name="plan-file-look"),
    path(JOB + "trees/<row:tree_id>/export/", views.export, name="export"),
    path(JOB + "site.geojson", views.geojson, name="geojson"),
    path(JOB + "trees.csv", views.tree_list, name="tree-list"),
    path(JOB + "take-in/", views.take_in, name="take-in"),
    path(JOB + "take-in/<row:intake_id>/", views.take_in_look, name="take-in-look"),
    path(JOB + "take-in/<row:intake_id>/now/", views.take_in_now, name="take-in-now"),
    path(JOB + "take-in/<row:intake_id>/far/", views.take_in_far, name="take-in-far"),
]
