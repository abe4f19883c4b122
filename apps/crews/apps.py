from django.apps import AppConfig


class CrewsConfig(AppConfig):
    name = "apps.crews"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """A session knows when it was last used from its first moment."""
        from django.contrib.auth.signals import user_logged_in

        from apps.crews.middleware import seen_now

        user_logged_in.connect(seen_now, dispatch_uid="seen")
