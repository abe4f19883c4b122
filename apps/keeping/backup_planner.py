"""Everything a yard's server holds, saved in one file while it runs, and brought back: database, pictures and key.

A save is verified before it counts: its database is opened and held against itself, every file against its fingerprint.
"""

from __future__ import annotations

import hashlib
import json
import shutil
import sqlite3
import tempfile
import zipfile
from contextlib import closing, contextmanager, suppress
from datetime import datetime, timedelta
from pathlib import Path
from typing import TYPE_CHECKING, Any

from django.conf import settings
from django.db import connections
from django.db.migrations.loader import MigrationLoader

from cantrel.gate import Open, nobody_serves
from treecore.errors import BadDocument
from treecore.release import program_version

if TYPE_CHECKING:
    from collections.abc import Iterator

DATABASE, KEY, MANIFEST, PICTURES = "cantrel.sqlite3", "secret_key", "manifest.json", "media"
KIND, FORM = "cantrel-save", 1
TRIES = 3
NIGHTS = timedelta(days=14)  # how long nightly saves are kept
MIGRATIONS_KEPT = 10  # saves from before a migration


def folder() -> Path:
    """Where the server itself keeps its saves."""
    found = Path(settings.VAR) / "backups"
    found.mkdir(exist_ok=True)
    return found


def dated(kind: str) -> Path:
    """A name for a save of now."""
    return folder() / f"{kind}-{datetime.now():%Y-%m-%d-%H%M%S}.zip"


def save(to: Path) -> dict[str, Any]:
    """Save everything into a new file, verified; what its manifest says. Nothing is left where it can't be done.

    A picture that is taken off while the others are read is looked for anew.
    """
    for _ in range(TRIES - 1):
        with suppress(FileNotFoundError):
            return _saved(to)
    return _saved(to)


def _saved(to: Path) -> dict[str, Any]:
    part = to.with_name(f".{to.name}.part")
    with tempfile.TemporaryDirectory(dir=settings.VAR, prefix="save-") as where:
        copy = Path(where) / DATABASE
        _copy_database(copy)
        files = {DATABASE: copy, **_pictures(), **_key()}
        manifest = _manifest(copy, files)
        try:
            with zipfile.ZipFile(part, "w", zipfile.ZIP_DEFLATED, allowZip64=True) as out:
                out.writestr(MANIFEST, json.dumps(manifest, indent=1, sort_keys=True))
                for name, path in files.items():
                    out.write(path, name)
            verify(part)
            part.replace(to)
        finally:
            part.unlink(missing_ok=True)
    return manifest


def _copy_database(to: Path) -> None:
    """The database as of one moment, by SQLite's online backup; what is in its log is in the copy."""
    source = connections["default"].settings_dict["NAME"]
    with (
        closing(sqlite3.connect(f"file:{source}?mode=ro", uri=True, timeout=30)) as here,
        closing(sqlite3.connect(to)) as there,
    ):
        here.backup(there)
        there.execute("PRAGMA journal_mode=DELETE")


def _pictures() -> dict[str, Path]:
    root = Path(settings.MEDIA_ROOT)
    return {f"{PICTURES}/{path.relative_to(root)}": path for path in sorted(root.rglob("*")) if path.is_file()}


def _key() -> dict[str, Path]:
    """The key that signs sessions and links, where it is a file."""
    path = Path(settings.VAR) / KEY
    return {KEY: path} if path.exists() else {}


def _manifest(copy: Path, files: dict[str, Path]) -> dict[str, Any]:
    with closing(sqlite3.connect(copy)) as database:
        done = database.execute("select app, name from django_migrations order by id").fetchall()
    return {
        "kind": KIND,
        "form": FORM,
        "program": program_version(),
        "at": datetime.now().astimezone().isoformat(timespec="seconds"),
        "migrations": [list(row) for row in done],
        "rows": _rows(copy),
        "files": {name: _sha256(path) for name, path in files.items()},
    }


def _rows(database: Path) -> dict[str, int]:
    """How many rows each table has."""
    with closing(sqlite3.connect(database)) as opened:
        names = [row[0] for row in opened.execute("select name from sqlite_master where type = 'table'")]
        return {n: opened.execute(f'select count(*) from "{n}"').fetchone()[0] for n in sorted(names)}


def _sha256(path: Path) -> str:
    with path.open("rb") as opened:
        return hashlib.file_digest(opened, "sha256").hexdigest()


