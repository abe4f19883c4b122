"""Species and wood."""

from django.apps import AppConfig


class SpeciesConfig(AppConfig):
    name = "apps.species"
    verbose_name = "Species and wood"
    default_auto_field = "django.db.models.BigAutoField"
