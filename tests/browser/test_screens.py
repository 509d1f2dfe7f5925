"""Main screens as everybody should be able to use them: axe finds nothing serious, and nothing is out of reach on a small window or lost
on a large one."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Page, expect

pytestmark = pytest.mark.browser

AXE = Path(__file__).parents[2] / "web/node_modules/axe-core/axe.min.js"
SERIOUS = {"serious", "critical"}


def faults(page: Page) -> list[str]:
    """Serious faults that axe finds in what is shown now: rule, what it says, the first place."""
    if not page.evaluate("Boolean(window.axe)"):
        page.add_script_tag(content=AXE.read_text())
    found: dict[str, Any] = page.evaluate("axe.run(document, { resultTypes: ['violations'] })")
    return [
        f"{v['id']}: {v['help']} ({len(v['nodes'])} times, as {v['nodes'][0]['html'][:160]})"
        for v in found["violations"]
        if v["impact"] in SERIOUS
    ]


@pytest.fixture(autouse=True)
def at_rest(page: Page) -> None:
    """Colours are looked at as they are, not on their way from others."""
    page.emulate_media(reduced_motion="reduce")


def open_job(page: Page, name: str) -> None:
    page.locator(".job-card", has=page.get_by_text(name, exact=True)).click()
    page.wait_for_selector('.bench[data-build="done"]')
    page.wait_for_function("window.contourView && window.contourView.ready()")


def panel(name: str, inside: str) -> Callable[[Page], None]:
    def show(page: Page) -> None:
        page.get_by_role("button", name=name, exact=True).first.click()
        expect(page.locator(inside).first).to_be_visible()

    return show


def card(page: Page) -> None:
    box = page.locator("canvas").bounding_box()
    assert box is not None
    page.mouse.click(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    expect(page.locator(".card").first).to_be_visible()


SHEETS: dict[str, Callable[[Page], None]] = {
    "values": panel("Values", ".sheet"),
    "checkpoints": panel("Checkpoints", ".sheet"),
    "deliver": panel("Deliver", ".sheet"),
    "measure": panel("Measure", ".sheet"),
    "caliper desk": panel("By caliper", ".desk"),
}


def test_the_shelf_has_no_serious_fault(page: Page) -> None:
    assert faults(page) == []


def test_the_bench_and_its_sheets_have_no_serious_fault(page: Page) -> None:
    open_job(page, "Bracket, seated on its scan")
    said = {"bench": faults(page)}
    card(page)
    said["card"] = faults(page)
    page.keyboard.press("Escape")
    for name, show in SHEETS.items():
        show(page)
        said[name] = faults(page)
    wrong = {k: v for k, v in said.items() if v}
    assert not wrong, "\n".join(f"{k}: {f}" for k, v in wrong.items() for f in v)


OUT_OF_REACH = """() => [...document.querySelectorAll("button, input, a, [role=button]")]
    .filter((e) => e.checkVisibility() && !e.closest("[aria-hidden=true]"))
    .filter((e) => {
        const b = e.getBoundingClientRect();
        if (!b.width || (b.left >= -1 && b.right <= innerWidth + 1 && b.top >= -1 && b.bottom <= innerHeight + 1)) return false;
        const root = document.scrollingElement;
        if (root.scrollHeight > root.clientHeight && b.left >= -1 && b.right <= innerWidth + 1) return false;
        for (let p = e.parentElement; p; p = p.parentElement) {
            const s = getComputedStyle(p);
            if (/auto|scroll/.test(s.overflowY) && p.scrollHeight > p.clientHeight && b.left >= -1 && b.right <= innerWidth + 1) return false;
            if (/auto|scroll/.test(s.overflowX) && p.scrollWidth > p.clientWidth) return false;
        }
        return true;
    })
    .map((e) => (e.getAttribute("aria-label") || e.textContent || e.outerHTML).trim().slice(0, 60))"""


@pytest.mark.parametrize(("width", "height"), [(1024, 700), (1280, 800), (2560, 1440)])
def test_nothing_is_out_of_reach(page: Page, width: int, height: int) -> None:
    page.set_viewport_size({"width": width, "height": height})
    assert page.evaluate(OUT_OF_REACH) == []
    open_job(page, "Bracket, seated on its scan")
    away = {"bench": page.evaluate(OUT_OF_REACH)}
    for name, show in SHEETS.items():
        show(page)
        away[name] = page.evaluate(OUT_OF_REACH)
        wide = page.evaluate("document.documentElement.scrollWidth")
        assert wide <= width, f"{name} is {wide} wide"
    assert {k: v for k, v in away.items() if v} == {}
    # The view is never squeezed to nothing by what stands around it.
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Back to the bench").click()
    page.wait_for_function(
        "() => { const b = document.querySelector('canvas').getBoundingClientRect();"
        " return b.width > 0.3 * innerWidth && b.height > 0.45 * innerHeight; }"
    )


def test_dark_screens_have_no_serious_fault_either(page: Page) -> None:
    page.emulate_media(color_scheme="dark", reduced_motion="reduce")
    page.reload()  # dark from the first picture on, not half way there
    page.wait_for_selector(".job-card")
    assert faults(page) == []
    open_job(page, "Bracket, seated on its scan")
    assert faults(page) == []


def test_who_wants_no_motion_gets_none(page: Page) -> None:
    page.emulate_media(reduced_motion="reduce")
    open_job(page, "Bracket, seated on its scan")
    page.get_by_role("button", name="Show / hide").click()
    assert page.evaluate("document.getAnimations().length") == 0


def test_a_larger_font_of_the_browser_is_respected(page: Page) -> None:
    def letters() -> list[float]:
        return page.evaluate(
            "[document.body, document.querySelector('.door p'), document.querySelector('.ant-btn')]"
            ".map((e) => parseFloat(getComputedStyle(e).fontSize))"
        )

    plain = letters()
    # As somebody's own style sheet would say it, before the page is made.
    page.add_init_script(
        "document.addEventListener('readystatechange', () => { document.documentElement.style.fontSize = '20px' })"
    )
    page.reload()
    page.wait_for_selector(".job-card")
    assert letters() == pytest.approx([1.25 * x for x in plain], rel=0.02)
    assert page.evaluate(OUT_OF_REACH) == []
