"""Steps 2 to 9 of the first path with real clicks, and the file that leaves measured against the truth."""

from __future__ import annotations

import contextlib
import re
from collections import Counter
from pathlib import Path
from typing import Literal

import numpy as np
import pytest
from playwright.sync_api import Error, Page, Route, TimeoutError, expect

from contour.exchange.scanfile import read_scan
from contour.mesh.health import inspect_scan
from contour.solid.boolean import common_volume
from contour.solid.face_geometry import face_kinds
from contour.solid.from_file import read_shape_file
from contour.solid.gate import check_solid
from contour.solid.mass import volume
from contour.solid.shape import NamedShape
from demo.bracket import POSE, base_block
from tests.browser.places import pixel
from tests.conftest import binary_stl, cube

pytestmark = pytest.mark.browser


def posed(*place: float) -> list[float]:
    """A place of the truth model where the scan shows it."""
    return [float(x) for x in POSE.apply(np.array([place], float))[0]]


def open_job(page: Page, name: str) -> None:
    page.locator(".job-card", has=page.get_by_text(name, exact=True)).click()
    page.wait_for_function("window.contourView && window.contourView.ready()")


def click_scan(page: Page, place: list[float], **options) -> int:
    """Click the pixel a place is at, after making sure that the facet there is the one meant."""
    x, y = pixel(page, place)
    hit = page.evaluate("([x, y]) => window.contourView.pick(x, y)", [x, y])
    assert np.linalg.norm(np.subtract(hit["point"], place)) < 1.5
    centre = page.evaluate("f => window.contourView.centroid(f)", hit["facet"])
    assert np.linalg.norm(np.subtract(centre, hit["point"])) < 1.5
    page.mouse.click(x, y, **options)
    return hit["facet"]


def built(page: Page) -> None:
    """Wait for a finished build; without one, fail with what the server says of it.

    One wait and no second look: what is done now may be queued again a moment later by the page's own edit.
    """
    try:
        page.wait_for_selector('.bench[data-build="done"]')
    except TimeoutError:
        pytest.fail(f"no end of the build: {_server_says(page)}")


def begin_job(page: Page, label: str = "Begin the job") -> None:
    """Presses what begins a job once its dialog is at rest: a click on one that still opens can be lost on a busy machine."""
    page.get_by_role("button", name=label).wait_for()
    page.wait_for_function(
        "!document.querySelector('.ant-modal')?.getAnimations({ subtree: true }).some((a) => a.playState === 'running')"
    )
    page.get_by_role("button", name=label).click()


def _server_says(page: Page) -> str:
    told = page.evaluate("""async () => {
        const asked = async (path) => (await (await fetch(path)).json().catch((e) => String(e)));
        const { result, ...build } = (await asked('/api' + location.pathname)).build ?? {};
        const shown = document.querySelector('.bench')?.dataset.build ?? document.body.innerText.slice(0, 800);
        return JSON.stringify({ at: location.pathname, shown, build, work: await asked('/api/work') });
    }""")
    return str(told)[:3000]


def row(page: Page, name: str):
    return page.locator("li.step", has=page.locator(".step-name", has_text=re.compile(f"^{name}$")))


def fit_share(page: Page) -> float:
    page.wait_for_selector('[data-fit="full"]')
    return float(page.locator(".fit-share").inner_text().split()[0])


def download(page: Page, button: str, folder: Path, *, role: Literal["button", "link"] = "button") -> Path:
    with page.expect_download() as waiting:
        page.get_by_role(role, name=button).click()
    path = folder / waiting.value.suggested_filename
    waiting.value.save_as(path)
    return path


def drag_handle(page: Page, down_px: int) -> None:
    """Drag the section's arrow, whose foot lies on the region's plane moved by the offset."""
    offset = page.get_by_label("Offset", exact=True)
    page.wait_for_selector(".loops")
    origin, axis = page.evaluate(
        """async () => {
            for (;;) {
                const job = await (await fetch('/api' + location.pathname)).json();
                const region = job.build.result?.steps.find((s) => s.kind === 'region' && s.status === 'ok');
                if (region) return [region.facts.origin, region.facts.axis];
                await new Promise((done) => setTimeout(done, 100));
            }
        }"""
    )
    x, y = pixel(page, [o - 2.0 * a for o, a in zip(origin, axis, strict=True)])
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x, y + down_px, steps=5)
    page.mouse.up()
    assert float(offset.input_value().split()[0]) < -4


