"""Routes of the species table."""

from django.urls import path

from apps.species import views

urlpatterns = [
    path("species/", views.table, name="species-table"),
    path("species/new/", views.yard_new, name="yard-new"),
    path("species/yard/<row:pk>/", views.yard, name="yard"),
    path("species/yard/<row:pk>/delete/", views.yard_delete, name="yard-delete"),
    path("species/<slug:key>/", views.species, name="species"),
]
