"""The page under its content security policy, which the other flows set aside to be able to wait for states."""

from __future__ import annotations

import pytest
from playwright.sync_api import Browser, expect

from tests.browser.conftest import Server

pytestmark = pytest.mark.browser


def test_the_bench_works_under_its_policy(browser: Browser, server: Server) -> None:
    context = browser.new_context(viewport={"width": 1280, "height": 800})
    page = context.new_page()
    page.set_default_timeout(90_000)
    expect.set_options(timeout=60_000)
    refused: list[str] = []
    page.on("console", lambda m: refused.append(m.text) if "Content Security Policy" in m.text else None)
    errors: list[str] = []
    page.on("pageerror", lambda e: errors.append(str(e)))
    page.goto(server.address)
    page.locator(".job-card", has_text="Bracket, base and boss").first.click()
    expect(page.locator("canvas").first).to_be_visible()
    expect(page.get_by_text("inside ±")).to_be_visible()
    page.get_by_role("button", name="Values", exact=True).click()
    expect(page.locator(".sheet")).to_be_visible()
    assert refused == [] and errors == []
    context.close()
