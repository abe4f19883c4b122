"""A worker for gunicorn that reads requests whole before a thread has to do with them.

Gunicorn's own threads read the body themselves: a few dozen half-sent requests hold them all. Here waitress reads and
writes, beside the threads; gunicorn keeps the processes.
"""

from __future__ import annotations

import ctypes
import os
import signal
import sys
import time
from io import BytesIO
from typing import Any

from django.conf import settings
from django.db import connections
from gunicorn.workers.base import Worker
from waitress import wasyncore
from waitress.channel import HTTPChannel
from waitress.parser import HTTPRequestParser
from waitress.server import create_server
from waitress.utilities import RequestEntityTooLarge

from cantrel.surroundings import said

READ_ON = 64 * 1024 * 1024  # a body up to this is read and thrown away, so that whoever sends it can read the answer
FORWARDED = {"x-forwarded-for", "x-forwarded-proto"}  # what is believed of a proxy, and of nobody else
DIES_WITH_PARENT = 1  # PR_SET_PDEATHSIG of Linux


class Thrown:
    """Takes a body as it comes and keeps nothing of it."""

    error = None

    def __init__(self, length: int) -> None:
        self.left = length
        self.completed = False

    def received(self, data: bytes) -> int:
        """How much of the data belonged to the body."""
        took = min(self.left, len(data))
        self.left -= took
        self.completed = self.left == 0
        return took

    def getfile(self) -> Any:
        """Nothing: an empty body."""
        return BytesIO()

    def getbuf(self) -> Any:
        """Nothing either."""
        return self.getfile()


class BoundedParser(HTTPRequestParser):
    """Keeps no body longer than ``LARGEST_REQUEST``: the program then hears its length alone and says 413."""

    def parse_header(self, header_plus: bytes) -> None:
        """Read the header; a body that will be too long is not kept, one far too long is not read."""
        super().parse_header(header_plus)
        length = self.content_length
        if length <= settings.LARGEST_REQUEST:
            return
        waits = self.expect_continue
        self.content_length, self.expect_continue = 0, False
        if waits or length > READ_ON:
            self.body_rcv = None
            self._last()
        else:
            self.body_rcv = Thrown(length)

    def received(self, data: bytes) -> int:
        """Take data in; a body that came in chunks and grew too long is thrown away."""
        if isinstance(self.body_rcv, Thrown):
            took = self.body_rcv.received(data)
            self.completed = self.body_rcv.completed
            return took
        took = super().received(data)
        if self.chunked and isinstance(self.error, RequestEntityTooLarge):
            self.error, self.body_rcv = None, None
            self.headers["CONTENT_LENGTH"] = str(settings.LARGEST_REQUEST + 1)
            self._last()
        return took

    def _last(self) -> None:
        """Close after the answer: what still comes is no request."""
        self.headers["CONNECTION"] = "close"
        self.connection_close = True


class BoundedChannel(HTTPChannel):
    parser_class = BoundedParser


class BufferingWorker(Worker):
    """One process: waitress on gunicorn's sockets."""

    def init_process(self) -> None:
        """Die with the master, and share no connection with it."""
        if sys.platform == "linux":
            ctypes.CDLL(None).prctl(DIES_WITH_PARENT, signal.SIGKILL)
        connections.close_all()
        super().init_process()

    def handle_quit(self, *_: Any) -> None:
        """Stop as politely as at any other signal."""
        self.alive = False

    def run(self) -> None:
        """Serve until told to stop, then finish what has begun."""
        proxy = said("PROXY", "127.0.0.1")
        trusted = {"trusted_proxy": proxy, "trusted_proxy_headers": FORWARDED} if proxy != "none" else {}
        found: dict[int, Any] = {}
        server = create_server(
            self.wsgi,
            map=found,
            sockets=[listener.sock for listener in self.sockets],
            threads=self.cfg.threads,
            ident=None,
            channel_timeout=60,
            max_request_body_size=settings.LARGEST_REQUEST + 1,
            **trusted,
        )
        listeners = [one for one in found.values() if one.accepting]
        for one in listeners:
            one.channel_class = BoundedChannel
        while self.alive and self.ppid == os.getppid():
            self.notify()
            wasyncore.loop(timeout=1.0, use_poll=True, map=found, count=1)
        for one in listeners:
            one.del_channel(found)
        until = time.monotonic() + self.cfg.graceful_timeout
        while time.monotonic() < until and any(_busy(one) for one in found.values()):
            self.notify()
            wasyncore.loop(timeout=0.1, use_poll=True, map=found, count=1)
        server.task_dispatcher.shutdown()


def _busy(channel: Any) -> bool:
    """Whether an answer is being made or sent on a connection."""
    return isinstance(channel, HTTPChannel) and bool(channel.requests or channel.total_outbufs_len)
