"""The server: ``python -m nettlecap.web_server --bind 127.0.0.1:8000``.

Requests are taken in, and answers given out, by one loop that waits for nobody; a thread of the application is only
held once a request is there as a whole. How large a body may be is looked up when its header has come, before any of it
is written. Clips have threads of their own, so that a class that hands in at once leaves the pages quick.
"""

from __future__ import annotations

import argparse
import copy
import logging
import os
import resource
import signal
import sys
import time
import weakref
from collections import Counter
from typing import Any

from django.db.utils import InterfaceError, OperationalError
from waitress.channel import HTTPChannel
from waitress.parser import HTTPRequestParser
from waitress.server import TcpWSGIServer
from waitress.task import ThreadedTaskDispatcher
from waitress.utilities import Error

PAGE_THREADS, CLIP_THREADS = 8, 2
MOST_CONNECTIONS, MOST_A_PLACE = 1200, 300
IDLE_S, HEADER_S, GRACE_S, LEAST_BYTES_S = 30, 20.0, 60.0, 500.0
"""How long a connection may say nothing; a header may take; and a body may be slower than so many bytes a second."""
MOST_AT_ONCE = 2
"""So many large bodies of one sitting are taken in at once."""


class TooLarge(Error):
    code, reason = 413, "Content Too Large"


class TooMany(Error):
    code, reason = 429, "Too Many Requests"


class DiskFull(Error):
    code, reason = 507, "Insufficient Storage"


class Away(Error):
    code, reason = 503, "Service Unavailable"


receiving: Counter[str] = Counter()
"""How many large bodies are coming in, by sitting."""


def is_known(session: str) -> bool:
    """Whether a session is somebody's; asked by the loop, which begins no request of the framework's.

    So a connection that broke is begun anew here, once. Raises OperationalError or InterfaceError after that.
    """
    from django.db import close_old_connections, connection

    from nettlecap.guard import bodies

    close_old_connections()
    try:
        return bodies.is_signed_in(session)
    except (OperationalError, InterfaceError):
        connection.close()
        return bodies.is_signed_in(session)


class GatedRequest(HTTPRequestParser):
    """A request whose body may only be as large as its address, and who sends it, allow."""

    def __init__(self, adj: Any) -> None:
        super().__init__(adj)
        self.adj: Any = adj
        self.began = time.monotonic()

    def received(self, data: bytes) -> int:
        """Take in a piece; once the header is there, the request may be over by it."""
        had_header = self.headers_finished
        consumed = int(super().received(data))
        if not had_header and self.headers_finished and self.error is None and not self.empty:
            self._gate()
        return consumed

    def _gate(self) -> None:
        from nettlecap.guard import bodies, storage

        if not self.chunked and self.content_length <= bodies.SMALL:
            return
        session = bodies.session_of(self.headers.get("COOKIE", ""))
        try:
            known = is_known(session)
        except (OperationalError, InterfaceError):
            self._over(Away("The database cannot be reached at the moment. Nothing was sent; try again in a while."))
            return
        most = bodies.most_of(self.path, signed_in=known)
        # Of a body of no told length the parser counts what comes.
        self.adj = copy.copy(self.adj)
        self.adj.max_request_body_size = most + 1
        if self.content_length > most:
            self._over(TooLarge("Sign in first." if not known else "That is more than is taken here."))
        elif self.content_length > bodies.USUAL:
            if receiving[session] >= MOST_AT_ONCE:
                self._over(TooMany("Other clips of yours are just coming in. Wait for one of them."))
            elif not storage.has_room(self.content_length):
                self._over(DiskFull("The disk is full. Nothing is lost; tell whoever looks after this installation."))
            else:
                receiving[session] += 1
                weakref.finalize(self, _received, session)

    def _over(self, error: Error) -> None:
        self.error, self.completed, self.expect_continue = error, True, False


def _received(session: str) -> None:
    receiving[session] -= 1
    if receiving[session] <= 0:
        del receiving[session]


