from django.apps import AppConfig


class KeepingConfig(AppConfig):
    name = "apps.keeping"
    default_auto_field = "django.db.models.BigAutoField"
