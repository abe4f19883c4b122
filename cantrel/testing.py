"""The test runner: Django's, with copies of the test database that hold what is still in its write-ahead log."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.db import connection
from django.db.backends.sqlite3.creation import DatabaseCreation
from django.test.runner import DiscoverRunner

if TYPE_CHECKING:
    from pathlib import PosixPath

    from django.db.backends.sqlite3.base import DatabaseWrapper


class Creation(DatabaseCreation):
    """A test database that is whole on disk before it is copied for another process."""

    def _clone_test_db(self, suffix: Any, verbosity: Any, keepdb: bool = False) -> None:
        with self.connection.cursor() as cursor:
            cursor.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        super()._clone_test_db(suffix, verbosity, keepdb)


class Runner(DiscoverRunner):
    """Runs tests side by side on as many processors as there are."""

    def setup_databases(self, **kwargs: Any) -> list[tuple[DatabaseWrapper, PosixPath, bool]]:
        connection.creation = Creation(connection)
        return super().setup_databases(**kwargs)
