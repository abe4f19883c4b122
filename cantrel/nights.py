"""The server's own nights: once a day, in the small hours or soon after, ``manage.py nightly`` is run."""

from __future__ import annotations

import logging
import subprocess
import sys
import threading
import time
from datetime import datetime

from django.conf import settings

HOUR = 3  # from which a night's work is due
LOOKS_EVERY = 600  # s
LOG = logging.getLogger("cantrel.nights")


def start() -> None:
    """Look every few minutes, beside everything else."""
    threading.Thread(target=_run, daemon=True, name="nights").start()


def _run() -> None:
    done = ""
    while True:
        today = f"{datetime.now():%Y-%m-%d}"
        if today != done and datetime.now().hour >= HOUR:
            done = today
            ended = subprocess.run(
                [sys.executable, "manage.py", "nightly"],
                cwd=settings.BASE_DIR,
                capture_output=True,
                text=True,
                check=False,
            )
            LOG.log(logging.ERROR if ended.stderr else logging.INFO, "%s%s", ended.stdout, ended.stderr)
        time.sleep(LOOKS_EVERY)
