"""One gate to the data: whoever serves holds it open, and whoever puts other data in its place holds it shut."""

from __future__ import annotations

import fcntl
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

from django.conf import settings

if TYPE_CHECKING:
    from collections.abc import Iterator


class Open(Exception):
    """Somebody serves from this data."""


@contextmanager
def serving() -> Iterator[None]:
    """Hold the gate open while the server and its processes run; waits while data are put in place."""
    with _gate().open("w") as gate:
        fcntl.flock(gate, fcntl.LOCK_SH)
        yield


@contextmanager
def nobody_serves() -> Iterator[None]:
    """Keep the server from starting; raises Open while it runs."""
    with _gate().open("w") as gate:
        try:
            fcntl.flock(gate, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            raise Open from None
        yield


def _gate() -> Path:
    return Path(settings.VAR) / "serving.lock"
