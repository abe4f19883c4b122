"""What a night does: a save, kept two weeks; what is past its time goes."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from django.core.management.base import BaseCommand, CommandError

from apps.keeping import backup_planner, sweep_planner
from treecore.errors import CoreError


class Command(BaseCommand):
    """The server runs this by itself; a timer may as well."""

    help = __doc__

    def handle(self, *args: Any, **options: Any) -> None:
        """Save, then sweep: what goes is in tonight's save."""
        try:
            made = backup_planner.nightly(datetime.now())
        except (CoreError, OSError) as error:
            msg = f"no save was made, so nothing was swept: {error}"
            raise CommandError(msg) from None
        self.stdout.write(f"saved to {made}" if made else "tonight's save is there already")
        for what, count in sweep_planner.sweep().items():
            if count:
                self.stdout.write(f"{count} {what}")
