"""A supplier's STEP file becomes a job: an edge is picked where it is seen, rounded by dragging, and the file that leaves is as much lighter."""

from __future__ import annotations

import math
import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from contour.exchange.step import write_step
from contour.solid.from_file import read_shape_file
from contour.solid.gate import check_solid
from tests.browser.places import pixel
from tests.browser.test_first_path import begin_job, built, download
from tests.conftest import circle, prism, rectangle

pytestmark = pytest.mark.browser

PLATE_VOLUME = (60 * 40 - math.pi * 64) * 10


def radius(page: Page) -> float:
    return float(page.get_by_label("Radius", exact=True).input_value().split()[0])


def test_a_file_is_dropped_an_edge_rounded_by_dragging_and_the_solid_delivered(page: Page, tmp_path: Path) -> None:
    path = tmp_path / "side_plate.step"
    write_step(path, [("Side plate", prism([*rectangle(60, 40), circle(20, 20, 8)], 10).shape, "#8a9aa5")], unit="mm")
    page.get_by_label("Scan file").set_input_files(path)
    # The first job of all waits for the demo's own to be built.
    expect(page.get_by_role("dialog")).to_contain_text("one body with 7 faces", timeout=180_000)
    begin_job(page)
    built(page)
    page.wait_for_function("window.contourView && window.contourView.bodies().length === 1")
    place = (30.0, 0.0, 10.0)
    page.wait_for_function(
        "p => { const s = window.contourView.project(p); return window.contourView.pickEdges(s.x, s.y).length > 0 }",
        arg=list(place),
    )
    x, y = pixel(page, place)
    hit = page.evaluate("([x, y]) => window.contourView.pickEdges(x, y)[0]", [x, y])
    assert math.dist(hit["point"], place) < 1e-3
    page.mouse.click(x, y)
    card = page.get_by_role("region", name="Selection")
    expect(card).to_contain_text("Straight edge, 60.00 mm")
    card.get_by_role("button", name="Fillet").click()
    sheet = page.get_by_role("region", name="Fillet")
    expect(sheet).to_contain_text("straight edge")
    # The grip stands where the fillet of 1 mm is, on the line that halves the corner.
    page.wait_for_function("document.querySelector('canvas').dataset.grips === 'radius'")
    s = math.sqrt(0.5)
    page.mouse.move(*pixel(page, (30, s, 10 - s)))
    page.mouse.down()
    page.mouse.move(*pixel(page, (30, 2 * s, 10 - 2 * s)))
    page.mouse.move(*pixel(page, (30, 4 * s, 10 - 4 * s)))
    page.mouse.up()
    dragged = radius(page)
    assert dragged == pytest.approx(4, abs=0.3)
    sheet.get_by_role("button", name=re.compile("^Fillet")).click()
    expect(page.locator("li.step")).to_have_count(2)
    built(page)
    page.get_by_role("button", name="Deliver", exact=True).click()
    file = download(page, "Download STEP", tmp_path)
    facts = check_solid(read_shape_file(file))
    assert facts.closed and facts.valid
    assert facts.volume == pytest.approx(PLATE_VOLUME - (1 - math.pi / 4) * dragged**2 * 60, rel=1e-6)
    another_radius_beside_it(page)


def another_radius_beside_it(page: Page) -> None:
    """The job beside a variant of it: its volume is that of the other radius; taken, the step has it."""
    page.get_by_role("button", name="Values", exact=True).click()
    page.get_by_role("button", name="Variants …").click()
    page.get_by_label("Name of a new variant").fill("rounder")
    page.get_by_role("button", name="Add a variant").click()
    page.get_by_role("combobox", name="Another value to set").click()
    page.get_by_title(re.compile(r"^Fillet 1, radius \(")).click()
    cell = page.get_by_role("textbox", name="Fillet 1, radius in rounder", exact=True)
    cell.fill("5 mm")
    cell.press("Enter")
    built(page)
    page.get_by_role("button", name="Build them side by side").click()
    volume = page.get_by_role("row", name=re.compile("^Volume")).get_by_role("cell").nth(1)
    expect(volume).to_have_text(f"{PLATE_VOLUME - (1 - math.pi / 4) * 25 * 60:,.0f} mm³")
    page.get_by_role("button", name="Take it").click()
    expect(page.locator("li.step", has_text="Fillet 1").locator("input").first).to_have_value("5 mm")


def test_a_hole_is_drilled_from_a_face_and_repeated(page: Page, tmp_path: Path) -> None:
    """From the card of a flat face: a hole at a corner's place is refused kindly, four on a circle are taken; what leaves is as much lighter."""
    path = tmp_path / "blank.step"
    write_step(path, [("Blank", prism(rectangle(60, 60, at=(-30, -30)), 10).shape, "#8a9aa5")], unit="mm")
    page.get_by_label("Scan file").set_input_files(path)
    page.get_by_role("button", name="Begin the job").wait_for(timeout=180_000)
    begin_job(page)
    built(page)
    page.wait_for_function("window.contourView && window.contourView.bodies().length === 1")
    # Once its edges can be picked its faces can.
    page.wait_for_function(
        "p => { const s = window.contourView.project(p); return window.contourView.pickEdges(s.x, s.y).length > 0 }",
        arg=[0.0, -30.0, 10.0],
    )
    page.mouse.click(*pixel(page, (-12.0, -8.0, 10.0)))
    card = page.get_by_role("region", name="Selection")
    expect(card).to_contain_text("Flat face")
    card.get_by_role("button", name=re.compile(r"^\d? ?Hole$")).click()
    sheet = page.get_by_role("region", name="Hole")
    sheet.get_by_role("combobox", name="Where").click()
    page.get_by_title("at points", exact=True).click()
    expect(sheet).to_contain_text("To go on, pick corners, centres or points.")
    expect(sheet.get_by_role("button", name=re.compile("^Hole"))).to_be_disabled()
    sheet.get_by_role("combobox", name="Where").click()
    page.get_by_title("on a circle", exact=True).click()
    count = sheet.get_by_role("textbox", name="Count", exact=True)
    count.fill("4")
    count.press("Tab")
    sheet.get_by_role("button", name=re.compile("^Hole")).click()
    expect(page.locator("li.step")).to_have_count(2)
    built(page)
    page.get_by_role("button", name="Deliver", exact=True).click()
    facts = check_solid(read_shape_file(download(page, "Download STEP", tmp_path)))
    assert facts.closed and facts.valid and facts.faces == 10
    assert facts.volume == pytest.approx(60 * 60 * 10 - 4 * math.pi * 9 * 10, rel=1e-6)