def test_a_scan_becomes_a_checked_step_solid(page: Page, tmp_path: Path) -> None:
    page.emulate_media(reduced_motion="no-preference")  # this way with all that moves, as most people have it
    open_job(page, "Rope-guide bracket")
    expect(page.locator(".evidence").first).to_contain_text("mm")

    # A region grows under the click; shift adds nothing here, Alt takes a dab away and letting go forgets it.
    click_scan(page, posed(45, 45, 12))
    card = page.locator(".card")
    expect(card.locator("h3")).to_contain_text("Plane")
    before = int(re.sub(r"\D", "", card.locator(".figures").inner_text().split("facets")[0]))
    x, y = pixel(page, posed(90, 20, 12))
    page.keyboard.down("Alt")
    page.mouse.click(x, y)
    page.keyboard.up("Alt")
    expect(card.locator(".figures")).not_to_contain_text(f"{before:,}")
    page.keyboard.press("Escape")
    expect(card).to_have_count(0)

    # The wall of the boss is a cylinder; its kind can be overridden.
    click_scan(page, posed(78 - 13 * np.sin(0.6), 34 - 13 * np.cos(0.6), 18))
    expect(card.locator("h3")).to_contain_text("Outside cylinder")
    card.get_by_text("plane", exact=True).click()
    expect(card.locator("h3")).to_contain_text("Plane")

    # From the base's top: a section, dragged a little and then typed, one loop left out by a click on it.
    click_scan(page, posed(45, 45, 12))
    expect(card.locator("h3")).to_contain_text("Plane")
    page.keyboard.press("2")
    sheet = page.locator(".sheet")
    expect(sheet.locator("h2")).to_have_text("Section")
    drag_handle(page, down_px=25)
    page.get_by_label("Offset", exact=True).fill("-10")
    page.get_by_label("Offset", exact=True).press("Enter")
    expect(sheet).to_contain_text("6 loops: 4 lines, 9 arcs")
    eye = posed(78 - 7 * np.sin(0.3), 34 - 7 * np.cos(0.3), 2)
    page.mouse.click(*pixel(page, eye))
    expect(sheet.locator(".loop-row").nth(1).locator("input")).not_to_be_checked()
    sheet.get_by_role("button", name="Take as a sketch").click()

    # Extrude up to the top and, from the same sketch, down to the underside.
    expect(sheet.locator("h2")).to_have_text("Extrude")
    # It begins as far as the scan goes, either way; here one way after the other.
    distance, back = page.get_by_label("Distance", exact=True), page.get_by_label("Also backwards", exact=True)
    assert [float(f.input_value().split()[0]) for f in (distance, back)] == pytest.approx([10, 2], abs=0.05)
    back.fill("")
    distance.fill("10 mm")
    distance.press("Enter")
    row(page, "Extrude 1").wait_for()
    built(page)
    half = fit_share(page)
    row(page, "Sketch 1").locator(".step-name").click()
    sheet.get_by_role("button", name="Extrude").click()
    # It begins into the first one, and would cut. Typed the other way, with Enter before any preview has told so, it adds.
    expect(sheet).to_contain_text("It goes into the material")
    held: list[Route] = []
    page.route("**/preview", lambda route: held.append(route))
    back.fill("")
    distance.fill("-1 mm")
    distance.press("Enter")
    expect(sheet.locator(".ant-btn-primary.ant-btn-loading")).to_have_count(1)
    page.unroute("**/preview")
    for route in held:
        with contextlib.suppress(Error):  # those that a newer one has ended
            route.continue_()
    row(page, "Extrude 2").wait_for()
    built(page)
    expect(row(page, "Extrude 2").locator(".problem")).to_have_count(0)

    # A value edited in the list rebuilds; zero is refused with its reason and undone without loss.
    value = row(page, "Extrude 2").locator("input")
    value.fill("0")
    value.press("Enter")
    expect(row(page, "Extrude 2").locator(".problem")).to_contain_text("needs a distance")
    page.get_by_role("button", name="Undo").click()
    expect(row(page, "Extrude 2").locator(".problem")).to_have_count(0)
    value.fill("-2 mm")
    value.press("Enter")
    row(page, "Extrude 2").locator(".step-name").click()
    expect(page.locator(".sheet dd").first).to_contain_text("111,", timeout=20_000)
    built(page)
    assert fit_share(page) > half + 3
    expect(page.locator(".fit-facts")).to_contain_text("Extrude 2")

    # Colours, the legend, a reading on the surface, and a worst place a click away.
    page.get_by_role("button", name="Colour by deviation").click()
    page.wait_for_selector('.view[data-coloured="yes"]')
    page.wait_for_function("window.contourView.coloured()")  # not only asked for: drawn
    expect(page.get_by_label("Legend of deviations")).to_contain_text("inside ±0.10 mm")
    click_scan(page, posed(45, 45, 12))
    reading = float(page.locator(".probe").inner_text().replace("−", "-").split()[0])
    assert abs(reading) < 0.1
    frame = page.evaluate("document.documentElement.dataset.frame")
    page.locator(".fit-worst button").first.click()
    page.wait_for_function("f => document.documentElement.dataset.frame !== f", arg=frame)

    # Reload: everything is still there.
    page.reload()
    page.wait_for_function("window.contourView && window.contourView.ready()")
    expect(page.locator("li.step")).to_have_count(4)

    page.get_by_role("button", name="Deliver").click()
    expect(page.get_by_test_id("stl-count")).to_contain_text("facets,")
    told = int(re.sub(r"\D", "", page.get_by_test_id("stl-count").inner_text().split("facets")[0]))
    step = download(page, "Download STEP", tmp_path)
    stl = download(page, "Download STL", tmp_path)
    measure_against_truth(step, stl, told)


