"""Servers as programs, and people who ask them over the network."""

from __future__ import annotations

import json
import os
import re
import subprocess
import sys
import time
import urllib.error
import urllib.request
import uuid
from collections.abc import Callable
from http.cookiejar import CookieJar
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parents[2]
START_S = 120
PASSWORD = "ferry-rope-7"


def command(var: Path, *argv: str, demo: bool = False, **env: str) -> subprocess.Popen[str]:
    """A command of the application in its own session, its words to be read."""
    said = {**os.environ, "CONTOUR_VAR": str(var), "CONTOUR_DEMO": "1" if demo else "0", "PYTHONPATH": str(ROOT), **env}
    return subprocess.Popen(
        [sys.executable, "-m", "bench", *argv],
        env=said,
        cwd=ROOT,
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
        text=True,
        start_new_session=True,
    )


def address_of(process: subprocess.Popen[str]) -> str:
    assert process.stdout is not None
    line = process.stdout.readline()
    found = re.search(r"http://[^/\s]+", line)
    assert found, (line, process.stderr and process.stderr.read())
    return found.group()


def until(true: Callable[[], Any], what: str, seconds: float = START_S) -> Any:
    """Waits for a state, however busy the machine is."""
    end = time.monotonic() + seconds
    while not (found := true()):
        assert time.monotonic() < end, f"not in time: {what}"
        time.sleep(0.03)
    return found


def alive(pid: int) -> bool:
    try:
        return "Z" not in Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[0]
    except OSError:
        return False


def account(var: Path, name: str) -> None:
    code = f"import django; django.setup(); from django.contrib.auth import get_user_model as m; m().objects.create_user('{name}', password='{PASSWORD}')"
    env = {**os.environ, "CONTOUR_VAR": str(var), "DJANGO_SETTINGS_MODULE": "bench.settings"}
    subprocess.run([sys.executable, "-c", code], env=env, cwd=ROOT, check=True)


class Person:
    """Somebody signed in, over the network."""

    def __init__(self, base: str, name: str) -> None:
        self.base, self.csrf, self.jar = base, "", CookieJar()
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self.jar))
        self.csrf = self.ask("GET", "/session")["csrf"]
        self.ask("POST", "/session", {"username": name, "password": PASSWORD})
        self.csrf = self.ask("GET", "/session")["csrf"]

    def ask(self, method: str, path: str, body: Any = None) -> Any:
        """Raises HTTPError with what the answer says of itself."""
        head = {"Content-Type": "application/json", "X-CSRFToken": self.csrf}
        data = None if body is None else json.dumps(body).encode()
        with self.opener.open(
            urllib.request.Request(f"{self.base}/api{path}", data, head, method=method), timeout=120
        ) as answer:
            return json.load(answer)

    def bring(self, data: bytes, name: str = "scan.stl") -> dict[str, Any]:
        """Upload a scan and wait until it is read, or refused."""
        edge = uuid.uuid4().hex
        start = f'--{edge}\r\nContent-Disposition: form-data; name="file"; filename="{name}"\r\n\r\n'
        body = start.encode() + data + f"\r\n--{edge}--\r\n".encode()
        head = {"Content-Type": f"multipart/form-data; boundary={edge}", "X-CSRFToken": self.csrf}
        with self.opener.open(urllib.request.Request(f"{self.base}/api/uploads", body, head), timeout=120) as answer:
            id_ = json.load(answer)["id"]

        def read() -> Any:
            seen = self.ask("GET", f"/uploads/{id_}")
            return seen if seen["status"] in ("done", "failed") else None

        return until(read, "the scan is read")  # type: ignore[no-any-return]

    def begin(self, data: bytes, name: str = "Block") -> dict[str, Any]:
        return self.ask("POST", "/jobs", {"upload": self.bring(data)["id"], "name": name, "unit": "mm"})  # type: ignore[no-any-return]

    def edit(self, job: str, edit: dict[str, Any]) -> dict[str, Any]:
        return self.ask(
            "POST", f"/jobs/{job}/edits", {"version": self.ask("GET", f"/jobs/{job}")["version"], "edit": edit}
        )  # type: ignore[no-any-return]

    def region(self, job: dict[str, Any], seed: int) -> dict[str, Any]:
        scan = job["recipe"]["evidence"][0]["id"]
        params = {"scan": {"id": scan}, "seeds": [seed]}
        return self.edit(job["id"], {"op": "add-step", "id": str(uuid.uuid4()), "kind": "region", "params": params})

    def built(self, job: str, seconds: float = START_S) -> dict[str, Any]:
        """The job once its head is built; fails when that build has failed."""

        def done() -> Any:
            now = self.ask("GET", f"/jobs/{job}")
            assert now["build"]["status"] not in ("failed", "cancelled"), now["build"]
            return now if now["build"]["status"] == "done" else None

        return until(done, "the job is built", seconds)  # type: ignore[no-any-return]
