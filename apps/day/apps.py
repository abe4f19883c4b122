from __future__ import annotations

from django.apps import AppConfig


class DayConfig(AppConfig):
    name = "apps.day"
    default_auto_field = "django.db.models.BigAutoField"
