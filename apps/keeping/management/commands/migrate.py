"""Django's own ``migrate``, with a dated save of everything before tables change."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.commands.migrate import Command as Migrate
from django.db import connections

from apps.keeping import backup_planner
from cantrel.health import to_migrate


class Command(Migrate):
    """Save first, where there is something to save and something to change."""

    def handle(self, *args: Any, **options: Any) -> None:
        """Save, then migrate."""
        looks = options.get("plan") or options.get("check_unapplied")
        if not settings.TESTING and not looks and _changes():
            kept = backup_planner.before_migration()
            if options["verbosity"]:
                self.stdout.write(f"Saved what was there: {kept}")
        super().handle(*args, **options)


def _changes() -> bool:
    """Whether tables that hold something would change."""
    return Path(connections["default"].settings_dict["NAME"]).exists() and all(to_migrate())
