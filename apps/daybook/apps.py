from django.apps import AppConfig


class DaybookConfig(AppConfig):
    name = "apps.daybook"
    default_auto_field = "django.db.models.BigAutoField"
