"""A spoilt scan made fit for work in the browser: looked over, mended, compared with what it was, and put on its axes."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from contour.check.exact_arrays import exact_arrays
from contour.exchange.ply_out import write_ply
from contour.mesh.facets import Mesh, compacted
from contour.simulate.scanner import ScanSettings, virtual_scan
from demo.pump_cover import UPPER_POSE, pump_cover, spoilt
from tests.browser.places import pixel
from tests.browser.test_first_path import begin_job, built

pytestmark = pytest.mark.browser


@pytest.fixture(scope="module")
def spoilt_ply(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The cover, seen from everywhere, in a pose of its own, with planted defects and a hole; the fin has a border of its own."""
    made = virtual_scan(
        exact_arrays(pump_cover().shape), ScanSettings(spacing_mm=1.3, noise_mm=0.02, pose=UPPER_POSE, seed=5)
    )
    vertices, facets = spoilt(made.vertices, made.facets)
    centre = vertices[facets].mean(axis=1)
    top = UPPER_POSE.apply(np.array([[18.0, 0, 15]]))[0]
    mesh = compacted(Mesh(vertices, facets, np.arange(len(facets))).without(np.linalg.norm(centre - top, axis=1) < 2.5))
    path = tmp_path_factory.mktemp("cover") / "pump-cover.ply"
    write_ply(path, [("cover", mesh.vertices, mesh.facets)])
    return path


def click_at(page: Page, *place: float) -> None:
    page.mouse.click(*pixel(page, UPPER_POSE.apply(np.array([place]))[0]))


def test_a_spoilt_scan_is_mended_and_put_on_its_axes(page: Page, spoilt_ply: Path) -> None:
    page.get_by_label("Scan file").set_input_files(spoilt_ply)
    begin_job(page, "Begin the job in mm")
    page.wait_for_function("window.contourView && window.contourView.ready()", timeout=60_000)
    built(page)
    page.get_by_role("button", name="pump-cover.ply").click()
    health = page.locator(".health")
    for kind in ("2 holes", "1 junction edge", "spike", "1 fold"):
        expect(health).to_contain_text(kind)
    page.locator(".health-kind", has_text="spike").click()
    page.locator(".places .link").first.click()
    expect(page.locator(".places .link.now")).to_have_count(1)
    page.get_by_role("checkbox", name="fill every hole too").check()
    page.get_by_role("button", name="Mend what blocks").click()
    built(page)
    sheet = page.get_by_label("Step", exact=True)
    expect(sheet).to_contain_text("after nothing")
    expect(sheet).to_contain_text("fill holes")
    page.get_by_role("button", name="Against the raw scan").click()
    expect(sheet).to_contain_text("surface moved most")
    expect(page.locator(".legend")).to_be_visible()
    page.get_by_role("button", name="pump-cover.ply").click()
    page.get_by_role("button", name="Put on its axes").click()
    page.get_by_role("button", name="Fit view").click()
    picks = page.locator(".align-picks > div")
    expect(page.locator(".view-note.armed")).to_contain_text("Click the primary")
    click_at(page, 13, -27, 9)
    expect(picks.filter(has_text="Primary")).to_contain_text("plane")
    expect(page.locator(".view-note.armed")).to_contain_text("Click the secondary")
    expect(page.locator(".align-picks")).to_contain_text("left-over tilt")
    page.locator(".sheet-actions .ant-btn-primary").click()
    built(page)
    expect(page.get_by_label("Step list")).to_contain_text("Align 1")
    assert page.locator(".steps ol > li").count() == 2
    page.get_by_role("button", name="Undo").click()
    built(page)
    expect(page.get_by_label("Step list")).not_to_contain_text("Align 1")