def measure_against_truth(step: Path, stl: Path, told: int) -> None:
    """The downloaded files against the base block that they should be, where the scan's pose put it."""
    shape = read_shape_file(step)
    facts = check_solid(shape)
    truth = base_block()
    assert (facts.solids, facts.closed, facts.valid, facts.free_edges) == (1, True, True, 0)
    assert facts.volume == pytest.approx(volume(truth.shape), rel=3e-3)
    assert Counter(face_kinds(shape)) == Counter(face_kinds(truth.shape))
    home = NamedShape(moved_home(shape), ())
    shared = common_volume(home, truth)
    apart = facts.volume + volume(truth.shape) - 2 * shared
    assert apart < 5e-3 * volume(truth.shape)
    mesh = inspect_scan(read_scan(stl), 1.0)
    assert mesh.closed
    assert mesh.facets == told
    assert mesh.volume == pytest.approx(facts.volume, rel=1e-3)


def moved_home(shape):
    """The solid back from the scan's pose into the truth model's frame, by the kernel."""
    from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
    from OCP.gp import gp_Trsf

    back = gp_Trsf()
    r = POSE.rotation.T
    t = -r @ np.array(POSE.shift_mm)
    back.SetValues(*(float(x) for k in range(3) for x in (*r[k], t[k])))
    return BRepBuilderAPI_Transform(shape, back, True).Shape()


def test_a_dropped_file_is_asked_for_its_unit(page: Page, tmp_path: Path) -> None:
    path = tmp_path / "pump_cover.stl"
    path.write_bytes(binary_stl(cube((3, 2, 0.5))))
    page.get_by_label("Scan file").set_input_files(path)
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("76.2 × 50.8 × 12.7 mm")
    expect(dialog).to_contain_text("proposed from its size")
    begin_job(page, "Begin the job in inch")
    page.wait_for_selector(".bench")
    expect(page.locator(".evidence").first).to_contain_text("3.0000 × 2.0000 × 0.5000 inch")


def test_a_file_that_is_no_mesh_is_refused_in_place(page: Page, tmp_path: Path) -> None:
    path = tmp_path / "notes.stl"
    path.write_text("bring bread")
    page.get_by_label("Scan file").set_input_files(path)
    expect(page.locator(".door-said .problem")).to_contain_text("no mesh format that is known")
    expect(page.locator(".door-said")).to_contain_text("notes.stl")
