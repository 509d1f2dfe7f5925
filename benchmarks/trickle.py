"""Three hundred connections that send one byte every five seconds, for a minute: do others wait, is anybody refused?"""

from __future__ import annotations

import socket
import tempfile
import threading
import time
import urllib.request
from collections.abc import Iterator
from pathlib import Path

import numpy as np

from tests.browser.conftest import Server

__all__ = ["run"]

CONNECTIONS, SECONDS, EVERY_S = 300, 60.0, 5.0
_HEAD = (
    b"POST /api/session HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Type: application/json\r\nContent-Length: 4000\r\n\r\n"
)


def _asked(base: str, seconds: float) -> tuple[np.ndarray, int]:
    times, refused = [], 0
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        begun = time.perf_counter()
        try:
            with urllib.request.urlopen(f"{base}/api/session", timeout=30) as answer:
                answer.read()
        except OSError:
            refused += 1
        times.append(time.perf_counter() - begun)
        time.sleep(0.05)
    return np.array(times), refused


def run() -> Iterator[tuple[str, str]]:
    with tempfile.TemporaryDirectory() as folder:
        server = Server(Path(folder) / "var", demo=False)
        slow: list[socket.socket] = []
        over = threading.Event()
        try:
            port = int(server.base.rsplit(":", 1)[1])
            alone, _ = _asked(server.base, 15.0)
            for _ in range(CONNECTIONS):
                s = socket.create_connection(("127.0.0.1", port))
                s.sendall(_HEAD)
                slow.append(s)

            def trickle() -> None:
                while not over.wait(EVERY_S):
                    for s in slow:
                        try:
                            s.sendall(b" ")
                        except OSError:
                            pass

            threading.Thread(target=trickle, daemon=True).start()
            beside, refused = _asked(server.base, SECONDS)
            a, b = np.percentile(alone, 95), np.percentile(beside, 95)
            yield (
                f"an answer beside {CONNECTIONS} trickling senders, n = {len(beside)}: p95 (wanted: at most double)",
                f"{b * 1e3:.1f} ms ({b / a:.2f} times)",
            )
            yield "refused (wanted: 0)", str(refused)
        finally:
            over.set()
            for s in slow:
                s.close()
            server.stop()
