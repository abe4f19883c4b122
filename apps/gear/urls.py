"""Routes of the gear store."""

from django.urls import path

from apps.gear import card_views, views

urlpatterns = [
    path("yard/gear/", views.store, name="gear"),
    path("yard/gear/<row:pk>/", views.store, name="gear-item"),
    path("yard/gear/<row:pk>/retire/", views.retire, name="gear-retire"),
    path("yard/gear/<row:pk>/reading/", views.reading, name="gear-reading"),
    path("yard/gear/<row:pk>/delete/", views.delete, name="gear-delete"),
    path("yard/gear/<row:pk>/card/", card_views.card, name="gear-card"),
    path("yard/gear/inspections/<row:pk>/photo/", card_views.photo, name="inspection-photo"),
    path("yard/gear/labels/", card_views.labels, name="gear-labels"),
    path("yard/gear.csv", card_views.as_csv, name="gear-csv"),
    path("yard/gear/take-in/", card_views.take_in, name="gear-take-in"),
]
