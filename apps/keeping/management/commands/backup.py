"""Save everything into one file while the server runs: database, pictures, key. Verified."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from apps.keeping import backup_planner
from treecore.errors import CoreError


class Command(BaseCommand):
    """TO is a file that is not there yet, or a folder; without it, the server's own folder of saves."""

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        """Where to, or which save to hold against itself."""
        parser.add_argument("to", type=Path, nargs="?")
        parser.add_argument("--verify", action="store_true", help="only hold the save TO against itself")

    def handle(self, *args: Any, **options: Any) -> None:
        """Save, or verify."""
        to = options["to"]
        try:
            if options["verify"]:
                found = backup_planner.verify(to)
            else:
                to = _target(to)
                found = backup_planner.save(to)
        except (CoreError, OSError) as error:
            raise CommandError(str(error)) from None
        said = "is whole" if options["verify"] else "saved and verified"
        self.stdout.write(f"{to}: {said}, {sum(found['rows'].values())} rows, {len(found['files'])} files")


def _target(to: Path | None) -> Path:
    """The file to write, which must not be there."""
    if to is None:
        return backup_planner.dated("backup")
    found = to / backup_planner.dated("cantrel").name if to.is_dir() else to
    if found.exists():
        msg = f"{found} is there already; nothing was written"
        raise CommandError(msg)
    return found
