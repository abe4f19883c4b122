"""Routes of the day and of a yard's rates."""

from django.urls import path

from apps.day import more_views, views

urlpatterns = [
    path("jobs/<row:job_id>/day/", views.day, name="day"),
    path("jobs/<row:job_id>/day/<row:pk>.ics", views.ics, name="day-ics"),
    path("jobs/<row:job_id>/day/items/", views.item, name="work-items"),
    path("jobs/<row:job_id>/day/items/<row:pk>/", views.item, name="work-item"),
    path("jobs/<row:job_id>/day/items/<row:pk>/tick/", views.tick, name="work-item-tick"),
    path("jobs/<row:job_id>/day/items/<row:pk>/drop/", views.drop, name="work-item-drop"),
    path("yard/rates/", views.rates, name="rates"),
    path("jobs/<row:job_id>/day/<row:pk>/book/", more_views.book, name="day-book"),
    path("jobs/<row:job_id>/trees/<row:tree_id>/wood/", more_views.wood, name="tree-wood"),
    path("jobs/<row:job_id>/ways/", more_views.ways, name="ways"),
    path("jobs/<row:job_id>/quote/", more_views.quote, name="quote"),
]
