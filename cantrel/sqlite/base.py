"""Django's SQLite with a short queue before it: who wants to write looks every few milliseconds for their turn.

SQLite itself lets those who wait sleep up to a tenth of a second and take their chance, so that under many writers some
wait for seconds.
"""

from __future__ import annotations

import fcntl
import time
from pathlib import Path
from typing import IO, Any

from django.db.backends.sqlite3 import base

LOOK_EVERY = 0.004  # [s]


class DatabaseWrapper(base.DatabaseWrapper):
    """A connection that holds the gate of its file while it holds the database for writing."""

    _gate: IO[str] | None = None

    def _start_transaction_under_autocommit(self) -> None:
        """Wait for the gate, as long as one waits for the database itself; then begin."""
        self._take_gate()
        try:
            super()._start_transaction_under_autocommit()
        except BaseException:
            self._leave_gate()
            raise

    def _take_gate(self) -> None:
        name = Path(str(self.settings_dict["NAME"]))
        if self._gate is not None or not name.parent.is_dir() or self.is_in_memory_db():
            return
        gate = name.with_name(f"{name.name}.gate").open("w")
        until = time.monotonic() + self.settings_dict["OPTIONS"].get("timeout", 5)
        while time.monotonic() < until:
            try:
                fcntl.flock(gate, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except BlockingIOError:
                time.sleep(LOOK_EVERY)
            else:
                self._gate = gate
                return
        gate.close()  # the database itself says that it is busy

    def _leave_gate(self) -> None:
        if self._gate is not None:
            self._gate.close()
            self._gate = None

    def _commit(self) -> Any:
        try:
            return super()._commit()
        finally:
            self._leave_gate()

    def _rollback(self) -> Any:
        try:
            return super()._rollback()
        finally:
            self._leave_gate()

    def close(self) -> None:
        """Close, and leave the gate."""
        super().close()
        self._leave_gate()
