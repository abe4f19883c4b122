"""Routes of the gear store."""

from django.urls import path

from apps.gear import views

urlpatterns = [
    path("yard/gear/", views.store, name="gear"),
    path("yard/gear/<row:pk>/", views.store, name="gear-item"),
    path("yard/gear/<row:pk>/retire/", views.retire, name="gear-retire"),
    path("yard/gear/<row:pk>/reading/", views.reading, name="gear-reading"),
    path("yard/gear/<row:pk>/delete/", views.delete, name="gear-delete"),
]
