"""The house itself: what holds for every room."""

from django.apps import AppConfig


class CantrelConfig(AppConfig):
    name = "cantrel"

    def ready(self) -> None:
        """Register checks of the run."""
        from cantrel import deploychecks  # noqa: F401
