"""Runs the web process and the worker, starts either again when it dies, and ends both together."""

from __future__ import annotations

import contextlib
import fcntl
import os
import signal
import socket
import subprocess
import sys
import threading
import time
import urllib.request
from pathlib import Path
from typing import IO, Any

from django.conf import settings
from django.core.management import BaseCommand, call_command

from bench.demo_link import new_demo_link
from bench.last_breath import dies_with_its_parent


def listening(wanted: int) -> socket.socket:
    """A socket on `wanted`, or on the next port that is free. It is handed to the web process: so nobody else can take the port in
    between, and while that process is started again, requests wait instead of being refused."""
    for port in range(wanted, wanted + 50):
        s = socket.socket()
        s.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            s.bind(("127.0.0.1", port))
            s.listen(1024)
        except OSError:
            s.close()
            continue
        return s
    raise SystemExit(f"no free port from {wanted} on")


class Command(BaseCommand):
    help = "serve on 127.0.0.1 with a worker beside it"
    requires_system_checks: Any = []  # they load the whole API into a process that only watches others

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument("--port", type=int, default=8000)
        parser.add_argument("--prepare", action="store_true", help="migrate, and load the demo when it is on, first")

    def handle(self, *args: Any, **options: Any) -> None:
        settings.VAR.chmod(0o700)  # a folder of an earlier version may have been open
        for kept in (*settings.VAR.glob("*.sqlite3*"), settings.VAR / "secret"):
            kept.chmod(0o600)
        held = self._only_one()
        if held is None:
            return
        ending = False

        def end(*_: Any) -> None:
            nonlocal ending
            ending = True

        signal.signal(signal.SIGTERM, end)
        signal.signal(signal.SIGINT, end)
        if options["prepare"] and not self._prepared(lambda: ending):
            return
        self.door = listening(options["port"])
        port = self.door.getsockname()[1]
        commands = {
            "web": [sys.executable, "-m", "bench", "web", "--socket", str(self.door.fileno())],
            "worker": [sys.executable, "-m", "bench", *(["supervise"] if settings.REDIS else ["run_huey", "--quiet"])],
        }
        running = {name: self._started(name, command) for name, command in commands.items()}
        self._tell_pids(running)
        try:
            if not self._wait_for(port, running["web"], lambda: ending):
                return
            held.seek(0)
            held.write(str(port))
            held.truncate()
            held.flush()
            self.stdout.write(f"Usable Contour is up: {_address(port)}")
            self.stdout.flush()
            while not ending:
                time.sleep(0.2)
                for name, process in running.items():
                    if process.poll() is not None and not ending:
                        self.stderr.write(f"{name} ended with {process.returncode}, starting it again")
                        running[name] = self._started(name, commands[name])
                        self._tell_pids(running)
        finally:
            _end_all(list(running.values()))

    def _only_one(self) -> IO[str] | None:
        """The lock of this folder, held while this lives; none when another server has it, whose address is told."""
        path = Path(settings.VAR) / "serve.lock"
        held = os.fdopen(os.open(path, os.O_RDWR | os.O_CREAT, 0o600), "r+")
        try:
            fcntl.flock(held, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            port = held.read().strip()
            where = _address(int(port)) if port.isdigit() else "its address is told where it was started"
            self.stdout.write(f"Usable Contour is up already: {where}")
            return None
        held.truncate(0)
        return held

    def _prepared(self, ending: Any) -> bool:
        """Migrate and load the demo in a fork of this process: what they load (the kernel, for one) goes with it again, and
        two more interpreters would cost two seconds of every start."""
        self.stdout.flush()
        pid = os.fork()
        if pid == 0:
            code = 1
            signal.signal(signal.SIGTERM, signal.SIG_DFL)
            signal.signal(signal.SIGINT, signal.SIG_DFL)
            dies_with_its_parent()
            try:
                call_command("migrate", verbosity=0)
                if settings.DEMO:
                    call_command("demo", stdout=self.stdout)
                code = 0
            except Exception as error:
                from bench.faults import reported

                print(reported(error, "preparing").line(), file=sys.stderr)
            finally:
                sys.stdout.flush()
                os._exit(code)
        while True:
            done, status = os.waitpid(pid, os.WNOHANG)
            if done:
                if status:
                    raise SystemExit(2)
                return True
            if ending():
                os.kill(pid, signal.SIGTERM)
                os.waitpid(pid, 0)
                return False
            time.sleep(0.02)

    def _started(self, role: str, command: list[str]) -> subprocess.Popen[bytes]:
        env = {**os.environ, "DJANGO_SETTINGS_MODULE": "bench.settings", "OMP_NUM_THREADS": "1", "CONTOUR_ROLE": role}
        # One heap per thread would keep what each thread's largest answer took; few heaps that are trimmed give it back.
        env |= {"MALLOC_ARENA_MAX": "2", "MALLOC_TRIM_THRESHOLD_": "262144"}
        door = [self.door.fileno()] if role == "web" else []
        return subprocess.Popen(
            command, env=env, preexec_fn=dies_with_its_parent, start_new_session=True, pass_fds=door
        )

    def _tell_pids(self, running: dict[str, subprocess.Popen[bytes]]) -> None:
        (settings.VAR / "pids").write_text("".join(f"{n} {p.pid}\n" for n, p in running.items()))

    def _wait_for(self, port: int, web: subprocess.Popen[bytes], ending: Any) -> bool:
        answered = threading.Event()

        def ask() -> None:
            with (
                contextlib.suppress(OSError),
                urllib.request.urlopen(f"http://127.0.0.1:{port}/api/session", timeout=300),
            ):
                answered.set()

        threading.Thread(target=ask, daemon=True).start()
        for _ in range(6000):
            if ending():
                return False
            if answered.wait(0.05):
                return True
            if web.poll() is not None:
                break
        raise SystemExit("the web server did not start: see the log in var/log")


def _address(port: int) -> str:
    return f"http://127.0.0.1:{port}/{new_demo_link() if settings.DEMO else ''}"


def _end_all(processes: list[subprocess.Popen[bytes]]) -> None:
    for process in processes:
        process.send_signal(signal.SIGTERM)
    for process in processes:
        try:
            process.wait(10)
        except subprocess.TimeoutExpired:
            process.kill()
