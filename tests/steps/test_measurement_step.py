"""Measurements against closed forms: places, walls, edges, areas, volumes and a thread's pitch."""

import numpy as np
import pytest

from contour.check.between import between
from contour.check.thickness import wall_thickness
from contour.construct.place import Place
from contour.fit.helix import helix_of_facets, pitch_of_outline
from contour.products.region import RegionProduct
from contour.products.scan import ScanProduct
from contour.recipe.problem import ContourError
from contour.sketch.entities import Entity
from tests.conftest import circle, prism, rectangle
from tests.steps.helpers import body as as_body
from tests.steps.helpers import cylinder_region, plane_region, run, shape_of, sketch


def ref(n: int = 0) -> dict[str, str]:
    return {"id": f"s{n}"}


def measured(params: dict, products: dict, **faces) -> dict:
    return run("measurement", params, products, **faces).facts


SQUARE = [
    Entity("e1", "line", (0.0, 0.0), (20.0, 0.0)),
    Entity("e2", "line", (20.0, 0.0), (20.0, 10.0)),
    Entity("e3", "line", (20.0, 10.0), (0.0, 10.0)),
    Entity("e4", "line", (0.0, 10.0), (0.0, 0.0)),
]


@pytest.fixture(scope="module")
def slab():
    made = run("extrude", {"sketch": ref(), "distance": {"text": "5 mm"}}, {"sketch": sketch(SQUARE)})
    return shape_of(made, "newstep0")


@pytest.mark.parametrize(
    ("a", "b", "distance", "angle"),
    [
        (Place("point", (0, 0, 0)), Place("point", (1, 2, 2)), 3.0, None),
        (Place("point", (0, 0, 7)), Place("plane", (9, 9, 1), (0, 0, 1)), 6.0, None),
        (Place("point", (3, 4, 7)), Place("axis", (0, 0, 0), (0, 0, 1)), 5.0, None),
        (Place("plane", (0, 0, 5), (0, 0, 1)), Place("plane", (7, 0, 1), (0, 0, -1)), 4.0, 0.0),
        (Place("plane", (0, 0, 5), (0, 0, 1)), Place("plane", (7, 0, 1), (0, 1, 0)), None, 90.0),
        (Place("axis", (0, 0, 0), (0, 0, 1)), Place("axis", (3, 4, 9), (0, 0, -1)), 5.0, 0.0),
        (Place("axis", (0, 0, 0), (0, 0, 1)), Place("axis", (3, 4, 9), (1, 0, 0)), 4.0, 90.0),
        (Place("axis", (0, 0, 2), (1, 0, 0)), Place("plane", (0, 0, 0), (0, 0, 1)), 2.0, 0.0),
        (Place("axis", (0, 0, 2), (0, 0, 1)), Place("plane", (0, 0, 0), (0, 0, 1)), None, 90.0),
    ],
)
def test_distance_and_angle_of_every_pair_of_places(a, b, distance, angle):
    for found in (between(a, b), between(b, a)):
        assert found.distance == (None if distance is None else pytest.approx(distance))
        assert found.angle == (None if angle is None else pytest.approx(angle, abs=1e-9))


def test_uncertainty_of_a_distance_holds_both_sides_and_a_tilt_over_its_lever():
    a, b = Place("plane", (0, 0, 0), (0, 0, 1), u=0.003), Place("plane", (0, 0, 8), (0, 0, 1), u=0.004)
    assert between(a, b).u == pytest.approx(0.005, rel=1e-6)
    leaning = Place("plane", (0, 0, 0), (0, 0, 1), u_tilt=0.001)
    # The middles lie 40 mm apart and the distance is read halfway: a tilt of 1 mrad is worth 20 um there.
    assert between(leaning, Place("plane", (40, 0, 8), (0, 0, 1))).u == pytest.approx(0.02, rel=0.02)


