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
    expect(sheet.get_by_text(re.compile(r"\d+ regions · noise 0\.0\d+ mm"))).to_be_visible(timeout=90_000)
    expect(sheet.locator(".chip", has_text=re.compile(r"\d+ plane"))).to_be_visible()
    alike = sheet.locator(".proposal-row:visible", has_text="holes of one radius").first
    alike.click()
    expect(alike).to_have_attribute("aria-pressed", "true")
    keep = sheet.get_by_role("button", name=re.compile(r"Keep \d+ as regions"))
    before = page.locator("li.step").count()
    keep.click()
    # Three in a row and more fold into one line.
    expect(page.locator("li.step, li.group-own")).not_to_have_count(before)
    fold = page.locator("li.group-own button[aria-expanded=false]")
    if fold.count():
        fold.click()
    expect(page.locator("li.step").nth(before + 1)).to_be_visible()
    expect(page.locator(".step-name", has_text="Hole 1").first).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(page.locator("li.step")).to_have_count(before)


def test_what_was_meant_is_agreed_to_and_measured_and_the_part_is_cut_open(page: Page) -> None:
    page.locator(".job-card", has_text="Rope-guide bracket").first.click()
    page.wait_for_function("() => window.contourView && window.contourView.ready()")
    page.get_by_role("button", name="All regions").click()
    sheet = page.get_by_label("Regions of the scan")
    expect(sheet.get_by_text(re.compile(r"\d+ regions · noise 0\.0\d+ mm"))).to_be_visible(timeout=90_000)
    before = page.locator("li.step").count()
    group = sheet.locator("details", has_text="Parallel")
    group.get_by_role("button", name=re.compile("Agree to all")).click()
    expect(page.locator(".step-name", has_text="Intent")).to_be_visible(timeout=60_000)
    expect(page.locator(".step-word", has_text="agreed")).to_be_visible(timeout=60_000)
    expect(sheet.locator(".proposal-line .stamp").first).to_be_visible()
    # A lasting measurement between two of the regions, with what is known of it.
    page.get_by_role("button", name="Measure", exact=True).click()
    page.get_by_role("button", name="Between two").click()
    for label, nth in (("First place", 0), ("Second place", 1)):
        page.get_by_label(label, exact=True).click()
        # By the keyboard: the list of the first field may still be folding away under the second one's.
        page.keyboard.type(f"Plane {nth + 1}")
        expect(page.locator(".ant-select-item-option-active").last).to_contain_text(f"Plane {nth + 1}")
        page.keyboard.press("Enter")
    expect(page.locator(".measure-figures")).to_contain_text("angle", timeout=30_000)
    page.get_by_role("button", name="Measurement Enter").click()
    expect(page.get_by_label("Measurements").locator(".measure-figures")).to_be_visible(timeout=30_000)
    # The part cut open by a plane free in space; its section taken as a sketch, with its plane as a step.
    page.get_by_role("button", name="Planes, axes, points").click()
    page.get_by_text("Section through the part").click()
    section = page.get_by_label("Section", exact=True)
    expect(section.get_by_text(re.compile(r"\d+ loops?: "))).to_be_visible(timeout=30_000)
    expect(section.locator(".trade-off circle").first).to_be_visible(timeout=30_000)
    section.get_by_label("Turned about its first axis").fill("5")
    expect(section.get_by_role("button", name="Take as a sketch")).to_be_enabled(timeout=30_000)
    section.get_by_role("button", name="Take as a sketch").click()
    expect(page.locator(".step-name", has_text="Plane 1").last).to_be_visible(timeout=30_000)
    expect(page.locator(".step-name", has_text="Sketch 1")).to_be_visible()
    for _ in range(3):  # as fast as somebody clicks: each waits for the one before
        page.get_by_role("button", name="Undo").click()
    expect(page.locator("li.step")).to_have_count(before)
