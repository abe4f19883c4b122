"""Put a save in the place of everything that is there. What was there is saved first."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError, CommandParser

from apps.keeping import backup_planner
from treecore.errors import CoreError


class Command(BaseCommand):
    """Restore FROM; refused while the server runs."""

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        """What to restore."""
        parser.add_argument("from", type=Path)

    def handle(self, *args: Any, **options: Any) -> None:
        """Restore, then bring the tables to where this program wants them."""
        try:
            kept = backup_planner.restore(options["from"])
        except (CoreError, OSError) as error:
            raise CommandError(str(error)) from None
        call_command("migrate", verbosity=0)
        self.stdout.write(f"restored from {options['from']}" + (f"; what was there is in {kept}" if kept else ""))
