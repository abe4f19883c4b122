"""The site to scale."""

from django.apps import AppConfig
from django.utils.translation import gettext_lazy


class SiteConfig(AppConfig):
    name = "apps.site"
    verbose_name = gettext_lazy("The site to scale")
    default_auto_field = "django.db.models.BigAutoField"
