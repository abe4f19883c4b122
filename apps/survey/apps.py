from django.apps import AppConfig


class SurveyConfig(AppConfig):
    name = "apps.survey"
    default_auto_field = "django.db.models.BigAutoField"
