"""A mesh exported from a modelling program: dropped, told to be one, made a solid in one go, and delivered as STEP."""

from __future__ import annotations

from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from contour.exchange.stl_out import write_stl
from contour.solid.from_file import read_shape_file
from contour.solid.gate import check_solid
from contour.solid.mass import volume
from contour.solid.shape import NamedShape
from contour.solid.tessellate import tessellate
from tests.browser.test_first_path import begin_job, built, download
from tests.conftest import circle, prism, rectangle

pytestmark = pytest.mark.browser


@pytest.fixture
def plate() -> NamedShape:
    """60 x 40 x 12 with a bore of Ø 16."""
    return prism([*rectangle(60, 40), circle(22, 20, 8)], 12)


def test_a_modelled_mesh_becomes_a_solid_at_once(page: Page, plate: NamedShape, tmp_path: Path) -> None:
    made = tessellate(plate.shape, chord_mm=0.05)
    stl = tmp_path / "clamp-plate.stl"
    write_stl(stl, made.vertices, made.triangles)
    page.get_by_label("Scan file").set_input_files(stl)
    begin_job(page, "Begin the job in mm")
    page.wait_for_function("window.contourView && window.contourView.ready()")
    built(page)
    expect(page.get_by_text("Vertices exact to")).to_be_visible()
    page.get_by_role("button", name="Make it a solid").click()
    page.locator(".sheet-actions .ant-btn-primary").click()
    expect(page.locator("li.step")).to_have_count(1)
    built(page)
    expect(page.locator("li.step")).to_contain_text("7 faces")
    sheet = page.get_by_label("Step", exact=True)
    expect(sheet).to_contain_text("yes, a valid solid")
    expect(sheet).to_contain_text("6 planes, 1 cylinder")
    page.get_by_role("button", name="Deliver").click()
    shape = read_shape_file(download(page, "Download STEP", tmp_path))
    facts = check_solid(shape)
    assert (facts.solids, facts.closed, facts.valid, facts.free_edges) == (1, True, True, 0)
    # As modelled, not as the mesh's chords are: these lose more than a part in ten thousand of it.
    assert volume(shape) == pytest.approx(volume(plate.shape), rel=1e-6)
