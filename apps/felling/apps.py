from django.apps import AppConfig


class FellingConfig(AppConfig):
    name = "apps.felling"
    default_auto_field = "django.db.models.BigAutoField"
