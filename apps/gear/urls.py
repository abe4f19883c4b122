"""Routes of the gear store."""

from django.urls import path

from apps.gear import views

urlpatterns = [
    path("yard/gear/", views.store, name="gear"),
    path("yard/gear/<int:pk>/", views.store, name="gear-item"),
    path("yard/gear/<int:pk>/retire/", views.retire, name="gear-retire"),
    path("yard/gear/<int:pk>/reading/", views.reading, name="gear-reading"),
    path("yard/gear/<int:pk>/delete/", views.delete, name="gear-delete"),
]
