"""Compiled loops: numba's decorator with a cache beside the program's own data; works where that can't be written."""

from __future__ import annotations

import hashlib
import os
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar, cast

from numba import config, njit

F = TypeVar("F", bound=Callable[..., Any])


LOOPS = ("rigging", "day")  # rooms of the core in which loops are compiled


def cache_folder() -> Path | None:
    """Folder for compiled code under CANTREL_VAR, or ``var`` beside the core; None where it can't be written.

    One for each state of the loops: what is kept of one file holds code of others it calls, and does not see them
    change.
    """
    base = os.environ.get("CANTREL_VAR") or str(Path(__file__).resolve().parent.parent / "var")
    text = hashlib.sha256()
    for room in LOOPS:
        for path in sorted((Path(__file__).resolve().parent / room).glob("*.py")):
            text.update(path.read_bytes())
    folder = Path(base) / "compiled" / text.hexdigest()[:12]
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError:
        return None
    return folder if os.access(folder, os.W_OK) else None


_FOLDER = cache_folder()
if _FOLDER is not None:
    config.CACHE_DIR = str(_FOLDER)  # type: ignore[attr-defined]


def compiled(function: F) -> F:
    """Compile a function of numbers and arrays when it is first called; kept between runs where there is a folder.

    Parameters
    ----------
    function : callable
        Plain loops over numbers and numpy arrays.
    """
    made: Any = njit(cache=_FOLDER is not None, nogil=True, error_model="numpy")(function)
    return cast(F, made)
