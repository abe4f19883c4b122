"""Serve: ``python -m cantrel.serve``. Several processes of several threads, loaded once before they part.

What may be set: CANTREL_HOST, CANTREL_PORT, CANTREL_WORKERS, CANTREL_THREADS, CANTREL_PROXY, CANTREL_NIGHTLY (off).
"""

from __future__ import annotations

import gc
import os
from typing import TYPE_CHECKING, Any

from gunicorn.app.base import BaseApplication

from cantrel.surroundings import said, whole

if TYPE_CHECKING:
    from collections.abc import Callable


HOST, PORT = said("HOST", "127.0.0.1"), whole("PORT", 8000)


class Served(BaseApplication):
    """The program under gunicorn, with its own kind of worker."""

    def load_config(self) -> None:
        """Say how it is served; nothing is read from command lines or files."""
        for name, value in {
            "bind": f"[{HOST}]:{PORT}" if ":" in HOST else f"{HOST}:{PORT}",
            "workers": max(1, whole("WORKERS", os.cpu_count() or 1)),
            "threads": max(1, whole("THREADS", 2)),
            "worker_class": "cantrel.serving.BufferingWorker",
            "preload_app": True,
            "timeout": 120,
            "graceful_timeout": 20,
            "loglevel": "warning",
            "umask": 0o077,
            "when_ready": greeted,
        }.items():
            self.cfg.set(name, value)

    def load(self) -> Callable[..., Any]:
        """The program itself, loaded before the workers part: what is there by then stays and is shared."""
        from cantrel.wsgi import application

        gc.collect()
        gc.freeze()
        return application


def greeted(server: Any) -> None:
    """Say where it is, once somebody listens."""
    from cantrel import nights

    if said("NIGHTLY", "on") != "off":
        nights.start()
    print(f"Cantrel is on http://{HOST}:{PORT}/ (stop with Ctrl-C)")
    print("For a phone on the same network: make phone, in a second terminal.", flush=True)


def main() -> None:
    """Serve until told to stop."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "cantrel.settings")
    from cantrel.gate import serving

    with serving():
        Served().run()


if __name__ == "__main__":
    main()
