from __future__ import annotations

from importlib import import_module

from django.apps import AppConfig


class TakedownConfig(AppConfig):
    name = "apps.takedown"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Tell of this room's steps in the strip."""
        import_module("apps.takedown.strip")
