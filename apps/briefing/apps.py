from django.apps import AppConfig


class BriefingConfig(AppConfig):
    name = "apps.briefing"
    default_auto_field = "django.db.models.BigAutoField"
