"""Runs the web server and the worker, starts either again when it dies, and ends both together."""

from __future__ import annotations

import os
import signal
import socket
import subprocess
import sys
import time
from typing import Any

from django.conf import settings
from django.core.management import BaseCommand, call_command


def free_port(wanted: int) -> int:
    """`wanted`, or the next port nobody listens on."""
    for port in range(wanted, wanted + 50):
        with socket.socket() as s:
            s.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                s.bind(("127.0.0.1", port))
            except OSError:
                continue
            return port
    raise SystemExit(f"no free port from {wanted} on")


class Command(BaseCommand):
    help = "serve on 127.0.0.1 with a worker beside it"

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument("--port", type=int, default=8000)
        parser.add_argument("--prepare", action="store_true", help="migrate, and load the demo when it is on, first")

    def handle(self, *args: Any, **options: Any) -> None:
        if options["prepare"]:
            # In this very process: two more interpreters would cost two seconds of every start.
            call_command("migrate", verbosity=0)
            if settings.DEMO:
                call_command("demo", stdout=self.stdout)
        port = free_port(options["port"])
        commands = {
            "web": [
                sys.executable, "-m", "gunicorn", "bench.wsgi:application", "--bind", f"127.0.0.1:{port}",
                "--worker-class", "gthread", "--workers", "1", "--threads", "16", "--timeout", "120",
                "--log-level", "warning",
            ],
            "worker": [sys.executable, "-m", "bench", "run_huey", "--quiet"],
        }  # fmt: skip
        env = {**os.environ, "DJANGO_SETTINGS_MODULE": "bench.settings", "OMP_NUM_THREADS": "1"}
        running = {name: subprocess.Popen(command, env=env) for name, command in commands.items()}
        (settings.VAR / "pids").write_text("".join(f"{n} {p.pid}\n" for n, p in running.items()))
        ending = False

        def end(*_: Any) -> None:
            nonlocal ending
            ending = True

        signal.signal(signal.SIGTERM, end)
        signal.signal(signal.SIGINT, end)
        self._wait_for(port, running["web"])
        token = settings.VAR / "demo-token"
        way_in = f"enter/{token.read_text()}" if settings.DEMO and token.exists() else ""
        self.stdout.write(f"Usable Contour is up: http://127.0.0.1:{port}/{way_in}")
        self.stdout.flush()
        while not ending:
            time.sleep(0.2)
            for name, process in running.items():
                if process.poll() is not None and not ending:
                    self.stderr.write(f"{name} ended with {process.returncode}, starting it again")
                    running[name] = subprocess.Popen(commands[name], env=env)
                    (settings.VAR / "pids").write_text("".join(f"{n} {p.pid}\n" for n, p in running.items()))
        for process in running.values():
            process.send_signal(signal.SIGTERM)
        for process in running.values():
            try:
                process.wait(10)
            except subprocess.TimeoutExpired:
                process.kill()

    def _wait_for(self, port: int, web: subprocess.Popen[bytes]) -> None:
        for _ in range(600):
            with socket.socket() as s:
                if s.connect_ex(("127.0.0.1", port)) == 0:
                    return
            if web.poll() is not None:
                raise SystemExit("the web server did not start")
            time.sleep(0.05)
