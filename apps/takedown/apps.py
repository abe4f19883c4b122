from django.apps import AppConfig


class TakedownConfig(AppConfig):
    name = "apps.takedown"
    default_auto_field = "django.db.models.BigAutoField"
