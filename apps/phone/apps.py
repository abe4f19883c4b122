from django.apps import AppConfig


class PhoneConfig(AppConfig):
    name = "apps.phone"
    default_auto_field = "django.db.models.BigAutoField"
