"""A load cell to train and to test with: it streams what a cell would read of a pick's computed motion."""

from __future__ import annotations

import random
import socket
import time
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from apps.daybook import cell_planner
from apps.daybook.management.commands.cell import PORT
from apps.daybook.models import Trace
from apps.jobs.models import Tree
from cantrel.quantities import explain
from treecore.errors import CoreError


class Command(BaseCommand):
    """Waits on 127.0.0.1 for a reader; to each it plays the motion of the pick, waiting before it, hanging after it.

    ``--noise`` is the standard deviation of a reading, ``--dropout`` the share of lines left out, ``--rubbish`` of
    those that are cut off. What it holds as its peak it says when the reader leaves.
    """

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        """Which pick, and how good the cell is."""
        parser.add_argument("--tree", type=int, required=True, help="number of the tree, as in its address")
        parser.add_argument("--pick", type=int, required=True, help="number of the pick")
        parser.add_argument("--where", choices=Trace.Where.values, default=Trace.Where.POINT)
        parser.add_argument("--port", type=int, default=PORT)
        parser.add_argument("--rate", type=float, default=100.0, help="readings a second")
        parser.add_argument("--unit", choices=sorted(cell_planner.FORCES), default="kN")
        parser.add_argument("--noise", type=float, default=15.0, help="of a reading, N")
        parser.add_argument("--dropout", type=float, default=0.002)
        parser.add_argument("--rubbish", type=float, default=0.0)
        parser.add_argument("--wait", type=float, default=3.0, help="seconds before the piece moves")
        parser.add_argument("--hang", type=float, default=10.0, help="seconds it hangs after")
        parser.add_argument("--once", action="store_true", help="end after the first reader")

    def handle(self, *args: Any, **options: Any) -> None:
        """Serve readers, one at a time."""
        try:
            trace, still = cell_planner.motion(Tree.objects.get(pk=options["tree"]), options["pick"], options["where"])
        except Tree.DoesNotExist:
            msg = f"there is no tree {options['tree']}"
            raise CommandError(msg) from None
        except CoreError as error:
            raise CommandError(explain(error, "metric")) from None
        with socket.create_server(("127.0.0.1", options["port"])) as server:
            self.stdout.write(f"a cell on 127.0.0.1:{server.getsockname()[1]}, {options['rate']:g} readings a second")
            self.stdout.flush()
            while True:
                stream, _ = server.accept()
                with stream:
                    self._play(stream, trace, still, options)
                if options["once"]:
                    return

    def _play(self, stream: socket.socket, trace: Any, still: float, options: dict[str, Any]) -> None:
        drawn, began, peak = random.Random(), time.monotonic(), 0.0
        ends = options["wait"] + trace[-1][0] + options["hang"]
        for n in range(int(ends * options["rate"])):
            at = n / options["rate"]
            time.sleep(max(0.0, began + at - time.monotonic()))
            force = cell_planner.played(at - options["wait"], trace, still) + drawn.gauss(0.0, options["noise"])
            if drawn.random() < options["dropout"]:
                continue
            peak = max(peak, force)
            line = cell_planner.line_of(at, force, options["unit"])
            try:
                stream.sendall(line[:5].encode() + b"\n" if drawn.random() < options["rubbish"] else line.encode())
            except OSError:
                break
        self.stdout.write(f"peak held: {peak:.0f} N")
