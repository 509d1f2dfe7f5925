"""Drawings and the pictures under them: fitted to edges of known truth, pictures laid onto what is drawn, and what is refused."""

from __future__ import annotations

import json

import numpy as np
import pytest
from PIL import Image

from contour.cli import main
from contour.metrology.photo.laid import Laid
from contour.metrology.photo.scale import Scale
from contour.recipe.problem import ContourError
from contour.recipe.values import Value
from contour.simulate.photographed_profiles import photographed_profile
from contour.sketch.drawn.dimensions import measured
from contour.sketch.drawn.fitted import strayed
from contour.sketch.drawn.kept import KeptDrawing, drawing_of, kept_of
from contour.sketch.drawn.picture_fit import fitted_to_picture, picture_source
from contour.sketch.drawn.seen_edges import edges_near, laid_onto
from contour.sketch.drawn.solution import solved
from contour.sketch.drawn.text import Drawing, read_drawing
from contour.sketch.drawn.unknowns import Unknowns
from tests.sketch.drawn.test_adjust import plate

PX = 0.1  # mm
SCALE = Scale(PX, 0.0005, 0.0012)
# The drawing's zero lies at this pixel of the picture.
ZERO = (60.0, 280.0)
LAID = Laid(ZERO, (0.0, 0.0), 0.0, PX)


def picture(width=40.0, height=20.0, r=4.0, *, lines: bool = False) -> np.ndarray:
    """A plate with a bore, by its distance from each place: dark on light, or drawn as lines of three pixels. Exact but for its pixels."""
    y, x = np.mgrid[0:340, 0:540].astype(float)
    X, Y = (x - ZERO[0]) * PX, (ZERO[1] - y) * PX
    dx, dy = np.maximum(-X, X - width), np.maximum(-Y, Y - height)
    outside = np.where((dx > 0) & (dy > 0), np.hypot(dx, dy), np.maximum(dx, dy))
    bore = r - np.hypot(X - width / 4, Y - height / 2)
    off = np.maximum(outside, bore) / PX
    share = np.clip(2.0 - np.abs(off), 0, 1) if lines else np.clip(0.5 - off, 0, 1)
    return np.round(225 - 180 * share).astype(np.uint8)


def kept(*args: float) -> KeptDrawing:
    return kept_of(read_drawing(plate(*args)), KeptDrawing())


@pytest.mark.parametrize("lines", [False, True])
def test_sizes_come_from_the_edges_of_a_photo_or_the_lines_of_a_print(lines):
    found, seen = fitted_to_picture(
        kept(40.5, 19.6, 4.3), picture(lines=lines), LAID, picture_source(SCALE, "plate.jpg"), lines=lines
    )
    by = {r.name: r for r in found.rows}
    for name, truth in (("width", 40.0), ("height", 20.0), ("bore", 8.0), ("edge", 10.0)):
        assert by[name].value == pytest.approx(truth, abs=0.25 * PX)
    assert found.kept.lengths["width"].mark == "photo" and "plate.jpg" in found.kept.lengths["width"].note
    assert found.found.rms < 0.3 * PX
    # What is not known of the scale is not known of a long size, however many edges tell it.
    assert by["width"].u > 0.0013 * 40 and by["bore"].u > 0.3 * PX
    assert set(seen.names) == {"l1", "l2", "l3", "l4", "k"}
    off = np.abs(strayed(solved(drawing_of(found.kept)).drawing, seen.chains).off)
    assert float(off.max()) < 0.5 * PX


def test_what_a_scan_or_a_caliper_told_is_kept_when_a_photo_is_fitted():
    lengths = dict(kept(40.5, 19.6, 4.3).lengths)
    lengths["width"] = Value(text="40.2 mm", mark="caliper")
    lengths["bore"] = Value(text="8.1 mm", mark="scan")
    given = kept(40.5, 19.6, 4.3).model_copy(update={"lengths": lengths})
    found, _ = fitted_to_picture(given, picture(), LAID, picture_source(SCALE, "p"))
    by = {r.name: r for r in found.rows}
    assert by["width"].held == "by caliper" and by["bore"].held == "by scan"
    assert found.kept.lengths["bore"].text == "8.1 mm"
    assert by["height"].value == pytest.approx(20.0, abs=0.05)


@pytest.mark.parametrize(("x", "y", "turn"), [(2.0, -1.5, 1.0), (-1.0, 2.5, -2.0)])
def test_a_picture_finds_its_place_under_what_is_drawn(x, y, turn):
    drawing = solved(read_drawing(plate())).drawing
    off = LAID.moved(np.array([x, y]), turn, np.array([20.0, 10.0]))
    found = laid_onto(drawing, picture(), off)
    corners = np.array([[60.0, 280.0], [460.0, 80.0], [460.0, 280.0]])
    assert found.laid.to_plane(corners) == pytest.approx(LAID.to_plane(corners), abs=0.2 * PX)
    assert found.larger == pytest.approx(1.0, abs=1e-3) and found.used > 200


