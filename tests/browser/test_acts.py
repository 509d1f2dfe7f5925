"""How much a person has to do: from a dropped scan to the first block over it, and on to a second boss."""

from __future__ import annotations

import re
from pathlib import Path

import numpy as np
import pytest
import shapely
from playwright.sync_api import Page, expect

from contour.check.exact_arrays import exact_arrays
from contour.simulate.scanner import Pose, ScanSettings, VirtualScan, virtual_scan
from demo.bracket import POSE, bracket_scan
from demo.pump_cover import UPPER_POSE, pump_cover
from tests.browser.acts import Acts
from tests.browser.places import pixel
from tests.conftest import binary_stl

pytestmark = pytest.mark.browser

FIRST, SECOND = 8, 5  # acts at most


def write(folder: Path, name: str, scan: VirtualScan) -> Path:
    path = folder / f"{name}.stl"
    path.write_bytes(binary_stl(scan.vertices[scan.facets]))
    return path


def click_on(acts: Acts, pose: Pose, place: tuple[float, float, float]) -> None:
    """A click on a place of the part as it was designed, where the card then says a plane; a worn one may have to be told to be one."""
    acts.click_at(*pixel(acts.page, pose.apply(np.array([place]))[0]))
    title = acts.page.locator(".card h3")
    expect(title).to_contain_text(re.compile("Plane|Torus|Sphere"))
    if "Plane" not in title.inner_text():
        acts.click(acts.page.locator(".card").get_by_text("plane", exact=True))
        expect(title).to_contain_text("Plane")


def open_dropped(acts: Acts, path: Path) -> None:
    acts.drop(path)
    expect(acts.page.get_by_role("dialog")).to_contain_text("proposed from its size")
    expect(acts.page.get_by_label("Name of the job")).to_be_focused()
    acts.key("Enter")
    acts.page.wait_for_function("window.contourView && window.contourView.ready()")
    expect(acts.page.locator(".bench")).to_have_attribute("data-build", "done")


def block_of_face(acts: Acts) -> None:
    """From a picked face to the block under it: cut, take, extrude."""
    page = acts.page
    expect(page.get_by_role("button", name="Cut a section")).to_be_enabled()
    acts.key("2")
    expect(page.get_by_role("button", name="Take as a sketch")).to_be_enabled()
    acts.key("Enter")
    expect(page.get_by_role("button", name="Extrude Enter")).to_be_enabled()
    acts.key("Enter")
    expect(page.locator("li.step").last).to_contain_text("Extrude")
    expect(page.locator(".bench")).to_have_attribute("data-build", "done")
    expect(page.locator("li.step").last).to_have_attribute("data-status", "ok")


def volume(page: Page) -> float:
    """Of the body, as the open step's sheet says it, mm³."""
    said = page.locator(".sheet dl, .sheet").last.inner_text().split("Body volume")[1].strip().split("mm")[0]
    return float(said.replace(",", ""))


def test_a_bracket_has_its_base_in_eight_acts_and_its_boss_in_five_more(page: Page, tmp_path: Path) -> None:
    path = write(tmp_path, "rope-guide", bracket_scan(1.3, 0.02))
    acts = Acts(page)
    open_dropped(acts, path)
    click_on(acts, POSE, (35, 50, 12))
    block_of_face(acts)
    assert len(acts) <= FIRST, acts.made
    # As designed, what the section shows 12 high: 120 x 80 with corners of 8, less a pocket of 30 x 14 with corners of 4, and four holes
    # of 9; the eye of the boss may have been seen deep enough to be closed.
    area = (120 * 80 - (4 - np.pi) * 64) - (30 * 14 - (4 - np.pi) * 16) - 4 * np.pi * 4.5**2
    assert 12 * (area - np.pi * 7**2) - 500 < volume(page) < 12 * area + 500
    base = volume(page)
    acts = Acts(page)
    click_on(acts, POSE, (78 + 10, 34, 24.1))
    block_of_face(acts)
    assert len(acts) <= SECOND, acts.made
    # A ring of 26 around 14, 12 high: the outermost facets of a rounded rim are no wall.
    assert volume(page) - base == pytest.approx(np.pi * (13**2 - 7**2) * 12, rel=0.05)


def test_a_pump_cover_has_its_plate_in_eight_acts(page: Page, tmp_path: Path) -> None:
    made = virtual_scan(exact_arrays(pump_cover().shape), ScanSettings(spacing_mm=1.2, noise_mm=0.02, pose=UPPER_POSE))
    acts = Acts(page)
    open_dropped(acts, write(tmp_path, "pump-cover", made))
    click_on(acts, UPPER_POSE, (27, 0, 9))
    block_of_face(acts)
    assert len(acts) <= FIRST, acts.made
    # The plate as designed, between its faces, as the section 2 below its top shows it: bored, with bolt holes and pins.
    lugs = shapely.box(-44, -1, 44, 1).buffer(8, quad_segs=64)
    plate = shapely.Point(0, 0).buffer(42, quad_segs=256).union(lugs)
    holes = np.pi * (14**2 + 5 * 3.2**2 + 2 * 2.6**2)
    assert volume(page) == pytest.approx(9 * (plate.area - holes), rel=0.01)
