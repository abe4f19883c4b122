"""Read a load cell over TCP, and keep whole seconds under the pick the yard listens to."""

from __future__ import annotations

import socket
import time
from typing import TYPE_CHECKING, Any

from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import close_old_connections

from apps.crews.models import Crew
from apps.daybook import cell_planner
from apps.daybook.models import Trace

if TYPE_CHECKING:
    from collections.abc import Iterator

PORT = 7007
AGAIN = 1.0  # how long after a cell was lost it is looked for again [s]
QUIET = 5.0  # a cell that says nothing for so long is asked anew [s]


class Command(BaseCommand):
    """One process beside the server; where it dies, at most the second it was in is lost, and shown as a gap.

    A cell sends a reading a line: seconds since it was switched on, force, unit, with commas, as ``12.340,4.512,kN``.
    """

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        """Where the cell is, and whose it is."""
        parser.add_argument("--host", default="127.0.0.1")
        parser.add_argument("--port", type=int, default=PORT)
        parser.add_argument("--yard", default="", help="whose cell it is, where the server has several yards")
        parser.add_argument("--where", choices=Trace.Where.values, default=Trace.Where.POINT)
        parser.add_argument("--once", action="store_true", help="end when the cell ends")

    def handle(self, *args: Any, **options: Any) -> None:
        """Read until stopped."""
        listener = cell_planner.Listener(_yard(options["yard"]), options["where"])
        while True:
            try:
                self._read(listener, (options["host"], options["port"]))
            except OSError as error:
                self.stderr.write(f"no cell at {options['host']}:{options['port']}: {error}")
            if options["once"]:
                return
            time.sleep(AGAIN)

    def _read(self, listener: cell_planner.Listener, address: tuple[str, int]) -> None:
        listener.trace = None
        with socket.create_connection(address, timeout=QUIET) as stream:
            self.stdout.write(f"reading {address[0]}:{address[1]}")
            for second in cell_planner.gathered(cell_planner.lines(_parts(stream))):
                close_old_connections()
                listener.hear(second)


def _parts(stream: socket.socket) -> Iterator[bytes]:
    while part := stream.recv(4096):
        yield part


def _yard(name: str) -> Crew:
    found = Crew.objects.filter(name=name) if name else Crew.objects.all()
    if len(found) != 1:
        names = ", ".join(crew.name for crew in Crew.objects.all())
        msg = f"say whose cell it is with --yard: {names}" if names else "there is no yard yet"
        raise CommandError(msg)
    return found[0]
