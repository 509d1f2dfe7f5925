"""A job without a scan in the browser: readings from the simulated caliper, a thread by its standard, a photo measured."""

from __future__ import annotations

import math
import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.test_first_path import built

pytestmark = pytest.mark.browser


def choose(page: Page, field: str, option: str) -> None:
    page.get_by_label(field).click()
    page.locator(".ant-select-dropdown:visible").get_by_title(option, exact=True).click()


def open_nut(page: Page) -> None:
    page.locator(".job-card", has_text="Gland nut").first.click()
    page.wait_for_function("window.contourView && window.contourView.bodies().length === 1")
    built(page)


def test_a_reading_is_taken_a_take_struck_out_and_the_thread_named(page: Page) -> None:
    open_nut(page)
    page.get_by_role("button", name="Caliper desk").click()
    page.get_by_role("button", name="New reading").click()
    sheet = page.get_by_label("Reading reading_1")
    expect(sheet).to_be_visible()
    choose(page, "What the jaws are on", "Gland nut: lip_h")
    caliper = page.get_by_label("Simulated caliper")
    caliper.get_by_role("button", name="Zero").click()
    for n in (1, 2, 3):
        caliper.get_by_role("button", name="Measure").click()
        expect(caliper.get_by_role("status", name="Display")).to_contain_text(re.compile(r"[34]\.\d\d"))
        caliper.get_by_role("button", name="Send").click()
        expect(sheet.locator(".take")).to_have_count(n)
    row = page.locator("tr", has=page.get_by_role("button", name="reading_1"))
    expect(row).to_contain_text("3")
    field = page.get_by_label("Next take of reading_1")
    field.fill("5.20")
    field.press("Enter")
    expect(sheet.locator(".take.apart")).to_have_count(1)
    sheet.locator(".take.apart").click()
    page.get_by_label("Why it is struck out").fill("jaws on the fillet")
    page.get_by_role("button", name="Strike out").click()
    expect(sheet.locator(".take.struck")).to_have_count(1)
    expect(row).to_contain_text("(1 struck)")
    page.keyboard.press("Escape")
    choose(page, "Diameter of the thread", "major_d")
    first = page.locator(".thread-rows tbody tr").first
    expect(first).to_contain_text("M36x3")
    page.get_by_role("button", name="Undo").click()
    expect(sheet.locator(".take.struck")).to_have_count(0)


def test_a_photo_is_squared_up_and_measured(page: Page) -> None:
    open_nut(page)
    page.get_by_role("button", name="Photo desk").click()
    rows = page.get_by_label("Measured")
    expect(rows).to_contain_text("pitch 3.00")
    expect(rows).to_contain_text("drift at the last one")
    page.get_by_role("button", name="Change the corners").click()
    page.get_by_role("button", name="Find its sides").click()
    expect(page.get_by_role("button", name="Change the corners")).to_be_visible()
    expect(page.get_by_label("Straighten", exact=True)).to_contain_text("lens 3.5 %")
    page.get_by_role("button", name="Count", exact=True).click()
    box = page.locator(".picture").bounding_box()
    assert box is not None
    for k in range(3):
        page.mouse.click(box["x"] + 200 + 40 * k, box["y"] + 300)
    page.get_by_role("button", name="Done").click()
    expect(rows).to_contain_text("3 marked")
    rows.get_by_role("button", name=re.compile("^thread crests")).click()
    page.get_by_label("Name of the new reading").fill("photo_pitch")
    page.get_by_role("button", name="Make it a reading").click()
    expect(page.locator(".picture-pin", has_text="photo_pitch")).to_contain_text("photo_pitch 3.0")


def test_a_photo_lies_under_a_sketch_and_the_sketch_is_fitted_to_its_edges(page: Page) -> None:
    open_nut(page)
    page.keyboard.press("/")
    page.get_by_role("combobox").or_(page.get_by_role("textbox", name=re.compile("Search"))).first.fill(
        "Drawn on a plane"
    )
    page.keyboard.press("Enter")
    page.wait_for_selector('.sketch-layer[data-drawn="0"]')
    built(page)
    choose(page, "Lay a picture under it", "gland-nut-on-card.jpg")
    page.wait_for_selector('.under-photos[data-laid="1"] image')
    built(page)
    page.get_by_role("button", name="Square").click()
    photo_rests(page)
    # The head on its photo, by what the photo was rendered from, half a millimetre off on each side.
    bar = page.get_by_role("toolbar", name="Drawing")
    bar.get_by_role("button", name=re.compile("Rectangle")).click()
    page.keyboard.down("Alt")
    for x, y in ((-35.5, -3 - 26.1), (-21.4, -3 + 27.0)):
        at = on_photo(page, x, y)
        page.mouse.move(*at)
        page.mouse.click(*at)
    page.keyboard.up("Alt")
    page.wait_for_selector('.sketch-layer[data-drawn="8"][data-solved="true"]')
    page.keyboard.press("Escape")
    built(page)
    panel = page.get_by_label("Against what was measured")
    panel.get_by_role("button", name="Fit to its edges").click()
    panel.get_by_role("button", name="Take it").click()
    page.wait_for_function(f"() => Math.abs({_AREA} - {15 * 46 / math.cos(math.radians(30)):.3f}) < 6")
    built(page)
    figures = page.locator(".under-photos text")
    expect(figures.filter(has_text="46.02 mm")).to_have_count(1)


_AREA = "parseFloat((document.querySelector('.profile-row .figures')?.innerText ?? '0').replace(',', ''))"


def photo_rests(page: Page) -> None:
    """The view has turned square to the plane: the photo stays where it is."""
    page.wait_for_function(
        """() => { const m = document.querySelector('.under-photos image').getScreenCTM();
        const key = [m.a, m.b, m.c, m.d, m.e, m.f].map((n) => n.toFixed(3)).join(); const same = window.photoAt === key;
        window.photoAt = key; return same && Math.abs(m.b) < 1e-3 && m.a > 0; }""",
        polling=250,
    )


def on_photo(page: Page, x: float, y: float) -> tuple[float, float]:
    """Where a place of the card lies on the screen, mm from its middle."""
    corners = page.evaluate(
        """async () => { const job = location.pathname.split('/').at(-1);
        const image = document.querySelector('.under-photos image');
        const id = image.getAttribute('href').split('/pictures/')[1].split('/')[0];
        const out = await (await fetch(`/api/jobs/${job}/pictures/${id}`)).json();
        const m = image.getScreenCTM();
        return out.scale_line.map(([x, y]) => { const p = new DOMPoint(x, y).matrixTransform(m); return [p.x, p.y]; }); }"""
    )
    (ax, ay), (bx, by) = corners
    mm = math.hypot(bx - ax, by - ay) / 120
    # The upper left corner of the card lies 60 to the left of its middle and 40 above it; the photo lies level.
    return ax + (x + 60) * mm, ay + (40 - y) * mm
