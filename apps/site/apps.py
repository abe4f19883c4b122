"""The site to scale."""

from __future__ import annotations

from importlib import import_module

from django.apps import AppConfig
from django.utils.translation import gettext_lazy


class SiteConfig(AppConfig):
    name = "apps.site"
    verbose_name = gettext_lazy("The site to scale")
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Tell of this room's steps in the strip."""
        import_module("apps.site.strip")
