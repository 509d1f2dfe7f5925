"""Drawing in the browser by real mouse and keyboard: sizes typed on the way, tangents, a contradiction resolved, a section with a gap completed."""

from __future__ import annotations

import math
import re
from pathlib import Path

import ezdxf
import pytest
from playwright.sync_api import Page, expect

from contour.check.exact_arrays import exact_arrays
from contour.exchange.flat.flat_file import read_flat
from contour.exchange.flat.shapes import Arc
from contour.exchange.step import write_step
from contour.simulate.scanner import ScanSettings, virtual_scan
from tests.browser.places import pixel
from tests.browser.test_first_path import begin_job, built, download, row
from tests.conftest import binary_stl, circle, prism, rectangle

pytestmark = pytest.mark.browser

_AREA = "parseFloat(document.querySelector('.profile-row .figures').innerText.replace(',', ''))"
CHANGED, REACHED = f"a => Math.abs({_AREA} - a) > 5", f"a => Math.abs({_AREA} - a) < 1"


@pytest.fixture(scope="module")
def block(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """60 x 40 x 10 with a bore of 16 across, scanned; its right end, from x = 52 on, was not seen."""
    solid = prism([*rectangle(60, 40), circle(20, 20, 8)], 10)
    made = virtual_scan(exact_arrays(solid.shape), ScanSettings(spacing_mm=1.0, noise_mm=0.015, seed=4))
    corners = made.vertices[made.facets]
    seen = corners.mean(axis=1)[:, 0] < 52
    path = tmp_path_factory.mktemp("gap") / "half-seen-block.stl"
    path.write_bytes(binary_stl(corners[seen]))
    return path


def begin(page: Page, block: Path, *, section: bool = False) -> None:
    """A job of its own on the block, and a sketch on the xy plane; with the scan's section under it, or not."""
    page.get_by_label("Scan file").set_input_files(block)
    begin_job(page, "Begin the job in mm")
    page.wait_for_function("window.contourView && window.contourView.ready()", timeout=60_000)
    built(page)
    page.keyboard.press("/")
    page.get_by_role("combobox").or_(page.get_by_role("textbox", name=re.compile("Search"))).first.fill(
        "Drawn on a plane"
    )
    page.keyboard.press("Enter")
    drawn(page, 0)
    if not section:
        page.get_by_role("checkbox", name="The scan's section lies under it").uncheck()
    square(page)


def lift(page: Page, height: str) -> None:
    """The sketch lies higher over its plane, and the scan's section there under it."""
    page.get_by_text("Where it lies").click()
    field = page.get_by_label("Height over the plane", exact=True)
    field.fill(height)
    field.press("Enter")
    built(page)
    expect(page.locator(".under-piece")).not_to_have_count(0)


def square(page: Page) -> None:
    """The view rests square to the plane: what lies at the same place of it does not move any more."""
    page.wait_for_function(
        """() => { const at = [[0, 0, 0], [50, 0, 0], [0, 40, 0]].map((p) => window.contourView.project(p));
        const key = JSON.stringify(at); const same = window.contourAt === key; window.contourAt = key;
        return same && Math.abs(at[0].y - at[1].y) < 1 && Math.abs(at[0].x - at[2].x) < 1; }""",
        polling=250,
    )


def drawn(page: Page, entities: int, *, solved: bool = True) -> None:
    """So many entities are drawn, points counted, and the drawing has settled or not."""
    page.wait_for_selector(f'.sketch-layer[data-drawn="{entities}"][data-solved="{str(solved).lower()}"]')


def free(page: Page, motions: int) -> None:
    page.wait_for_selector(f'.sketch-layer[data-dof="{motions}"]')


def spot(page: Page, x: float, y: float, z: float = 0.0) -> None:
    """A click at a place of the plane, mm; the pointer goes there first, as a hand does."""
    at = pixel(page, [x, y, z])
    page.mouse.move(*at)
    page.mouse.click(*at)


def tool(page: Page, group: str, digit: str) -> None:
    bar = page.get_by_role("toolbar", name="Drawing")
    bar.get_by_text(group, exact=True).click()
    page.keyboard.press(digit)
    expect(page.locator(".sketch-layer")).not_to_have_attribute("data-tool", "")


def hold(page: Page, word: str) -> None:
    bar = page.get_by_role("toolbar", name="Drawing")
    bar.get_by_text("Hold", exact=True).click()
    bar.get_by_role("button", name=word, exact=True).click()


def size(page: Page, kind: str, value: str) -> None:
    """A size of what is chosen."""
    bar = page.get_by_role("toolbar", name="Drawing")
    bar.get_by_text("Hold", exact=True).click()
    bar.get_by_role("button", name="Size …").click()
    field = page.get_by_label(f"New {kind}", exact=True)
    field.fill(value)
    field.press("Enter")
    expect(field).to_have_count(0)


def entity(page: Page, n: int, kind: str = "path.stroke") -> str:
    return page.locator(f".sketch-layer {kind}").nth(n).get_attribute("data-entity") or ""


def area_of(page: Page) -> float:
    """Of the first closed region, mm², as the sheet says it."""
    text = page.locator(".profile-row .figures").first.inner_text()
    return float(text.replace(",", "").split()[0])


def extrude(page: Page, distance: str) -> float:
    """Makes a block of the sketch; its volume, mm³."""
    page.get_by_label("Step", exact=True).get_by_role("button", name="Extrude", exact=True).click()
    field = page.get_by_label("Distance", exact=True)
    expect(field).to_be_visible()
    # What was taken over of a section begins as far as the scan goes, either way.
    page.get_by_label("Also backwards", exact=True).fill("")
    field.fill(distance)
    field.press("Enter")
    row(page, "Extrude 1").wait_for()
    built(page)
    told = page.locator(".sheet").get_by_text(re.compile(r"[\d,.]+ mm³")).first.inner_text()
    return float(re.sub(r"[^\d.]", "", told.split("mm")[0]))


def test_a_trapezium_by_typed_lengths_and_angles_becomes_a_block(page: Page, block: Path) -> None:
    begin(page, block)
    spot(page, 6, 12)
    page.mouse.move(*pixel(page, [30.0, 12.2, 0.0]))
    page.keyboard.type("40")
    page.keyboard.press("Enter")
    drawn(page, 3)
    page.mouse.move(*pixel(page, [42.0, 26.0, 0.0]))
    page.keyboard.type("20 mm")
    page.keyboard.press("Tab")
    page.keyboard.type("70 deg")
    page.keyboard.press("Enter")
    drawn(page, 5)
    top = 12 + 20 * math.sin(math.radians(70))
    # Level to the left, then back to where it began: the outline closes and the pencil is free again.
    spot(page, 14, top)
    drawn(page, 7)
    spot(page, 6, 12)
    drawn(page, 8)
    page.keyboard.press("Escape")
    expect(page.locator(".sketch-layer")).to_have_attribute("data-tool", "")
    # The last side at the same angle: both lines chosen, an angle typed.
    spot(page, 30, 12)
    left = page.evaluate(
        'id => { const p = document.querySelector(`path[data-entity="${id}"]`); const b = p.getBoundingClientRect();'
        " return [b.x + b.width / 2, b.y + b.height / 2]; }",
        entity(page, 3),
    )
    page.keyboard.down("Shift")
    page.mouse.move(*left)
    page.mouse.click(*left)
    page.keyboard.up("Shift")
    expect(page.locator("path.stroke.chosen")).to_have_count(2)
    size(page, "angle", "70 deg")
    free(page, 2)
    high = 20 * math.sin(math.radians(70))
    truth = (40 - 20 * math.cos(math.radians(70))) * high
    expect(page.locator(".profile-row .figures")).to_have_count(1)
    assert area_of(page) == pytest.approx(truth, abs=0.06)
    built(page)
    assert extrude(page, "10 mm") == pytest.approx(10 * truth, rel=1e-3)


def test_a_slot_of_lines_and_tangent_arcs(page: Page, block: Path) -> None:
    begin(page, block)
    spot(page, 12, 14)
    spot(page, 42, 14)
    drawn(page, 3)
    page.keyboard.press("t")
    spot(page, 42, 26)
    drawn(page, 6)
    page.keyboard.press("t")
    spot(page, 12, 26)
    drawn(page, 8)
    page.keyboard.press("t")
    spot(page, 12, 14)
    drawn(page, 10)
    page.keyboard.press("Escape")
    # The last arc leaves smoothly and has to arrive smoothly too.
    spot(page, 27, 14)
    arc = pixel(page, [6.0, 20.0, 0.0])
    page.keyboard.down("Shift")
    page.mouse.move(*arc)
    page.mouse.click(*arc)
    page.keyboard.up("Shift")
    expect(page.locator("path.stroke.chosen")).to_have_count(2)
    hold(page, "touch")
    page.wait_for_function("document.querySelectorAll('path.stroke.chosen').length === 0")
    drawn(page, 10)
    assert area_of(page) == pytest.approx(30 * 12 + math.pi * 36, rel=2e-3)
    # Its parts hold together when a point of it is pulled.
    a, b = pixel(page, [42.0, 26.0, 0.0]), pixel(page, [46.0, 29.0, 0.0])
    page.mouse.move(*a)
    page.mouse.down()
    page.mouse.move(*b, steps=6)
    page.mouse.up()
    page.wait_for_function(CHANGED, arg=area_of(page))
    drawn(page, 10)


def test_a_contradiction_names_itself_and_is_resolved(page: Page, block: Path) -> None:
    begin(page, block)
    tool(page, "Draw", "2")
    spot(page, 8, 12)
    page.mouse.move(*pixel(page, [40.0, 30.0, 0.0]))
    page.keyboard.type("40")
    page.keyboard.press("Tab")
    page.keyboard.type("20")
    page.keyboard.press("Enter")
    drawn(page, 8)
    page.keyboard.press("Escape")
    spot(page, 28, 32)
    size(page, "length", "50")
    drawn(page, 8, solved=False)
    says = page.get_by_role("alert", name="Contradiction")
    expect(says).to_contain_text("These cannot all hold")
    expect(says).to_contain_text("d3 = 50 mm")
    expect(page.locator("path.stroke.torn").first).to_be_attached()
    # What was drawn stays as it was, and the step says why nothing can be made of it.
    built(page)
    expect(row(page, "Sketch 1")).to_contain_text("does not hold together")
    says.get_by_role("button", name="Let d3 only read").click()
    drawn(page, 8)
    expect(page.locator(".size-label.reads")).to_have_text("(40.00 mm)")
    built(page)
    assert area_of(page) == pytest.approx(800)


def test_a_section_with_a_gap_is_taken_over_completed_and_outlives_a_reload(page: Page, block: Path) -> None:
    begin(page, block, section=True)
    lift(page, "5 mm")
    tool(page, "Change", "1")
    page.get_by_role("button", name="Take all of the section").click()
    page.wait_for_selector('.sketch-layer[data-drawn]:not([data-drawn="0"])')
    expect(page.locator("path.stroke")).to_have_count(4)  # three sides and the bore
    taken = int(page.locator(".sketch-layer").get_attribute("data-drawn") or 0)
    # The end that was not seen: a line upright there, and both sides go on to it.
    tool(page, "Draw", "1")
    spot(page, 57, 4, z=5)
    spot(page, 57, 36, z=5)
    drawn(page, taken + 3)
    page.keyboard.press("Escape")
    tool(page, "Change", "5")
    spot(page, 40, 0, z=5)
    spot(page, 57, 10, z=5)
    drawn(page, taken + 2)
    spot(page, 40, 40, z=5)
    spot(page, 57, 30, z=5)
    drawn(page, taken + 1)
    page.keyboard.press("Escape")
    before = area_of(page)
    assert before == pytest.approx(57 * 40 - math.pi * 64, rel=0.02)
    # The length that was read with the caliper.
    spot(page, 30, 0, z=5)
    size(page, "length", "61.5 mm")
    page.wait_for_function(CHANGED, arg=before)
    after = area_of(page)
    assert after == pytest.approx(61.5 * 40 - math.pi * 64, rel=0.02)
    built(page)
    page.reload()
    page.wait_for_function("window.contourView && window.contourView.ready()")
    built(page)
    row(page, "Sketch 1").locator(".step-name").click()
    page.wait_for_selector(".profile-row")
    assert area_of(page) == pytest.approx(after)
    page.keyboard.press("Control+z")
    row(page, "Sketch 1").locator(".step-name").click()
    page.wait_for_selector('.sketch-layer[data-solved="true"]')
    page.wait_for_function(REACHED, arg=before)
    page.keyboard.press("Control+y")
    row(page, "Sketch 1").locator(".step-name").click()
    page.wait_for_function(REACHED, arg=after)
    built(page)
    assert extrude(page, "10 mm") == pytest.approx(10 * after, rel=2e-3)


def test_a_drawing_is_fitted_to_its_section_and_says_what_nobody_saw(page: Page, block: Path) -> None:
    begin(page, block, section=True)
    lift(page, "5 mm")
    tool(page, "Draw", "2")
    page.mouse.move(*pixel(page, [0, 0, 5]))
    page.mouse.click(*pixel(page, [0, 0, 5]))
    page.mouse.move(*pixel(page, [45, 30, 5]))
    page.keyboard.type("60.5")
    page.keyboard.press("Tab")
    page.keyboard.type("40.6")
    page.keyboard.press("Enter")
    drawn(page, 8)
    page.keyboard.press("Escape")
    page.wait_for_selector('.sketch-layer[data-solved="true"]')
    panel = page.get_by_label("Against what was measured")
    rows = panel.locator("tr[data-size]")
    panel.get_by_role("button", name="Fit to the section").click()
    rows.nth(1).wait_for()
    expect(rows).to_have_count(2)
    expect(page.locator(".whiskers path").first).to_be_attached()
    told = {row.inner_text().split()[0]: row.inner_text() for row in rows.all()}
    wide, high = sorted(told, key=lambda name: "60.5" not in told[name])
    assert "± ?" in told[wide]  # its other end was not seen
    fitted = float(told[high].split("mm")[1].split("±")[0])
    assert fitted == pytest.approx(40, abs=0.02) and "40 mm" in told[high]
    rows.nth(list(told).index(high)).get_by_role("checkbox").check()
    panel.get_by_role("button", name="Take it").click()
    expect(page.locator(".size-label", has_text="40.00 mm")).to_have_count(1)
    built(page)
    assert area_of(page) == pytest.approx(60.5 * 40, rel=1e-3)


def test_a_face_is_brought_in_drawn_on_and_followed_when_its_body_changes(page: Page, tmp_path: Path) -> None:
    path = tmp_path / "plain_plate.step"
    write_step(path, [("Plate", prism(rectangle(60, 40), 10).shape, None)], unit="mm")
    page.get_by_label("Scan file").set_input_files(path)
    begin_job(page)
    built(page)
    page.wait_for_function("window.contourView && window.contourView.bodies().length === 1")
    page.mouse.click(*pixel(page, [30, 20, 10]))
    page.get_by_role("region", name="Selection").get_by_role("button", name="Draw on it").click()
    drawn(page, 0)
    square(page)
    tool(page, "Change", "2")
    layer, offered = page.locator(".sketch-layer"), page.locator(".offered")
    # What is meant is shown and named before it is picked.
    expect(offered).to_have_attribute("data-offers", "12")
    page.mouse.move(*pixel(page, [30, 0, 10]))
    expect(offered).to_contain_text("edge of Plate")
    page.get_by_label("What is brought in").get_by_text("sketch", exact=True).click()
    expect(layer).to_contain_text("Nothing above this sketch can be brought in this way.")
    page.get_by_label("What is brought in").get_by_text("silhouette", exact=True).click()
    expect(offered).to_have_attribute("data-offers", "1")
    page.mouse.move(*pixel(page, [30, 0, 10]))
    expect(offered).to_contain_text("silhouette of Plate")
    page.get_by_label("What is brought in").get_by_text("face", exact=True).click()
    expect(offered).to_have_attribute("data-offers", "6")
    page.mouse.move(*pixel(page, [30, 20, 10]))
    expect(offered).to_have_attribute("data-offered", "face")
    spot(page, 30, 20, z=10)
    drawn(page, 8)
    expect(layer).to_have_attribute("data-dof", "0")  # it cannot be moved
    expect(page.locator("path.stroke.linked")).to_have_count(4)
    page.keyboard.press("Escape")
    # A rectangle from its corner, and a profile that the face's own edges have no part in.
    tool(page, "Draw", "2")
    corner = pixel(page, [0, 0, 10])
    page.mouse.move(*corner)
    expect(page.locator(".at-pointer")).to_contain_text("end")
    page.mouse.click(*corner)
    page.mouse.move(*pixel(page, [20, 15, 10]))
    page.keyboard.type("25")
    page.keyboard.press("Tab")
    page.keyboard.type("12")
    page.keyboard.press("Enter")
    page.wait_for_selector('.sketch-layer[data-drawn="15"][data-solved="true"]')
    built(page)
    assert area_of(page) == pytest.approx(300)
    assert extrude(page, "5 mm") == pytest.approx(60 * 40 * 10 + 300 * 5, rel=1e-3)


def test_a_dxf_is_looked_at_put_in_and_saved_again(page: Page, block: Path, tmp_path: Path) -> None:
    """Its unit is asked for; what is not flat is told; the sketch that is saved reads as the file that came."""
    document = ezdxf.new("R2010")
    document.header["$INSUNITS"] = 0
    space = document.modelspace()
    space.add_lwpolyline([(0, 0), (2, 0), (2, 1), (0, 1)], close=True, dxfattribs={"layer": "rim"})
    space.add_circle((1, 0.5), 0.1875, dxfattribs={"layer": "hole"})
    space.add_text("0.375 DIA", height=0.1).set_placement((1.2, 0.6))
    space.add_line((0, 0, 0), (0, 0, 1), dxfattribs={"layer": "rim"})
    path = tmp_path / "side-plate.dxf"
    document.saveas(path)
    begin(page, block)
    page.get_by_label("DXF or SVG file").set_input_files(path)
    expect(page.get_by_text("It does not say its unit")).to_be_visible()
    expect(page.get_by_text("line: not flat: it rises out of the plane")).to_be_visible()
    expect(page.locator('.under-sheets[data-read="5"] text')).to_have_text("0.375 DIA")
    page.locator(".file-sheet").get_by_text("inch", exact=True).click()
    page.get_by_role("button", name="Put it in").click()
    drawn(page, 10)
    expect(page.locator(".under-row")).to_contain_text("side-plate.dxf lies under it: 0 lines, 1 text")
    built(page)
    saved = download(page, "DXF", tmp_path, role="link")
    found = read_flat(saved)
    assert found.unit_mm == 1
    (ring,) = [p.shape for p in found.pieces if isinstance(p.shape, Arc)]
    assert ring.whole and abs(2 * ring.radius - 9.525) < 1e-9
    reach = found.bounds()
    assert reach is not None and max(abs(a - b) for a, b in zip(reach[1], (50.8, 25.4), strict=True)) < 1e-9
    page.get_by_role("button", name="Lift it").click()
    expect(page.locator(".under-row")).to_have_count(0)
