"""A whole scan taken apart in the browser: found, looked at, thinned out, kept."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

pytestmark = pytest.mark.browser


def test_regions_are_found_chosen_by_what_was_meant_and_kept(page: Page) -> None:
    page.locator(".job-card", has_text="Rope-guide bracket").first.click()
    page.wait_for_function("() => window.contourView && window.contourView.ready()")
    page.get_by_role("button", name="All regions").click()
    sheet = page.get_by_label("Regions of the scan")
    sheet.get_by_role("button", name="Find regions").click()
    expect(sheet.get_by_text(re.compile(r"\d+ regions · noise 0\.0\d+ mm"))).to_be_visible(timeout=90_000)
    expect(sheet.locator(".chip", has_text=re.compile(r"\d+ plane"))).to_be_visible()
    alike = sheet.locator(".proposal-row:visible", has_text="bores of one radius").first
    alike.click()
    expect(alike).to_have_attribute("aria-pressed", "true")
    keep = sheet.get_by_role("button", name=re.compile(r"Keep \d+ as regions"))
    before = page.locator("li.step").count()
    keep.click()
    expect(page.locator("li.step").nth(before + 1)).to_be_visible()
    expect(page.locator(".step-name", has_text="Bore 1").first).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(page.locator("li.step")).to_have_count(before)
