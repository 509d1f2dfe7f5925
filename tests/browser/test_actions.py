"""What is done thirty times an hour, by keys: search, hide, look from a side."""

from __future__ import annotations

import pytest
from playwright.sync_api import Page, expect

from tests.browser.test_first_path import built, open_job

pytestmark = pytest.mark.browser


def test_actions_are_searched_for_and_have_keys(page: Page) -> None:
    open_job(page, "Bracket, base and boss")
    built(page)
    page.wait_for_function("window.contourView.bodies().length === 1")

    # By name: the list narrows, Enter takes the first.
    page.keyboard.press("/")
    page.get_by_role("combobox", name="Search actions").fill("hide all bodies")
    expect(page.get_by_role("option").first).to_contain_text("Hide all bodies")
    page.keyboard.press("Enter")
    page.wait_for_function("window.contourView.bodies().length === 0")

    # What is hidden says so in its row, and comes back from there.
    mark = page.get_by_role("button", name="Base plate is hidden: show it")
    expect(mark).to_be_visible()
    mark.click()
    page.wait_for_function("window.contourView.bodies().length === 1")

    # By keys: what the open step has made, hidden and back.
    page.get_by_role("button", name="Boss", exact=True).click()
    page.keyboard.press("x")
    page.wait_for_function("window.contourView.bodies().length === 0")
    page.keyboard.press("X")
    page.wait_for_function("window.contourView.bodies().length === 1")
    page.keyboard.press("Escape")

    # From above, x points right and y up; the view before comes back. What is projected is as of the last frame drawn.
    place = "[[0, 0, 0], [10, 0, 0], [0, 10, 0]].map(p => window.contourView.project(p))"
    expect(page.locator(".sheet")).to_have_count(0)
    page.wait_for_function(  # the view has the room that the sheet has left, and two frames are alike: it is at rest
        f"""() => {{
        const canvas = document.querySelector("canvas"), room = canvas.parentElement.clientWidth;
        const now = JSON.stringify([room, {place}]), was = window.placeBefore;
        window.placeBefore = now;
        return now === was && Math.abs(canvas.clientWidth - room) < 2;
        }}""",
        polling=200,
    )
    before = page.evaluate(place)
    page.keyboard.press("q")
    expect(page.get_by_role("toolbar", name="Look from")).to_be_visible()
    page.keyboard.press("5")
    page.wait_for_function(
        f"(() => {{ const [o, x, y] = {place};"
        " return x.x - o.x > 5 && Math.abs(x.y - o.y) < 1 && o.y - y.y > 5 && Math.abs(y.x - o.x) < 1; })()"
    )
    page.keyboard.press("b")
    page.wait_for_function(
        f"was => {place}.every((p, i) => Math.abs(p.x - was[i].x) < 0.5 && Math.abs(p.y - was[i].y) < 0.5)", arg=before
    )

    # All keys on one page.
    page.keyboard.press("?")
    expect(page.get_by_text("Show the chosen alone")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_text("Show the chosen alone")).to_be_hidden()
