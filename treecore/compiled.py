"""Compiled loops: numba's decorator with a cache beside the program's own data; works where that can't be written."""

from __future__ import annotations

import os
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar, cast

from numba import config, njit

F = TypeVar("F", bound=Callable[..., Any])


def cache_folder() -> Path | None:
    """Folder for compiled code under CANTREL_VAR, or ``var`` beside the core; None where it can't be written."""
    base = os.environ.get("CANTREL_VAR") or str(Path(__file__).resolve().parent.parent / "var")
    folder = Path(base) / "compiled"
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