def verify(path: Path) -> dict[str, Any]:
    """Hold a save against what it says of itself; its manifest. BadDocument where it is none, cut off or changed."""
    with _opened(path) as (manifest, _):
        return manifest


def _hold(manifest: dict[str, Any], where: Path) -> None:
    """Refuse an unpacked save that is not what its manifest says."""
    for name, wanted in manifest["files"].items():
        if not where.joinpath(name).is_file() or _sha256(where / name) != wanted:
            raise BadDocument(field=name, why="this part of the save is missing or not what was saved")
    with closing(sqlite3.connect(where / DATABASE)) as database:
        said = [row[0] for row in database.execute("PRAGMA integrity_check")]
        loose = database.execute("PRAGMA foreign_key_check").fetchall()
    if said != ["ok"] or loose or _rows(where / DATABASE) != manifest["rows"]:
        raise BadDocument(field=DATABASE, why="the saved database is not whole")


@contextmanager
def _opened(path: Path) -> Iterator[tuple[dict[str, Any], Path]]:
    """A save unpacked and held against itself: its manifest, and where its files are."""
    try:
        packed = zipfile.ZipFile(path)
    except (OSError, zipfile.BadZipFile):
        raise BadDocument(field=str(path), why="this is no save, or it is cut off") from None
    with packed, tempfile.TemporaryDirectory(dir=settings.VAR, prefix="save-") as where:
        try:
            manifest = json.loads(packed.read(MANIFEST))
            if (manifest["kind"], manifest["form"]) != (KIND, FORM):
                raise BadDocument(field=str(path), why="this is no save of this program")
            packed.extractall(where, [MANIFEST, *manifest["files"]])
        except (KeyError, TypeError, ValueError, zipfile.BadZipFile, EOFError, OSError) as error:
            if isinstance(error, BadDocument):
                raise
            raise BadDocument(field=str(path), why="this is no save, or it is cut off") from None
        _hold(manifest, Path(where))
        yield manifest, Path(where)


def restore(path: Path) -> Path | None:
    """Put a save in the place of everything that is there; where what was there is kept, if anything was.

    Refused while the server runs, for a save that is not whole, and for one of a newer program.
    """
    try:
        with _opened(path) as (manifest, where), nobody_serves():
            _known(manifest)
            kept = dated("before-restore") if _database().exists() else None
            if kept is not None:
                save(kept)
            connections.close_all()
            _put(where)
    except Open:
        raise BadDocument(field="server", why="it runs: stop it first, then restore") from None
    return kept


def _database() -> Path:
    return Path(connections["default"].settings_dict["NAME"])


def _put(where: Path) -> None:
    """Move the parts of a save where they belong."""
    database = _database()
    for beside in ("-wal", "-shm"):
        database.with_name(database.name + beside).unlink(missing_ok=True)
    (where / DATABASE).replace(database)
    shutil.rmtree(settings.MEDIA_ROOT, ignore_errors=True)
    if (where / PICTURES).is_dir():
        shutil.move(where / PICTURES, settings.MEDIA_ROOT)
    Path(settings.MEDIA_ROOT).mkdir(exist_ok=True)
    if (where / KEY).exists():
        (where / KEY).replace(Path(settings.VAR) / KEY)


def _known(manifest: dict[str, Any]) -> None:
    """Refuse a save whose tables this program does not know."""
    known = MigrationLoader(None).disk_migrations or {}
    unknown = [tuple(row) for row in manifest["migrations"] if tuple(row) not in known]
    if unknown:
        raise BadDocument(
            field="program",
            why="this was saved by a newer program ({program}); update this one first",
            program=manifest["program"],
        )


def nightly(now: datetime) -> Path | None:
    """Tonight's save, if there is none yet; those older than two weeks go."""
    to = folder() / f"nightly-{now:%Y-%m-%d}.zip"
    made = None
    if not to.exists():
        save(to)
        made = to
    for old in folder().glob("nightly-*.zip"):
        if old.name < f"nightly-{now - NIGHTS:%Y-%m-%d}.zip":
            old.unlink()
    return made


def before_migration() -> Path:
    """A save from before the tables change; the last few of these are kept."""
    to = dated("before-migration")
    save(to)
    for old in sorted(folder().glob("before-migration-*.zip"))[:-MIGRATIONS_KEPT]:
        old.unlink()
    return to
