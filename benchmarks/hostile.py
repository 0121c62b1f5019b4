"""What strangers and broken pictures cost a server: memory over idle, and processor time of one request."""

from __future__ import annotations

import http.client
import io
import os
import random
import tempfile
import threading
import time
from pathlib import Path
from urllib.parse import urlsplit

import numpy as np
from PIL import Image
from tests.demo_copy import copy_demo
from tests.hostile import requests
from tests.server.real_server import Server

from benchmarks.timing import Figure

COUNT, PICTURES = 5000, 200
TICKS = os.sysconf("SC_CLK_TCK")


def _rss_mb(pid: int) -> float:
    fields = Path(f"/proc/{pid}/statm").read_text().split()
    return int(fields[1]) * os.sysconf("SC_PAGE_SIZE") / 2**20


def _cpu_s(pid: int) -> float:
    fields = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()
    return (int(fields[11]) + int(fields[12])) / TICKS


def _pictures(count: int) -> list[bytes]:
    chance, made = random.Random(3), []
    noise = np.random.default_rng(3).integers(0, 256, (900, 1200, 3), np.uint8)
    good = []
    for kind in ("JPEG", "PNG", "WEBP"):
        data = io.BytesIO()
        Image.fromarray(noise).save(data, kind)
        good.append(data.getvalue())
    for _ in range(count):
        damaged = bytearray(chance.choice(good))
        for _ in range(chance.randint(1, 60)):
            damaged[chance.randrange(16, len(damaged))] = chance.randrange(256)
        made.append(bytes(damaged[: chance.randrange(len(damaged) // 2, len(damaged) + 1)]))
    return made


def figures() -> list[Figure]:
    with tempfile.TemporaryDirectory() as folder:
        copy_demo(Path(folder) / "shop")
        server = Server(Path(folder) / "shop")
        pid, host = server.process.pid, urlsplit(server.base).netloc
        for _ in range(3):
            server.ask("GET", "/api/trials")
        time.sleep(1)
        idle, peak, over = _rss_mb(pid), [0.0], threading.Event()

        def watch() -> None:
            while not over.wait(0.02):
                peak[0] = max(peak[0], _rss_mb(pid))

        watching = threading.Thread(target=watch)
        watching.start()
        failed, dearest, which = 0, 0.0, ""

        def ask(method: str, url: str, body: bytes | None, headers: dict[str, str]) -> None:
            nonlocal failed, dearest, which
            before = _cpu_s(pid)
            connection = http.client.HTTPConnection(host, timeout=60)
            try:
                connection.request(method, url, body, headers)
                failed += connection.getresponse().status >= 500
            except (http.client.HTTPException, UnicodeError, OSError):
                # What no client may send at all.
                return
            finally:
                connection.close()
            cost = _cpu_s(pid) - before
            if cost > dearest:
                dearest, which = cost, f"{method} {url[:60]}"

        for request in requests(20261127, COUNT):
            ask(request.method, request.url, request.body, request.headers)
        for number, picture in enumerate(_pictures(PICTURES)):
            ask("POST", f"/api/photos?burn={number % 9 + 1}", picture, {"Content-Type": "image/jpeg"})
        over.set()
        watching.join()
        server.stop()
    said = f"{COUNT} hostile requests and {PICTURES} damaged pictures; idle {idle:.0f} MB"
    return [
        Figure("hostile requests that failed the server", failed, "", 0, said),
        Figure("memory of the server over idle", peak[0] - idle, "MB", 300, said),
        Figure("processor time of the dearest of them", dearest, "s", 2, which),
    ]