def test_components_and_a_round_with_its_uncertainty():
    facts = measured(
        {"first": ref(), "second": ref(1)}, {"first": Place("point", (1, 1, 1)), "second": Place("point", (4, 5, 13))}
    )
    assert [getattr(facts, k) for k in ("distance", "dx", "dy", "dz")] == pytest.approx([13, 3, 4, 12])
    bore = cylinder_region((0, 0, 0), (0, 0, 1), 6.0, -1)
    bore = RegionProduct(bore.source_facets, bore.surface, 0.01, (6, 0, 5), 6.0, {"radius": 0.004})
    facts = measured({"what": "size", "first": ref()}, {"first": bore})
    assert facts.diameter == 12 and facts.u_diameter == pytest.approx(0.008)
    with pytest.raises(ContourError, match="no radius"):
        measured({"what": "size", "first": ref()}, {"first": plane_region((0, 0, 0), (0, 0, 1))})


def test_walls_edges_areas_and_volumes_of_a_body(slab):
    top = next(n for n, f in zip(slab.names, slab.names, strict=True) if f.endswith("top") or "end" in f)
    product = as_body(slab)
    assert measured({"what": "volume", "body": ref()}, {"body": product}).volume == pytest.approx(1000)
    assert measured({"what": "area", "body": ref()}, {"body": product}).area == pytest.approx(2 * (200 + 100 + 50))
    face = {"body": "s0", "name": top}
    flat = {
        n: measured({"what": "area", "face": {"body": "s0", "name": n}}, {"face": product}, face=n).area
        for n in slab.names
    }
    assert sorted(flat.values()) == pytest.approx([50, 50, 100, 100, 200, 200])
    large = [n for n, a in flat.items() if abs(a - 200) < 1e-6]
    wall = measured({"what": "thickness", "face": face}, {"face": product}, face=large[0])
    assert wall.thickness == pytest.approx(5)
    side = next(n for n, a in flat.items() if abs(a - 100) < 1e-6)
    edge = measured(
        {"what": "length", "face": face, "other_face": face},
        {"face": product, "other_face": product},
        face=large[0],
        other_face=side,
    )
    assert edge.length == pytest.approx(20)
    with pytest.raises(ContourError, match="share no edge"):
        measured(
            {"what": "length", "face": face, "other_face": face},
            {"face": product, "other_face": product},
            face=large[0],
            other_face=large[1],
        )


def test_lengths_and_areas_of_a_sketch():
    half_disc = [
        Entity("e1", "line", (-5.0, 0.0), (5.0, 0.0)),
        Entity("e2", "arc", (5.0, 0.0), (-5.0, 0.0), (0.0, 5.0)),
    ]
    given = {"sketch": sketch(half_disc)}
    assert measured({"what": "length", "sketch": ref(), "piece": "e2"}, given).length == pytest.approx(
        5 * np.pi, rel=1e-5
    )
    assert measured({"what": "length", "sketch": ref()}, given).length == pytest.approx(5 * np.pi + 10, rel=1e-5)
    assert measured({"what": "area", "sketch": ref()}, given).area == pytest.approx(12.5 * np.pi, rel=2e-3)
    assert measured({"what": "size", "sketch": ref(), "piece": "e2"}, given).diameter == pytest.approx(10)


def test_a_wall_of_a_scan_and_an_open_scan_without_volume(block_scan):
    scan = block_scan
    low, high = scan.vertices.min(axis=0), scan.vertices.max(axis=0)
    corner = 0.85 * high + 0.15 * low  # well clear of the bore
    top = int(np.argmin(np.linalg.norm(scan.centroids - [corner[0], corner[1], high[2]], axis=1)))
    found = wall_thickness(scan, top, scan.centroids[top])
    assert found.value == pytest.approx((high - low)[2], abs=8 * scan.noise_mm)
    assert 0 < found.u < scan.noise_mm
    facts = measured(
        {"what": "thickness", "scan": ref(), "first_spot": {"facet": int(scan.source_facet[top])}},
        {"scan": ScanProduct(scan)},
    )
    assert facts.thickness == pytest.approx(found.value, abs=3 * found.u)