class Channel(HTTPChannel):
    """A connection; ``is_dragging`` tells that whoever is at its other end keeps it open for nothing."""

    parser_class = GatedRequest

    def is_dragging(self, now: float) -> bool:
        request = self.request
        if request is None:
            return False
        took = now - request.began
        if not request.headers_finished:
            return took > HEADER_S
        return took > GRACE_S and request.body_bytes_received / took < LEAST_BYTES_S


class Pools:
    """Threads for pages, and a few for clips that come in."""

    def __init__(self) -> None:
        self.pages, self.clips = ThreadedTaskDispatcher(), ThreadedTaskDispatcher()
        self.pages.set_thread_count(PAGE_THREADS)
        self.clips.set_thread_count(CLIP_THREADS)

    def add_task(self, channel: Any) -> None:
        from nettlecap.guard.bodies import CLIPS

        request = channel.requests[0]
        is_clip = request.error is None and CLIPS.match(request.path)
        (self.clips if is_clip else self.pages).add_task(channel)

    def shutdown(self, cancel_pending: bool = True, timeout: int = 5) -> None:
        self.clips.shutdown(cancel_pending, timeout)
        self.pages.shutdown(cancel_pending, timeout)


class Server(TcpWSGIServer):
    """Takes so many connections, and of one place only its share; drops those that drag."""

    channel_class = Channel

    def handle_accept(self) -> None:
        """Take a connection, or close it where its place has enough of them."""
        before = set(self.active_channels)
        super().handle_accept()
        for number in set(self.active_channels) - before:
            channel = self.active_channels[number]
            if not self._is_ours(channel.addr[0]) and self._from(channel.addr[0]) > MOST_A_PLACE:
                channel.handle_close()

    def _from(self, address: str) -> int:
        return sum(channel.addr[0] == address for channel in self.active_channels.values())

    def _is_ours(self, address: str) -> bool:
        from django.conf import settings

        from nettlecap.guard.address import is_trusted

        return address in ("127.0.0.1", "::1") or is_trusted(address, settings.TRUSTED_PROXIES)

    def maintenance(self, now: float) -> None:
        """Close what is idle, and what drags."""
        super().maintenance(now)
        clock = time.monotonic()
        for channel in list(self.active_channels.values()):
            if channel.is_dragging(clock):
                channel.handle_close()


def serve(host: str, port: int) -> None:
    """Serve until told to stop."""
    from waitress.adjustments import Adjustments

    from nettlecap.takes.leases import Heart, name_of_process
    from nettlecap.wsgi import application

    logging.getLogger("waitress.queue").setLevel(logging.ERROR)
    _allow_connections()
    adj = Adjustments(
        listen=f"{host}:{port}",
        threads=PAGE_THREADS,
        connection_limit=MOST_CONNECTIONS,
        backlog=1024,
        cleanup_interval=5,
        channel_timeout=IDLE_S,
        asyncore_use_poll=True,
        recv_bytes=262_144,
        max_request_header_size=32_768,
        ident=None,
        # What may be believed of them is for guard/address.py to say, which knows more than one proxy.
        clear_untrusted_proxy_headers=False,
    )
    sockets: dict[int, Any] = {}
    dispatcher = Pools()
    servers = [
        Server(application, sockets, True, None, dispatcher=dispatcher, adj=adj, sockinfo=info) for info in adj.listen
    ]
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    signal.signal(signal.SIGINT, lambda *_: sys.exit(0))
    with Heart(name_of_process("server")):
        servers[-1].run()


def _allow_connections() -> None:
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    wanted = MOST_CONNECTIONS + 400
    if soft < wanted:
        resource.setrlimit(resource.RLIMIT_NOFILE, (min(wanted, hard), hard))


def main() -> None:
    """Read the command line, and serve."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "nettlecap.settings")
    asked = argparse.ArgumentParser(description="Serve the application.")
    asked.add_argument("--bind", default="127.0.0.1:8000", metavar="HOST:PORT")
    host, _, port = asked.parse_args().bind.rpartition(":")
    os.umask(0o077)
    import django

    django.setup()
    serve(host.strip("[]"), int(port))


if __name__ == "__main__":
    main()
