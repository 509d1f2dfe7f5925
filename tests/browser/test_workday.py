"""A working day on the half-done bracket: a reading drives a size, faces are seated, a late change is repaired."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect
from playwright.sync_api import TimeoutError as PlaywrightTimeout

from tests.browser.places import pixel
from tests.browser.test_first_path import built, open_job, posed, row

pytestmark = pytest.mark.browser


def pick_face(page: Page, x: float, y: float, z: float) -> None:
    page.mouse.click(*pixel(page, posed(x, y, z)))
    expect(page.locator(".card h3")).to_contain_text("face")


def draw_around(page: Page, corners: list[tuple[float, float]]) -> None:
    page.mouse.move(*corners[0])
    page.mouse.down()
    for x, y in [*corners[1:], corners[0]]:
        page.mouse.move(x, y, steps=4)
    page.mouse.up()


def test_values_seats_and_a_history_that_holds(page: Page) -> None:
    open_job(page, "Bracket, base and boss")
    built(page)

    # A copy, so that other tests find the job as it was.
    page.get_by_role("button", name="Checkpoints").click()
    page.get_by_role("button", name="Duplicate the job as it is").click()
    expect(page.locator(".job-name")).to_have_text("Bracket, base and boss (copy)")
    page.wait_for_function("window.contourView && window.contourView.ready()")
    built(page)

    # A reading with three takes, used in a formula; what it comes to stands in the row.
    page.get_by_role("button", name="Values", exact=True).click()
    page.get_by_role("button", name="Add a reading", exact=True).click()
    name = page.get_by_label("Name reading_1")
    name.fill("boss_h")
    name.press("Enter")
    for take in ("12.04", "12.06", "12.05"):
        box = page.get_by_label("Next take of boss_h")
        box.fill(take)
        box.press("Enter")
        expect(page.locator(".takes")).to_contain_text(f"{take} mm")
    value = row(page, "Boss").locator("input").first
    value.fill("boss_h - 6")
    value.press("Enter")
    expect(value).to_have_value("6.050 mm")
    built(page)
    value.click()
    expect(value).to_have_value("boss_h - 6 mm")
    value.press("Escape")
    expect(page.locator(".sheet")).to_contain_text("used by Boss")
    page.get_by_role("button", name="Close").click()

    # The face under the click is named; it is seated together with all others, and two are left out by hand.
    pick_face(page, 30, 40, 12)
    expect(page.locator(".card")).to_contain_text("Base plate")
    page.keyboard.press("2")
    sheet = page.locator(".sheet")
    expect(sheet).to_contain_text("17 of 17 faces have a region opposite them", timeout=30_000)
    sheet.get_by_role("button", name="Leave Boss, end out").click()
    expect(sheet).to_contain_text("16 pairs")
    sheet.get_by_role("button", name="Seat Enter").click()
    row(page, "Seat 1").wait_for()
    built(page)
    expect(row(page, "Seat 1")).to_contain_text("16 seated")

    # One pair by hand, the region first and the face after it.
    sheet.get_by_role("button", name="Pair by hand").click()
    sheet.get_by_role("button", name="region first").click()
    expect(page.locator(".view-note.armed")).to_contain_text("region of the scan")
    page.mouse.click(*pixel(page, posed(88, 34, 24.1)))
    expect(page.locator(".view-note.armed")).to_contain_text("face to seat")
    page.mouse.click(*pixel(page, posed(88, 34, 24.1)))
    expect(sheet).to_contain_text("17 pairs, 17 seated", timeout=20_000)
    expect(page.locator(".view-note.armed")).to_contain_text("region of the scan")  # the next pair
    page.keyboard.press("Escape")
    expect(page.locator(".view-note.armed")).to_have_count(0)
    built(page)

    # As of the boss, a cut goes in between: both halves become bodies. Undo takes it out again.
    shown = page.evaluate("window.contourView.bodies()[0].key")
    row(page, "Boss").get_by_role("button", name="More for Boss").click()
    page.get_by_text("View the job as of here").click()
    expect(page.get_by_role("status").first).to_contain_text("As of Boss")
    page.wait_for_function("before => window.contourView.bodies().some((b) => b.key !== before)", arg=shown)
    pick_face(page, 30, 40, 12)
    page.keyboard.press("3")
    expect(sheet.locator("h2")).to_have_text("Cut")
    page.get_by_label("Offset", exact=True).fill("-5 mm")
    sheet.get_by_text("both", exact=True).click()
    sheet.get_by_role("button", name="Cut Enter").click()
    row(page, "Cut 1").wait_for()
    built(page)
    names = page.locator("li.step .step-name").all_inner_texts()
    assert names.index("Cut 1") == names.index("Boss") + 1
    page.wait_for_function("() => window.contourView.bodies().length === 2", timeout=30_000)
    page.get_by_role("button", name="Undo").click()
    expect(row(page, "Cut 1")).to_have_count(0)
    expect(page.locator(".as-of")).to_have_count(0)

    # Deleting the boss says what hangs on it; its faces' seats are refused, with a repair in place.
    built(page)
    only = page.get_by_role("button", name="Delete only this one and repair them")
    for _ in range(4):  # a row that is drawn again while its menu opens puts the menu away
        row(page, "Boss").get_by_role("button", name="More for Boss").click()
        page.locator(".ant-dropdown:not(.ant-dropdown-hidden)").get_by_text("Delete", exact=True).last.click()
        try:
            only.wait_for(timeout=15_000)
            break
        except PlaywrightTimeout:
            page.keyboard.press("Escape")
    only.click()
    expect(row(page, "Seat 1")).to_contain_text("2 refused", timeout=30_000)
    row(page, "Seat 1").locator(".step-name").click()
    sheet.locator(".seat-reason").first.get_by_role("button", name="repair").click()
    expect(sheet.locator("h2")).to_contain_text("Repair 'Seat 1'")
    expect(sheet.locator(".offers li").nth(2)).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(row(page, "Boss")).to_have_count(1)
    page.keyboard.press("Escape")
    built(page)

    # Everything is there after signing in again.
    page.reload()
    page.wait_for_function("window.contourView && window.contourView.ready()")
    expect(page.get_by_role("button", name="Redo")).to_be_enabled()
    expect(row(page, "Seat 1")).to_contain_text("17 seated")


def test_a_lasso_takes_what_is_seen_and_becomes_a_region(page: Page) -> None:
    open_job(page, "Rope-guide bracket")
    page.get_by_text("Lasso", exact=True).click()
    corners = [pixel(page, posed(x, y, 12)) for x, y in ((62, 4), (94, 4), (94, 16), (62, 16))]
    draw_around(page, corners)
    card = page.locator(".card")
    expect(card.locator("h3")).to_contain_text("facets by hand")
    expect(card).to_contain_text("Plane, flat within 0.")
    seen = int(re.sub(r"\D", "", card.locator("h3").inner_text()))
    page.get_by_text("through", exact=True).click()
    draw_around(page, corners)
    page.wait_for_function(
        "n => Number(document.querySelector('.card h3').innerText.replace(/\\D/g, '')) > 1.5 * n", arg=seen
    )
    page.get_by_text("visible", exact=True).click()
    draw_around(page, corners)
    page.wait_for_function(
        "n => Number(document.querySelector('.card h3').innerText.replace(/\\D/g, '')) === n", arg=seen
    )
    page.keyboard.press("1")
    last = page.locator("li.step").last
    expect(last).to_contain_text("Region")
    built(page)
    page.get_by_role("button", name="Undo").click()

    # The list under the pointer, and a scan that clicks pass through.
    page.mouse.click(*pixel(page, posed(45, 45, 12)), button="right")
    expect(page.get_by_role("menu", name="Under the pointer")).to_contain_text("Scan, facet")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Show / hide").click()
    page.get_by_label("can be picked").first.click()
    expect(page.get_by_label("can be picked").first).not_to_be_checked()
    page.get_by_role("button", name="Show / hide").click()
    expect(page.locator(".things")).to_have_count(0)
    # High on the wall there is no body behind it: with the scan out of the way there is nothing to pick.
    bare = pixel(page, posed(46, 68, 34))
    assert page.evaluate("([x, y]) => window.contourView.pickEdges(x, y, true)", bare) == []
    assert page.evaluate("([x, y]) => window.contourView.pickBodies(x, y, true)", bare) == []
    page.mouse.click(*bare)
    expect(card).to_have_count(0)


def test_the_same_job_in_two_windows(page: Page) -> None:
    open_job(page, "Bracket, base and boss")
    built(page)
    other = page.context.new_page()
    other.goto(page.url)
    other.wait_for_function("window.contourView && window.contourView.ready()")
    job_name = other.locator(".job-name")
    job_name.click()
    other.get_by_label("Job name").fill("Bracket, base and boss!")
    other.get_by_label("Job name").press("Enter")
    expect(job_name).to_have_text("Bracket, base and boss!")
    page.locator(".job-name").click()
    page.get_by_label("Job name").fill("Bracket, both")
    page.get_by_label("Job name").press("Enter")
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("The job was changed somewhere else")
    expect(page.locator(".job-name")).to_have_text("Bracket, base and boss!")
    dialog.get_by_role("button", name="Make my change again").click()
    expect(page.locator(".job-name")).to_have_text("Bracket, both")
    other.close()
    page.get_by_role("button", name="Undo").click()
    expect(page.locator(".job-name")).to_have_text("Bracket, base and boss!")
    page.get_by_role("button", name="Undo").click()
    expect(page.locator(".job-name")).to_have_text("Bracket, base and boss")


def test_a_face_is_picked_while_a_preview_is_shown(page: Page) -> None:
    open_job(page, "Bracket, base and boss")
    built(page)
    page.get_by_role("button", name="Eye outline", exact=True).click()
    sheet = page.locator(".sheet")
    sheet.get_by_role("button", name="Extrude").click()
    expect(page.get_by_label("Distance", exact=True)).to_be_visible()
    sheet.get_by_text("new", exact=True).click()
    page.get_by_label("Distance", exact=True).fill("-1 mm")
    # Which way it goes follows from what it ends at: no distance is asked for any more.
    sheet.get_by_text("ends at", exact=True).click()
    expect(page.get_by_label("Distance", exact=True)).to_have_count(0)
    expect(sheet).to_contain_text("choose what it ends at")
    sheet.get_by_role("button", name="Pick", exact=True).click()
    expect(page.locator(".view-note.armed")).to_be_visible()
    page.mouse.click(*pixel(page, posed(30, 40, 12)))
    expect(sheet.locator(".face-said")).to_have_text("plane of Base plate")
    sheet.get_by_role("button", name="Extrude Enter").click()
    row(page, "Extrude 1").wait_for()
    built(page)
    expect(row(page, "Extrude 1")).to_have_attribute("data-status", "ok")
    page.wait_for_function("window.contourView.bodies().length === 2")
    page.get_by_role("button", name="Undo").click()
    expect(row(page, "Extrude 1")).to_have_count(0)