def helical(pitch: float, turns: float, radius: float = 6.0):
    """A flank 0.6 mm wide that winds about z, slanting by 0.3 mm, with 12 um of noise."""
    n, m = int(80 * turns), 4
    angle = np.linspace(0, 2 * np.pi * turns, n)
    rng = np.random.default_rng(3)
    rows = []
    for j in range(m):
        r = radius + 0.2 * j
        rows.append(np.column_stack([r * np.cos(angle), r * np.sin(angle), pitch * angle / (2 * np.pi) + 0.1 * j]))
    points = np.stack(rows, axis=1).reshape(-1, 3) + rng.normal(0, 0.012, (n * m, 3))
    at = np.arange(n * m).reshape(n, m)
    beside = np.full((n * m, 3), -1, np.int32)
    beside[at[1:].ravel(), 0] = at[:-1].ravel()
    beside[at[:-1].ravel(), 1] = at[1:].ravel()
    beside[at[:, 1:].ravel(), 2] = at[:, :-1].ravel()
    return points, beside


@pytest.mark.parametrize(("pitch", "turns"), [(1.5, 4.0), (-2.0, 2.5), (0.8, 1.2)])
def test_pitch_and_hand_of_a_helical_region(pitch, turns):
    points, beside = helical(pitch, turns)
    found = helix_of_facets(points, beside, np.zeros(3), np.array([0, 0, 1.0]))
    assert found.pitch == pytest.approx(pitch, abs=max(4 * found.u, 2e-3))
    assert found.turns == pytest.approx(turns, abs=0.03)


def test_a_ring_is_no_helix():
    points, beside = helical(0.0, 1.0)
    with pytest.raises(ContourError, match="without climbing"):
        helix_of_facets(points, beside, np.zeros(3), np.array([0, 0, 1.0]))


def test_pitch_of_a_threads_outline_and_none_of_a_cone():
    z = np.linspace(0, 11, 900)
    saw = 4 + 0.5 * np.abs(((z / 1.25) % 1) - 0.5) + np.random.default_rng(5).normal(0, 0.01, 900)
    pitch, u, turns = pitch_of_outline(z, saw)
    assert pitch == pytest.approx(1.25, abs=max(4 * u, 2e-3)) and turns == pytest.approx(8.8, abs=0.05)
    with pytest.raises(ContourError, match="nothing repeats"):
        pitch_of_outline(z, 4 + 0.1 * z + np.random.default_rng(6).normal(0, 0.01, 900))


def test_edges_and_corners_of_a_body_are_measured_as_places():
    """A plate with two holes: the length of an edge, a hole's size by its rim, the distance of two rims, of two corners, and an angle."""
    plate = prism([*rectangle(40, 30), circle(10, 12, 4, "c1"), circle(28, 12, 3, "c2")], 8)
    product = as_body(plate)
    front = {"body": "b", "edge": "s1.end[p1]|s1.side[e1]"}
    right = {"body": "b", "edge": "s1.end[p1]|s1.side[e2]"}
    rims = [{"body": "b", "edge": f"s1.end[p1]|s1.side[{c}]"} for c in ("c1", "c2")]
    corners = [{"body": "b", "vertex": f"s1.end[p1]|s1.side[e1]|s1.side[{e}]"} for e in ("e2", "e4")]

    def of(params, **given):
        return measured(params, dict.fromkeys(given, product), **given)

    length = of({"what": "length", "edge": front}, edge=front["edge"])
    assert length.length == pytest.approx(40) and length.mark == "assumed"
    size = of({"what": "size", "first": rims[0]}, first=rims[0]["edge"])
    assert size.diameter == pytest.approx(8)

    def apart(a, b):
        said = "vertex" if "vertex" in a else "edge"
        return of({"what": "between", "first": a, "second": b}, first=a[said], second=b[said])

    assert apart(*rims).distance == pytest.approx(18)
    far = apart(*corners)
    assert far.distance == pytest.approx(40) and abs(far.dx) == pytest.approx(40)
    assert apart(front, right).angle == pytest.approx(90)
