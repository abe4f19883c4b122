"""PDFs in the making: worked out beside the request that asked, with what is done of it, and kept for a while."""

from __future__ import annotations

import secrets
import threading
from typing import TYPE_CHECKING, Any

from django.core.cache import cache
from django.db import connections
from django.utils import translation
from django.utils.translation import gettext

from cantrel.quantities import explain
from treecore.errors import CoreError

if TYPE_CHECKING:
    from collections.abc import Callable

KEPT_FOR = 3600  # how long what was made is there [s]
Step = "Callable[[str, int], None]"


def begin(owner: int, make: Callable[[Callable[[str, int], None]], bytes], system: str) -> str:
    """Begin to make something for a person; what it is asked for by. ``make`` is given what to say how far it is."""
    token, language = secrets.token_urlsafe(12), translation.get_language()
    _say(token, owner, "making", gettext("Begun"), 0)

    def run() -> None:
        with translation.override(language):
            try:
                content = make(lambda said, percent: _say(token, owner, "making", said, percent))
                cache.set(f"made-{token}", (owner, content), KEPT_FOR)
                _say(token, owner, "there", gettext("Made"), 100)
            except CoreError as error:
                _say(token, owner, "failed", explain(error, system), 100)
            except Exception:
                _say(token, owner, "failed", gettext("It could not be made."), 100)
                raise
            finally:
                connections.close_all()

    threading.Thread(target=run, daemon=True).start()
    return token


def _say(token: str, owner: int, state: str, said: str, percent: int) -> None:
    cache.set(f"making-{token}", {"owner": owner, "state": state, "said": said, "percent": percent}, KEPT_FOR)


def now(owner: int, token: str) -> dict[str, Any] | None:
    """How far something is; None for another's, or where nobody knows it."""
    found: dict[str, Any] | None = cache.get(f"making-{token}")
    return found if found and found["owner"] == owner else None


def made(owner: int, token: str) -> bytes | None:
    """What was made; None for another's, or where it is not there."""
    found = cache.get(f"made-{token}")
    return found[1] if found and found[0] == owner else None
