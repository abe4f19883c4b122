"""Species and wood."""

from django.apps import AppConfig
from django.utils.translation import gettext_lazy


class SpeciesConfig(AppConfig):
    name = "apps.species"
    verbose_name = gettext_lazy("Species and wood")
    default_auto_field = "django.db.models.BigAutoField"
