"""Straightening, edges, repeats and scale against rendered photos whose truth is known."""

from __future__ import annotations

import numpy as np
import pytest
from PIL import Image, ImageDraw
from scipy.ndimage import gaussian_filter

from contour.metrology.photo.edges import snap_circle, snap_line
from contour.metrology.photo.flat import Flat, FlatPixels, aspect_of, flat_of, homography
from contour.metrology.photo.repeats import repeats_along
from contour.metrology.photo.scale import length_mm, scale_check, scale_of
from contour.metrology.photo.squared import squared_up
from contour.metrology.photo.trace import ends_on_edges, traced
from contour.outline.arcs import circle_through
from contour.outline.bends import sides_of
from contour.recipe.problem import ContourError
from contour.simulate.photo import Camera, Photo, photograph, thread_outline

PITCH, MAJOR, CORE, TURNS = 3.0, 30.0, 26.4, 9
CARD = (120.0, 80.0)
AT = np.array([-12.0, 2.0])


@pytest.fixture(scope="module")
def shot() -> Photo:
    outline = thread_outline(major=MAJOR, pitch=PITCH, core=CORE, turns=TURNS, shank=10) + AT
    camera = Camera(tilt_deg=18, towards_deg=70, spin_deg=4, bend=0.045, blur_px=1.2, size=(1200, 900), seed=3)
    return photograph([outline], camera, card=CARD, holes=[(AT[0] + 6, AT[1], 3.0)])


@pytest.fixture(scope="module")
def lying(shot: Photo) -> tuple[Flat, FlatPixels]:
    found = squared_up(shot.grey, shot.card + np.array([[1.5, -1], [-1, 1.5], [1, 1], [-1.5, -1]]))
    flat = flat_of(shot.camera.size, corners=found.corners, bend=found.bend, aspect=CARD[0] / CARD[1])
    return flat, FlatPixels(shot.grey, flat)


def seen(shot: Photo, flat: Flat, *mm: tuple[float, float]) -> np.ndarray:
    return flat.to_flat(shot.place(np.array(mm) + AT))


def test_four_points_fix_a_homography() -> None:
    h = np.array([[1.1, 0.2, 5], [-0.1, 0.9, 3], [1e-4, 2e-4, 1]])
    p = np.array([[0, 0], [100, 0], [100, 80], [0, 80], [40, 30]], float)
    q = np.column_stack([p, np.ones(5)]) @ h.T
    assert homography(p, q[:, :2] / q[:, 2:]) == pytest.approx(h, abs=1e-9)


def test_the_lens_and_the_corners_are_found_from_the_sides(shot: Photo) -> None:
    found = squared_up(shot.grey, shot.card + 2.0)
    assert found.bend == pytest.approx(shot.camera.bend, abs=0.004)
    # Corners are where the card's rim begins; the renderer's pixel grid leaves up to half a pixel.
    assert np.abs(found.corners - shot.card).max() < 0.8
    lens = Flat(shot.camera.size, found.bend, np.eye(3), shot.camera.size)
    assert aspect_of(lens.straight(found.corners), shot.camera.size) == pytest.approx(1.5, abs=0.01)


def test_flat_and_photo_are_each_other_s_inverse(lying) -> None:
    flat, _ = lying
    p = np.array([[100.0, 90.0], [640.0, 410.0], [1000.0, 700.0]])
    assert flat.to_photo(flat.to_flat(p)) == pytest.approx(p, abs=1e-6)


def scale_by_card(shot: Photo, flat: Flat):
    a, b = seen(shot, flat, *(np.array([[-60, 40], [60, 40]]) - AT))
    return scale_of(float(np.linalg.norm(b - a)), 0.7, CARD[0], 0.02, squared=True)


