"""Routes of jobs."""

from django.urls import path

from apps.jobs import keep_views, undo, views

urlpatterns = [
    path("", views.jobs, name="jobs"),
    path("jobs/new/", views.job_new, name="job-new"),
    path("jobs/<row:job_id>/", views.job, name="job"),
    path("jobs/deleted/", keep_views.deleted, name="jobs-deleted"),
    path("jobs/<row:job_id>/put-by/", keep_views.put_by, name="job-put-by"),
    path("jobs/<row:job_id>/hand-over/", keep_views.hand_over, name="job-hand-over"),
    path("jobs/<row:job_id>/delete/", keep_views.delete, name="job-delete"),
    path("jobs/<row:job_id>/bring-back/", keep_views.bring_back, name="job-back"),
    path("jobs/<row:job_id>/trees/new/", views.tree_new, name="tree-new"),
    path("jobs/<row:job_id>/undo/<slug:scope>/", undo.undo_of_job, name="undo-job"),
    path("jobs/<row:job_id>/trees/<row:tree_id>/", views.tree_open, name="tree"),
    path("jobs/<row:job_id>/trees/<row:tree_id>/strip/", views.strip, name="strip"),
    path("jobs/<row:job_id>/trees/<row:tree_id>/undo/body/", undo.undo_of_body, name="undo-body"),
    path("jobs/<row:job_id>/trees/<row:tree_id>/undo/walk-up/", undo.undo_of_walk, name="undo-walk"),
    path("jobs/<row:job_id>/trees/<row:tree_id>/undo/record/", undo.undo_of_record, name="undo-record"),
    path("jobs/<row:job_id>/trees/<row:tree_id>/undo/work/", undo.undo_of_work, name="undo-work"),
    path("yard/undo/<slug:scope>/", undo.undo_of_crew, name="undo-crew"),
]