def test_a_scale_that_is_wrong_is_told_and_not_taken():
    drawing = solved(read_drawing(plate())).drawing
    wrong = Laid(ZERO, (0.0, 0.0), 0.0, PX * 0.985)
    found = laid_onto(drawing, picture(), wrong)
    assert found.larger == pytest.approx(1 / 0.985, abs=0.003)
    assert found.laid.mm_per_px == wrong.mm_per_px
    assert abs(found.larger - 1) > 5 * found.u_larger


def test_edges_that_leave_it_free_to_move_are_refused():
    one = {n: e for n, e in plate()["entities"].items() if n in ("a", "b", "l1")}
    drawing = read_drawing({"entities": one})
    with pytest.raises(ContourError) as refused:
        laid_onto(drawing, picture(), LAID)
    assert "free to move" in refused.value.problem.message and refused.value.problem.remedy


def test_where_no_edge_is_near_it_says_what_to_do():
    drawing = solved(read_drawing(plate())).drawing
    for blank in (np.full((340, 540), 220, np.uint8), picture()):
        far = LAID if blank.min() == 220 else LAID.moved(np.array([200.0, 0.0]), 0.0, np.zeros(2))
        with pytest.raises(ContourError) as refused:
            edges_near(drawing, blank, far)
        assert refused.value.problem.code == "fit-failed" and "lay the picture" in (refused.value.problem.remedy or "")


def test_helper_lines_are_no_edges():
    drawn = plate()
    drawn["entities"]["k"]["construction"] = True
    seen = edges_near(solved(read_drawing(drawn)).drawing, picture(), LAID)
    assert "k" not in seen.names and len(seen.chains) == 4


@pytest.mark.parametrize("seed", [3, 14])
def test_photographed_parts_of_known_truth_are_as_sure_as_they_say(seed):
    rng = np.random.default_rng(seed)
    made = photographed_profile(rng, corners=6, holes=1, seed=seed)
    found, _ = fitted_to_picture(
        kept_of(made.rough, KeptDrawing()), made.pixels, made.laid, picture_source(made.scale, "part.jpg")
    )
    truth: Drawing = made.truth
    u = Unknowns(truth)
    told = [
        (abs(row.value - measured(u, d, f"d:{k}", np.array(u.start))), row.u)
        for k, (d, row) in enumerate(zip(truth.dimensions, found.rows, strict=True))
        if row.u is not None
    ]
    # At two standard uncertainties one in twenty may lie outside, at four none.
    assert len(told) >= 3 and all(error < 4 * sure for error, sure in told)
    assert sum(error > 2 * sure for error, sure in told) <= 1


def lies(**more) -> dict:
    return {
        "picture": "plate.png",
        "scale": {"a": [60, 280], "b": [460, 280], "mm": 40.0, "u": 0.02},
        "px": list(ZERO),
        **more,
    }


def fitted_by_command(tmp_path, capsys, **more) -> tuple[int, dict]:
    Image.fromarray(picture()).save(tmp_path / "plate.png")
    (tmp_path / "plate.json").write_text(json.dumps(plate(40.5, 19.6, 4.3)))
    (tmp_path / "lies.json").write_text(json.dumps(lies(**more)))
    code = main(["sketch", str(tmp_path / "plate.json"), "--fit", str(tmp_path / "lies.json"), "--json"])
    out = capsys.readouterr()
    return code, json.loads(out.out or out.err)


def test_the_command_fits_to_a_picture_that_says_how_it_lies(tmp_path, capsys):
    code, told = fitted_by_command(tmp_path, capsys)
    width, height, bore, _ = told["fit"]["sizes"]
    assert code == 0 and told["solved"]
    assert [width["value"], height["value"], bore["value"]] == pytest.approx([40, 20, 8], abs=0.03)
    assert width["u"] > 0.02 and width["before"] == 40.5


@pytest.mark.parametrize(
    ("more", "code", "said"),
    [
        ({"picture": "other.png"}, "file-missing", "other.png"),
        ({"scale": {"a": [0, 0], "b": [1, 0], "mm": 40}}, "bad-params", "too short"),
        ({"px": "here"}, "file-not-understood", "px"),
        ({"picture": "plate.json"}, "file-not-understood", "plate.json"),
    ],
)
def test_a_picture_that_cannot_be_used_is_refused_with_its_file(tmp_path, capsys, more, code, said):
    got, told = fitted_by_command(tmp_path, capsys, **more)
    assert got != 0 and told["problem"]["code"] == code and said in json.dumps(told)
