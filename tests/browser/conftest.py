"""A real server with its worker, and a real browser without a screen."""

from __future__ import annotations

import json
import os
import re
import signal
import subprocess
import sys
from collections import deque
from collections.abc import Generator, Iterator
from pathlib import Path
from urllib.parse import urlsplit

import pytest
from playwright.sync_api import Browser, Page, Response, expect, sync_playwright

FLAGS = [
    "--use-angle=swiftshader",
    "--enable-unsafe-swiftshader",
    "--no-sandbox",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]
ROOT = Path(__file__).resolve().parents[2]
FAILED = pytest.StashKey[bool]()


class Server:
    """``serve`` in its own folder; can be killed and started again."""

    def __init__(self, var: Path, *, demo: bool = True) -> None:
        self.var = var
        self.env = {
            **os.environ,
            "CONTOUR_VAR": str(var),
            "CONTOUR_DEMO": "1" if demo else "0",
            "PYTHONPATH": str(ROOT),
        }
        self.start("--prepare")

    def start(self, *how: str) -> None:
        self.process = subprocess.Popen(
            [sys.executable, "-m", "bench", "serve", "--port", "8760", *how],
            env=self.env,
            cwd=ROOT,
            stdout=subprocess.PIPE,
            text=True,
            start_new_session=True,
        )
        assert self.process.stdout is not None
        said = ""
        for line in self.process.stdout:
            said += line
            if found := re.search(r"http://[^/]+", line):
                self.base = found.group()
                return
        raise AssertionError(f"the server said {said!r}")

    @property
    def address(self) -> str:
        """The way in, as if it had not been opened before: a long run of tests outlives its ten minutes."""
        path = self.var / "demo-link.json"
        link = json.loads(path.read_text())
        path.write_text(json.dumps({**link, "opened": None}))
        return f"{self.base}/enter/{link['token']}"

    def pids(self) -> dict[str, int]:
        return {n: int(p) for n, p in (line.split() for line in (self.var / "pids").read_text().splitlines())}

    def stop(self, how: int = signal.SIGTERM) -> None:
        if how == signal.SIGKILL:
            os.killpg(self.process.pid, how)
        else:
            self.process.send_signal(how)
        self.process.wait(20)


@pytest.fixture(scope="session")
def server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    running = Server(tmp_path_factory.mktemp("var"))
    yield running
    running.stop()


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as p:
        one = p.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        yield one
        one.close()


@pytest.fixture
def page(browser: Browser, server: Server, request: pytest.FixtureRequest) -> Iterator[Page]:
    # Waiting for a state evaluates a text in the page, which our policy forbids: test_policy.py looks at the page as it is served.
    context = browser.new_context(
        viewport={"width": 1280, "height": 800}, accept_downloads=True, bypass_csp=True, reduced_motion="reduce"
    )
    one = context.new_page()
    one.set_default_timeout(90_000)  # a loaded machine is slow, not wrong
    expect.set_options(timeout=30_000)
    errors: list[str] = []
    one.on("pageerror", lambda e: errors.append(str(e)))
    asked: deque[str] = deque(maxlen=40)
    one.on("response", lambda r: asked.append(_said(r)) if r.request.method != "GET" or r.status >= 400 else None)
    one.goto(server.address)
    one.wait_for_selector(".job-card")
    yield one
    if request.node.stash.get(FAILED, False):  # a failure far away is only understood by what the page went through
        print("what the page sent, and what came back:", *asked, sep="\n  ")
        print("what it says:", one.locator(".ant-message, .bench").all_inner_texts())
        print("its build:", one.evaluate("document.querySelector('.bench')?.dataset.build"))
    context.close()
    assert errors == []


def _said(response: Response) -> str:
    """One request that changes something, or was refused, in a line."""
    body = response.request.post_data_buffer or b""
    return f"{response.request.method} {urlsplit(response.url).path} {body[:200]!r} → {response.status}"


@pytest.hookimpl(wrapper=True)
def pytest_runtest_makereport(item: pytest.Item) -> Generator[None, pytest.TestReport, pytest.TestReport]:
    report = yield
    if report.failed:
        item.stash[FAILED] = True
    return report
