"""The site to scale."""

from django.apps import AppConfig


class SiteConfig(AppConfig):
    name = "apps.site"
    verbose_name = "The site to scale"
    default_auto_field = "django.db.models.BigAutoField"