def test_pitch_width_and_bore_lie_within_what_is_stated(shot: Photo, lying) -> None:
    flat, picture = lying
    scale = scale_by_card(shot, flat)
    y = CORE / 2 + 0.3 * PITCH
    first, last = seen(shot, flat, (0, y), ((TURNS - 1) * PITCH, y)) + np.array([[1.2, -0.8], [-1.0, 0.7]])
    rows = repeats_along(picture, first, last, TURNS)
    pitch = length_mm(scale, rows.pitch, rows.u_pitch)
    assert abs(pitch.mm - PITCH) < 2 * pitch.u < 0.02
    assert len(rows.found) == TURNS and not rows.doubled and rows.likeness.min() > 0.8
    a, b = ends_on_edges(picture, *seen(shot, flat, (-8, CORE / 2), (-8, -CORE / 2)) + 1.0)
    wide = length_mm(scale, float(np.linalg.norm(b - a)), 0.4)
    assert abs(wide.mm - CORE) < 2 * wide.u < 0.15
    middle = seen(shot, flat, (6, 0))[0] + 0.8
    bore = snap_circle(picture, middle, 3.0 / scale.mm_per_px * 1.04)
    assert 2 * bore.radius * scale.mm_per_px == pytest.approx(6.0, abs=0.03)


def test_a_wrong_scale_shows_as_drift_and_a_second_length_tells_it(shot: Photo, lying) -> None:
    flat, picture = lying
    scale = scale_by_card(shot, flat)
    y = CORE / 2 + 0.3 * PITCH
    rows = repeats_along(picture, *seen(shot, flat, (0, y), ((TURNS - 1) * PITCH, y)), TURNS)
    relative = float(np.hypot(scale.relative_u, scale.uneven))
    right, u = rows.drift(PITCH / scale.mm_per_px, relative)
    assert abs(right) < 2 * u
    wrong, u = rows.drift(PITCH / (scale.mm_per_px * 1.01), relative)
    assert wrong > 2 * u and wrong * scale.mm_per_px == pytest.approx(0.01 * PITCH * (TURNS - 1), rel=0.25)
    error, away = scale_check(scale, 80 / scale.mm_per_px * 1.01, 0.7, 80, 0.02)
    assert error == pytest.approx(0.01, abs=1e-6) and away > 2


