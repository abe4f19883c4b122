from django.apps import AppConfig


class GearConfig(AppConfig):
    name = "apps.gear"
    default_auto_field = "django.db.models.BigAutoField"
