"""Gates between processes: whoever serves holds the data open, whoever puts other data in their place holds them shut;
and what only one may do at a time.
"""

from __future__ import annotations

import fcntl
from contextlib import contextmanager
from pathlib import Path
from typing import IO, TYPE_CHECKING

from django.conf import settings

if TYPE_CHECKING:
    from collections.abc import Iterator


class Open(Exception):
    """Somebody serves from this data."""


@contextmanager
def serving() -> Iterator[None]:
    """Hold the gate open while the server and its processes run; waits while data are put in place."""
    with _held("serving", fcntl.LOCK_SH):
        yield


@contextmanager
def nobody_serves() -> Iterator[None]:
    """Keep the server from starting; raises Open while it runs."""
    try:
        held = _held("serving", fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        raise Open from None
    with held:
        yield


@contextmanager
def one_at_a_time(what: str) -> Iterator[None]:
    """Wait until no process and no thread does this, then do it."""
    with _held(what, fcntl.LOCK_EX):
        yield


def _held(what: str, how: int) -> IO[str]:
    """A lock of the data folder that is held until it is closed."""
    gate = (Path(settings.VAR) / f"{what}.lock").open("w")
    try:
        fcntl.flock(gate, how)
    except BaseException:
        gate.close()
        raise
    return gate
