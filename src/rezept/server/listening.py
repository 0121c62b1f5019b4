"""The HTTP server around the application: what it takes from strangers, and how long it waits for them."""

from __future__ import annotations

import copy
import ipaddress
import json
import select
import socket
from collections.abc import Callable, Iterable
from typing import Any
from urllib.parse import urlsplit

from flask import Flask
from waitress.channel import HTTPChannel
from waitress.parser import HTTPRequestParser
from waitress.server import TcpWSGIServer, create_server
from waitress.utilities import RequestEntityTooLarge

from rezept.server.bodies import INSIDE, most_bytes

THREADS = 64
MOST_CONNECTIONS = 1000
# Connections on which nothing happens are closed after so long; and looked for so often.
IDLE_S, LOOK_EVERY_S = 20, 2
# What was sent to a machine that is gone without a word (a cable pulled) counts as lost after so long.
UNANSWERED_MS = 6000

WSGI = Callable[[dict[str, Any], Callable[..., Any]], Iterable[bytes]]


class _TooLarge(RequestEntityTooLarge):
    """The same problem as the application's, for what never reaches it."""

    def __init__(self, most: int) -> None:
        size = f"{most // 2**20} MiB" if most >= 2**20 else f"{most // 2**10} kB"
        super().__init__(f"This is too large; at most {size} go there.")

    def to_response(self, ident: str | None = None) -> tuple[str, list[tuple[str, str]], bytes]:
        problem = {"type": "about:blank", "title": "Too large", "status": self.code, "detail": self.body}
        body = json.dumps({**problem, "errors": [{"path": "", "detail": self.body}]}).encode()
        headers = [("Content-Type", "application/problem+json"), ("Content-Length", str(len(body)))]
        return f"{self.code} {self.reason}", headers, body


class _Parser(HTTPRequestParser):
    """Refuses what is too large for where it goes as soon as the headers say so; nothing is put on disk for it."""

    adj: Any
    error: Any

    def parse_header(self, header_plus: bytes) -> None:
        super().parse_header(header_plus)
        self.adj = copy.copy(self.adj)
        # One more: what is just as large as allowed passes.
        self.adj.max_request_body_size = most_bytes(self.path) + 1

    def received(self, data: bytes) -> int:
        consumed = super().received(data)
        if type(self.error) is RequestEntityTooLarge:
            self.error = _TooLarge(most_bytes(self.path))
        return int(consumed)


class _Channel(HTTPChannel):
    parser_class = _Parser


def behind_proxy(app: WSGI, address: str) -> WSGI:
    """An application that stands behind one proxy on this machine, which is reached at `address`.

    Who asks is whom the proxy names last in X-Forwarded-For (what stands before that anybody may have written); what
    came from another machine directly is taken for itself. Every request counts as made by the scheme of `address`.
    """
    scheme = urlsplit(address).scheme

    def through(environ: dict[str, Any], start_response: Callable[..., Any]) -> Iterable[bytes]:
        forwarded = environ.pop("HTTP_X_FORWARDED_FOR", "").rpartition(",")[2].strip()
        if forwarded and _is_here(environ.get("REMOTE_ADDR", "")):
            environ["REMOTE_ADDR"] = forwarded
        environ["wsgi.url_scheme"] = scheme
        return app(environ, start_response)

    return through


def _is_here(address: str) -> bool:
    try:
        return ipaddress.ip_address(address).is_loopback
    except ValueError:
        return False


def listen(app: Flask, host: str, port: int, proxy: str | None = None) -> Any:
    """A server that answers once it is run. `proxy` is the address of a proxy on this machine, if one stands before.

    Raises
    ------
    OSError : host and port cannot be used
    """
    options = [(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)]
    if hasattr(socket, "TCP_USER_TIMEOUT"):
        options.append((socket.IPPROTO_TCP, socket.TCP_USER_TIMEOUT, UNANSWERED_MS))
    server = create_server(
        behind_proxy(app.wsgi_app, proxy) if proxy else app,
        host=host,
        port=port,
        threads=THREADS,
        connection_limit=MOST_CONNECTIONS,
        channel_timeout=IDLE_S,
        cleanup_interval=LOOK_EVERY_S,
        # A client that hangs up is seen while its answer is still being made.
        channel_request_lookahead=1,
        asyncore_use_poll=hasattr(select, "poll"),
        max_request_body_size=INSIDE,
        ident="Rezept",
    )
    # A name may stand for several addresses, each with a socket of its own.
    for one in [server] if isinstance(server, TcpWSGIServer) else server.map.values():
        if isinstance(one, TcpWSGIServer):
            one.channel_class = _Channel
            one.adj.socket_options = options
    return server
