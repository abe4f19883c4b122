from django.apps import AppConfig


class ExchangeConfig(AppConfig):
    name = "apps.exchange"
    default_auto_field = "django.db.models.BigAutoField"
