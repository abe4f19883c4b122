from __future__ import annotations

from importlib import import_module

from django.apps import AppConfig


class LessonsConfig(AppConfig):
    name = "apps.lessons"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Tell the day how quick the yard is."""
        import_module("apps.lessons.planner")