def test_the_flat_picture_is_the_same_whole_or_in_bands_and_as_it_is_looked_at(shot: Photo, lying) -> None:
    flat, seen_flat = lying
    colours = np.repeat(shot.grey[..., None], 3, axis=2)
    whole = np.vstack(list(flat.bands(colours, 10_000, rows=10_000)))
    assert whole.shape == (*flat.size[::-1], 3)
    assert (np.vstack(list(flat.bands(colours, 10_000, rows=37))) == whole).all()
    y, x = np.mgrid[40:400:7, 60:500:11]
    assert np.abs(seen_flat.at(x, y) - whole[y, x, 0] / 255).max() < 0.6 / 255
    # At half the size every pixel is the mean of four.
    half = np.vstack(list(flat.bands(colours, max(flat.size) // 2)))
    wide, high = flat.shown_size(max(flat.size) // 2)
    assert half.shape == (high, wide, 3)
    mean = whole[: 2 * (high - 1), : 2 * (wide - 1), 0].reshape(high - 1, 2, wide - 1, 2).mean(axis=(1, 3))
    assert np.abs(half[: high - 1, : wide - 1, 0] - mean).mean() < 2


def test_a_miscount_is_seen(shot: Photo, lying) -> None:
    flat, picture = lying
    y = CORE / 2 + 0.3 * PITCH
    first, last = seen(shot, flat, (0, y), (8 * PITCH, y))
    half = repeats_along(picture, first, last, 5)  # nine are there: every second one is missed
    assert half.doubled


def test_an_outline_is_put_onto_its_edges(shot: Photo, lying) -> None:
    flat, picture = lying
    drawn = seen(shot, flat, (-13, CORE / 2), (-13, -CORE / 2), (-4, -CORE / 2))
    corners, rms = traced(picture, drawn + np.array([[2, 1], [-2, 1], [1, -2]]), closed=False)
    # The thread's outline begins a pitch and 10 mm before its first crest.
    assert np.linalg.norm(corners[1] - drawn[1]) < 1.0 and rms < 0.5
    line = snap_line(picture, drawn[0], drawn[1])
    assert np.abs((line.a - line.b)[0]) < 1.5


def test_an_outline_with_a_round_side_is_put_onto_its_edges() -> None:
    """A plate with one end rounded (r = 12 about (20, 0)), drawn by a hand that misses by up to 3 pixels."""
    t = np.radians(np.arange(-90, 91))
    plate = np.vstack([[[-25, 12], [-25, -12]], np.column_stack([20 + 12 * np.cos(t), 12 * np.sin(t)])])
    shot = photograph([plate], Camera(tilt_deg=0, spin_deg=3, bend=0, size=(1200, 900), seed=5), card=CARD)
    true = shot.place(np.array([[-25, 12], [-25, -12], [20, -12], [32, 0], [20, 12]], float))
    drawn = true + np.array([[3, 1], [-2, 2], [1, -3], [3, 2], [-3, 1]])
    found, rms = traced(shot.grey, drawn, bends=(3,), closed=True)
    per_mm = float(np.linalg.norm(true[1] - true[0])) / 24
    centre, radius = circle_through(*(tuple(p) for p in found[2:]))
    assert radius / per_mm == pytest.approx(12, abs=0.1) and rms < 0.6
    assert np.linalg.norm(centre - shot.place(np.array([[20.0, 0.0]]))[0]) / per_mm < 0.12
    assert np.linalg.norm(found[:2] - true[:2], axis=1).max() < 1.0
    # Where line and arc are tangent no crossing tells the place along them; across them it must be right.
    across = (true[0] - true[1]) / np.linalg.norm(true[0] - true[1])
    assert np.abs((found[[2, 4]] - true[[2, 4]]) @ across).max() < 1.0


def test_on_a_line_drawing_the_middle_of_the_line_is_found() -> None:
    page = Image.new("L", (600, 400), 240)
    draw = ImageDraw.Draw(page)
    draw.rectangle([100, 80, 500, 300], outline=40, width=7)  # its line's middle lies 3 pixels inside
    draw.ellipse([240, 140, 360, 260], outline=40, width=7)
    pixels = gaussian_filter(np.asarray(page, np.float32), 0.8).round().astype(np.uint8)
    corners = np.array([[103, 83], [497, 83], [497, 297], [103, 297]], float)
    found, _ = traced(pixels, corners + np.array([[3, -2], [-3, 2], [2, 3], [-2, -3]]), closed=True, drawn=True)
    assert np.abs(found - corners).max() < 0.5  # of a line 7 pixels wide
    ring = snap_circle(pixels, np.array([302.0, 198.0]), 58.0, drawn=True)
    assert ring.radius == pytest.approx(57, abs=0.4) and ring.centre == pytest.approx([300, 200], abs=0.4)


@pytest.mark.parametrize(("count", "bends"), [(4, (1, 2)), (3, (0,)), (3, (2,)), (2, (5,)), (3, (0, 1, 2))])
def test_bends_without_corners_beside_them_are_refused(count: int, bends: tuple[int, ...]) -> None:
    with pytest.raises(ContourError):
        sides_of(count, bends, closed=False)


def test_what_is_not_there_is_said() -> None:
    blank = np.full((200, 300), 0.5, np.float32)
    a, b = np.array([50.0, 50.0]), np.array([250.0, 60.0])
    for attempt in (
        lambda: snap_line(blank, a, b),
        lambda: snap_circle(blank, a, 20.0),
        lambda: repeats_along(blank, a, b, 8),
        lambda: squared_up(blank, np.array([[20, 20], [280, 20], [280, 180], [20, 180]])),
        lambda: ends_on_edges(blank, a, b),
    ):
        with pytest.raises(ContourError) as error:
            attempt()
        assert error.value.problem.code == "fit-failed"
    for attempt in (
        lambda: repeats_along(blank, a, b, 1),
        lambda: repeats_along(blank, a, np.array([900.0, 60.0]), 4),
        lambda: scale_of(2, 1, 5, 0, squared=True),
        lambda: flat_of((300, 200), corners=np.array([[0, 0], [100, 100], [100, 0], [0, 100]])),
    ):
        with pytest.raises(ContourError) as error:
            attempt()
        assert error.value.problem.code == "bad-params"
