"""Taking a section over fixes its structure; rebuilding moves its values only."""

import math
from dataclasses import replace

import numpy as np
import pytest

from contour.check.exact_arrays import exact_arrays
from contour.construct.place import Place
from contour.geometry.frames import plane_frame
from contour.mesh.prepare import prepare_scan
from contour.mesh.slice import slice_scan
from contour.outline.lines import scan_lines
from contour.outline.mirror import line_between
from contour.outline.offers import nearly_held
from contour.outline.radial import radial_frame
from contour.outline.section import closed_over_gaps, loop_of, outlines_of, section_loops
from contour.outline.where_to_cut import ranked_cuts
from contour.products.region import RegionProduct
from contour.products.scan import ScanProduct
from contour.recipe.problem import ContourError
from contour.recipe.registry import Inputs
from contour.simulate.scanner import ScanSettings, virtual_scan
from contour.sketch.along_axis import closed_along_axis
from contour.sketch.entities import Entity
from contour.sketch.refit import refit_loops
from contour.sketch.taken import LoopRelation, TakenLoop, taken_pieces
from contour.steps import KINDS
from demo.jobs import drawn_over, taken_loops
from tests.conftest import circle, facet_near, prism, raw_scan, rectangle
from tests.outline.test_radial_silhouette import turned
from tests.steps.helpers import volume_of

UP = np.array([0, 0, 1.0])


def scanned(width: float, bore: float | None, dropouts=()):
    entities = rectangle(width, 30) + ([circle(15, 15, bore)] if bore else [])
    scan = virtual_scan(
        exact_arrays(prism(entities, 10).shape), ScanSettings(spacing_mm=0.8, noise_mm=0.015, seed=2, dropouts=dropouts)
    )
    return prepare_scan(raw_scan(scan.vertices[scan.facets]), 1.0)


def run(kind: str, params: dict, products: dict, **lengths: float):
    declared = KINDS[kind]
    return declared.run(declared.params.model_validate(params), Inputs("step-0001", products, "mm", lengths))


def top_of(scan) -> RegionProduct:
    seed = int(scan.source_facet[facet_near(scan, (30, 5, 10))])
    return run("region", {"scan": {"id": "s"}, "seeds": [seed]}, {"scan": ScanProduct(scan)}).product


def section_params(scan) -> dict:
    region = top_of(scan)
    origin = np.array(region.surface.origin) - 4 * UP
    normal = np.array(region.surface.axis)
    return {
        "scan": {"id": "s"},
        "plane": {"id": "r"},
        "offset": {"text": "-4 mm"},
        "origin": origin.tolist(),
        "u_axis": plane_frame(origin, normal).u.tolist(),
        "pose": np.asarray(scan.pose).tolist(),
        **drawn_over(taken_loops(scan, origin, normal), relate=False),
    }


def over(params: dict, loops: list[dict], *, relate: bool = False) -> dict:
    """The same sketch with other loops taken over."""
    return {**params, "entities": {}, "taken": [], "made": 0, "named": [], **drawn_over(loops, relate=relate)}


@pytest.fixture(scope="module")
def first():
    scan = scanned(40, 6)
    return scan, section_params(scan)


def rebuild(params, scan, offset: float = -4.0):
    return run("sketch", params, {"scan": ScanProduct(scan), "plane": top_of(scan)}, offset=offset, turn=0.0)


def test_rebuilding_on_the_same_scan_gives_what_was_taken(first):
    scan, params = first
    outcome = rebuild(params, scan)
    assert sorted(e.id for e in outcome.product.entities) == ["e1", "e2", "e3", "e4", "e5"]
    (direct, bore) = section_loops(scan, np.array(params["origin"]), UP)
    assert outcome.facts.area == pytest.approx(direct.area - bore.area, rel=2e-4)
    assert outcome.facts.profiles == 1


def test_a_better_scan_of_a_slightly_different_part_moves_values_and_keeps_ids(first):
    _, params = first
    outcome = rebuild(params, scanned(41, 6.3))
    kinds = {e.id: e.kind for e in outcome.product.entities}
    assert list(kinds.values()).count("line") == 4
    whole = next(e for e in outcome.product.entities if e.kind == "arc")
    assert whole.circle()[1] == pytest.approx(6.3, abs=0.05)
    assert outcome.facts.area == pytest.approx(41 * 30 - np.pi * 6.3**2, rel=3e-3)


def test_a_loop_that_is_gone_is_a_located_problem(first):
    _, params = first
    with pytest.raises(ContourError) as caught:
        rebuild(params, scanned(40, None))
    problem = caught.value.problem
    assert problem.code == "outline-changed"
    assert problem.where.entity == "e5"
    assert problem.where.point[2] == pytest.approx(6, abs=0.1)


def test_a_plane_beside_the_part_is_a_problem_of_the_offset(first):
    scan, params = first
    with pytest.raises(ContourError) as caught:
        rebuild(params, scan, offset=+50.0)
    assert caught.value.problem.code == "no-section"
    assert caught.value.problem.where.param == "offset"


def test_single_pieces_leave_an_open_sketch_that_says_where(first):
    scan, params = first
    pieces = [{**p, "taken": p["id"] in ("e1", "e2")} for p in params["taken"][0]["pieces"]]
    some = over(params, [{**params["taken"][0], "pieces": pieces}])
    outcome = rebuild(some, scan)
    assert {e.id.split(":")[0] for e in outcome.product.entities} == {"e1", "e2"}
    assert outcome.facts.profiles == 0 and outcome.facts.loose == 2


def test_a_section_needs_a_plane(first):
    scan, params = first
    seed = int(scan.source_facet[facet_near(scan, (21, 15, 5))])
    bore = run("region", {"scan": {"id": "s"}, "seeds": [seed]}, {"scan": ScanProduct(scan)})
    assert bore.facts.kind == "cylinder"
    assert bore.facts.inside
    assert bore.facts.diameter == pytest.approx(12, abs=0.1)
    with pytest.raises(ContourError) as caught:
        run("sketch", params, {"scan": ScanProduct(scan), "plane": bore.product}, offset=-4.0, turn=0.0)
    assert caught.value.problem.code == "wrong-kind"


def test_a_seed_that_is_not_in_the_scan_is_lost(first):
    with pytest.raises(ContourError) as caught:
        run("region", {"scan": {"id": "s"}, "seeds": [10**8]}, {"scan": ScanProduct(first[0])})
    assert caught.value.problem.code == "ref-lost"


def test_an_oblique_bore_is_an_ellipse_that_is_fitted_again_and_may_be_closed():
    """A plane at 35 degrees through a bore of R 6: half-axes 6 and 6 / cos 35°."""
    scan = scanned(40, 6)
    normal = np.array([np.sin(np.radians(35)), 0, np.cos(np.radians(35))])
    origin = np.array([15.0, 15.0, 5.0])
    loops = section_loops(scan, origin, normal)
    oval = next(lo for lo in loops if len(lo.outline.pieces) == 1 and lo.outline.pieces[0].kind == "ellipse")
    assert oval.outline.pieces[0].ellipse[2:4] == pytest.approx((6 / np.cos(np.radians(35)), 6), abs=0.05)
    frame = oval.frame
    piece = oval.outline.pieces[0]
    taken = {
        "id": "e1",
        "kind": "ellipse",
        "start": piece.start,
        "end": piece.end,
        "mid": piece.mid,
        "ellipse": piece.ellipse,
    }
    lines = [(frame.to_plane(c.points), c.closed) for c in slice_scan(scan, origin, normal)]
    again = refit_loops(
        [TakenLoop.model_validate({"closed": True, "pieces": [taken]})], lines, frame, 0.02, scan.edge_mm
    )[0]
    assert again.pieces[0].ellipse == pytest.approx(piece.ellipse, abs=5e-3)
    # Half of it, as where the scan has a hole, made an ellipse by hand and closed: still the same one.
    bore = min((p for p, _ in lines), key=lambda p: float(np.ptp(p, axis=0).max()))
    path = bore[: len(bore) // 2 + 8]
    half = [(path, False)]
    open_piece = {
        "id": "e1",
        "kind": "ellipse",
        "start": tuple(path[0]),
        "end": tuple(path[-1]),
        "points": path[::4].tolist(),
    }
    opened = refit_loops(
        [TakenLoop.model_validate({"closed": False, "pieces": [open_piece]})], half, frame, 0.02, scan.edge_mm
    )[0]
    assert opened.pieces[0].kind == "ellipse" and opened.pieces[0].start != opened.pieces[0].end
    full = {**open_piece, "ellipse": opened.pieces[0].ellipse, "mid": opened.pieces[0].mid, "points": []}
    closed = refit_loops(
        [TakenLoop.model_validate({"closed": True, "full": True, "pieces": [full]})], half, frame, 0.02, scan.edge_mm
    )[0]
    assert closed.pieces[0].start == closed.pieces[0].end
    assert closed.pieces[0].ellipse[2:4] == pytest.approx((6 / np.cos(np.radians(35)), 6), abs=0.15)


def loops_of(scan, z: float):
    """Loops of a level section as they are taken, with their polylines."""
    origin = np.array([0, 0, z])
    frame = plane_frame(origin, UP)
    lines = [(frame.to_plane(c.points), c.closed) for c in slice_scan(scan, origin, UP)]
    return [TakenLoop.model_validate(lo) for lo in taken_loops(scan, origin, UP)], lines, frame


def test_a_hole_is_held_concentric_with_a_rounded_end_of_another_loop():
    """A tab: square at one end, round at the other, with a hole that the scan puts somewhere near the middle of the round."""
    tab = [
        Entity("a", "line", (0, 0), (30, 0)),
        Entity("b", "arc", (30, 0), (30, 16), (38, 8)),
        Entity("c", "line", (30, 16), (0, 16)),
        Entity("d", "line", (0, 16), (0, 0)),
        circle(30.06, 7.95, 4),
    ]
    scan = virtual_scan(exact_arrays(prism(tab, 8).shape), ScanSettings(spacing_mm=0.6, noise_mm=0.015, seed=5))
    prepared = prepare_scan(raw_scan(scan.vertices[scan.facets]), 1.0)
    loops, lines, frame = loops_of(prepared, 4.0)
    outlines = refit_loops(loops, lines, frame, 0.02, prepared.edge_mm)
    offers = nearly_held(outlines, near_mm=0.2)
    owner = [(n, p.id) for n, loop in enumerate(loops) for p in loop.pieces]
    across = next(h for h, _ in offers if h.kind == "concentric" and owner[h.first][0] != owner[h.second][0])
    (n, first), (_, second) = owner[across.first], owner[across.second]
    held = list(loops)
    held[n] = loops[n].model_copy(update={"relations": [LoopRelation(kind="concentric", first=first, second=second)]})
    after = refit_loops(held, lines, frame, 0.02, prepared.edge_mm)
    middles = {p.centre for o in after for p in o.pieces if p.centre and p.radius and p.radius < 10}
    xs = np.array(sorted(middles))
    assert np.ptp(xs, axis=0).max() < 1e-9
    whole = next(o for o in after if len(o.pieces) == 1)
    assert whole.pieces[0].start == whole.pieces[0].end and whole.pieces[0].radius == pytest.approx(4, abs=0.04)
    far = loops[n].model_copy(update={"relations": [LoopRelation(kind="equal radius", first=first, second=second)]})
    with pytest.raises(ContourError, match="cannot be held"):
        refit_loops([far if k == n else lo for k, lo in enumerate(loops)], lines, frame, 0.02, prepared.edge_mm)


def test_a_loop_is_held_to_its_mirror_image():
    """A trapezium whose slopes are 0.4 degrees apart: held, both ends and slopes answer each other exactly."""
    corners = [(0, 0), (40, 0), (32.15, 20), (8, 20)]
    sides = [Entity(f"s{k}", "line", corners[k], corners[(k + 1) % 4]) for k in range(4)]
    scan = virtual_scan(exact_arrays(prism(sides, 8).shape), ScanSettings(spacing_mm=0.6, noise_mm=0.015, seed=6))
    prepared = prepare_scan(raw_scan(scan.vertices[scan.facets]), 1.0)
    loops, lines, frame = loops_of(prepared, 4.0)
    (before,) = refit_loops(loops, lines, frame, 0.02, prepared.edge_mm)
    held, off = next((h, off) for h, off in nearly_held([before], near_mm=0.2) if h.kind == "symmetric")
    assert 0.02 < off < 0.2
    relation = LoopRelation(
        kind="symmetric", first=loops[0].pieces[held.first].id, second=loops[0].pieces[held.second].id
    )
    (after,) = refit_loops(
        [loops[0].model_copy(update={"relations": [relation]})], lines, frame, 0.02, prepared.edge_mm
    )
    joints = np.array([p.end for p in after.pieces])
    _, left = line_between(joints, (held.first + held.second) % 4)
    assert left < 1e-9
    assert all(h.kind != "symmetric" for h, _ in nearly_held([after], near_mm=0.2))
    opened = loops[0].model_copy(update={"closed": False, "pieces": loops[0].pieces[:3], "relations": [relation]})
    with pytest.raises(ContourError, match="mirror image"):
        refit_loops([opened], lines, frame, 0.02, prepared.edge_mm)


HOLES = (((40.0, 0.0, 6.0), 5.0), ((20.0, 30.0, 6.0), 4.0), ((21.0, 15.0, 6.0), 3.0))


@pytest.fixture(scope="module")
def holed():
    """A corner, a stretch of a side and a bit of the bore's wall are missing in the scan."""
    scan = scanned(40, 6, HOLES)
    params = section_params(scan)
    frame = plane_frame(np.array(params["origin"]), np.array(top_of(scan).surface.axis))
    loops, gaps = closed_over_gaps(scan, section_loops(scan, frame.origin, frame.normal))
    count = iter(range(1, 99))
    taken = [
        {
            "closed": loop.outline.closed,
            "bridged": any(p.assumed for p in loop.outline.pieces),
            "pieces": [
                {"id": f"e{next(count)}", "kind": p.kind, "start": p.start, "end": p.end, "mid": p.mid}
                for p in loop.outline.pieces
            ],
        }
        for loop in loops
    ]
    return scan, over(params, taken), gaps


def test_an_outline_closed_over_gaps_is_a_profile_and_says_what_of_it_is_assumed(holed):
    scan, params, gaps = holed
    assert sorted(g.how for g in gaps) == ["meet", "one piece", "one piece"]
    outcome = rebuild(params, scan)
    assert sorted(e.kind for e in outcome.product.entities) == ["arc", *["line"] * 4] and outcome.problems == ()
    assert outcome.facts.profiles == 1
    assert outcome.facts.area == pytest.approx(40 * 30 - np.pi * 36, rel=3e-3)
    # A corner with five millimetres of both its sides, eight of a side, and what three millimetres about a place of the bore take.
    assert outcome.facts.assumed == pytest.approx(10 + 8 + 6, abs=3)


def test_a_bridged_outline_follows_the_scan_and_not_where_it_was_bridged(holed):
    _, params, _ = holed
    outcome = rebuild(params, scanned(41, 6.3, HOLES))
    assert outcome.facts.area == pytest.approx(41 * 30 - np.pi * 6.3**2, rel=4e-3)
    # A scan without the gaps leaves nothing assumed.
    whole = rebuild(params, scanned(40, 6))
    assert whole.facts.assumed == 0 and whole.facts.area == pytest.approx(40 * 30 - np.pi * 36, rel=3e-3)


def test_an_assumed_piece_stays_where_it_was_taken(holed):
    scan, params, _ = holed
    loop = params["taken"][0]
    pieces = [dict(p) for p in loop["pieces"]]
    # A long side is said to be assumed, half a millimetre outside of where the scan has it.
    k = next(i for i, p in enumerate(pieces) if abs(p["start"][0] - p["end"][0]) < 0.1 and p["start"][0] < 0)
    for i, end in ((k, "start"), (k, "end"), (k - 1, "end"), ((k + 1) % len(pieces), "start")):
        pieces[i][end] = (pieces[i][end][0] - 0.5, pieces[i][end][1])
    pieces[k]["assumed"] = True
    moved = rebuild(over(params, [{**loop, "pieces": pieces}, *params["taken"][1:]]), scan)
    assert moved.facts.area == pytest.approx(40 * 30.5 - np.pi * 36, rel=3e-3)


def test_of_a_thin_wall_each_side_keeps_its_own_points():
    """A frame 2 mm thick, with a hole in its outer wall: the inner loop runs everywhere beside the outer one."""
    frame = [*rectangle(40, 30), *(replace(e, id=f"i{e.id}") for e in rectangle(36, 26, at=(2, 2)))]
    solid = exact_arrays(prism(frame, 10).shape)
    made = virtual_scan(
        solid, ScanSettings(spacing_mm=0.8, noise_mm=0.015, seed=2, dropouts=(((20.0, 0.0, 6.0), 3.0),))
    )
    scan = prepare_scan(raw_scan(made.vertices[made.facets]), 1.0)
    at = plane_frame(np.array([20.0, 15.0, 6.0]), UP)
    raw = section_loops(scan, at.origin, at.normal)
    loops, _ = closed_over_gaps(scan, raw)
    assert [loop.outline.closed for loop in loops] == [True, True]
    outer = loops[0]
    pieces = [
        {"id": f"e{k + 1}", "kind": p.kind, "start": p.start, "end": p.end, "mid": p.mid}
        for k, p in enumerate(outer.outline.pieces)
    ]
    taken = TakenLoop.model_validate({"closed": True, "bridged": True, "pieces": pieces})
    lines = [(loop.line, loop.outline.closed) for loop in raw]
    (again,) = refit_loops([taken], lines, at, 0.03, scan.edge_mm)
    assert loop_of(again, at).area == pytest.approx(1200, rel=2e-3)


def test_where_to_cut_prefers_what_closes_and_says_what_that_assumes(holed, unhurried):
    scan, _, _ = holed
    best, *rest = ranked_cuts(scan, np.zeros(3), UP)
    assert best.open_share == 0 and all(c.open_share == 0 for c in rest)
    assert all((c.gaps > 0) == (c.assumed_share > 0) for c in (best, *rest))
    assert any(c.gaps for c in (best, *rest)) and all(c.assumed_share < 0.5 for c in rest)


def test_a_size_that_is_asked_for_wins_over_what_the_scan_says(first):
    params = over(first[1], first[1]["taken"], relate=True)
    better = scanned(41, 6.3)
    lines = [p for loop in params["taken"] for p in loop["pieces"] if p["kind"] == "line"]
    side = max(lines, key=lambda p: math.dist(p["start"], p["end"]))["id"]
    sized = params | {
        "sizes": [{"kind": "length", "of": [side], "name": "width"}],
        "lengths": {"width": {"text": "45 mm", "mark": "caliper"}},
    }
    products = {"scan": ScanProduct(better), "plane": top_of(better)}
    wide = run("sketch", sized, products, offset=-4.0, turn=0.0, **{"lengths[width]": 45.0})
    assert wide.facts.area == pytest.approx(45 * 30 - np.pi * 6.3**2, rel=3e-3)


def pieces_of(outline) -> list[dict]:
    return [p.model_dump(mode="json") for p in taken_pieces(outline)]


def shaft(radius: float, bore: float):
    """A stepped shaft about z: R 6 up to 12 mm, then `radius` up to 30 mm, with a bore or without."""
    ends = [(0.0, bore), (0.0, 6.0), (12.0, 6.0), (12.0, radius), (30.0, radius), (30.0, bore)]
    ring = [*ends, ends[0]] if bore else ends
    return turned(np.array(ring), closed=bore > 0, noise=0.02)


@pytest.mark.parametrize("bore", [3.0, 0.0])
def test_a_turned_profile_is_a_sketch_beside_its_axis_that_follows_the_scan(bore):
    scan = shaft(9.0, bore)
    frame = radial_frame(np.zeros(3), UP, np.array([1.0, 0, 0]))
    lines = scan_lines(scan, frame, "radial").lines
    found = outlines_of(scan, lines, frame)
    # What ends on the axis is closed along it, and the line there is assumed.
    (loop,) = closed_along_axis(found, lines, frame, 0.02, scan.edge_mm)
    assert loop.outline.closed and [p.kind for p in loop.outline.pieces] == ["line"] * 6
    assert [bool(p.assumed) for p in loop.outline.pieces].count(True) == (0 if bore else 1)
    axis = Place("axis", (0.0, 0.0, 0.0), (0.0, 0.0, 1.0))
    pieces = [
        p | {"assumed": bool(q.assumed)} for p, q in zip(pieces_of(loop.outline), loop.outline.pieces, strict=True)
    ]
    params = {
        "scan": {"id": "s"},
        "source": "radial",
        "axis": {"id": "a"},
        "origin": [0, 0, 0],
        "u_axis": [1, 0, 0],
        "pose": np.eye(4).tolist(),
        **drawn_over([{"closed": True, "bridged": not bore, "pieces": pieces}]),
    }
    for built, radius in ((scan, 9.0), (shaft(9.2, bore), 9.2)):
        made = run("sketch", params, {"scan": ScanProduct(built), "axis": axis}, offset=0.0, turn=0.0)
        assert made.facts.solved and made.facts.profiles == 1 and made.problems == ()
        assert made.facts.area == pytest.approx(12 * (6 - bore) + 18 * (radius - bore), rel=3e-3)
        assert made.facts.runout < 0.05 and made.facts.seen > 0.9 and made.facts.reach is None
        assert made.product.frame.u == pytest.approx(UP) and made.product.frame.v == pytest.approx([1, 0, 0])
        about = {"sketch": {"id": "s"}, "axis": {"id": "a"}}
        body = run("revolve", about, {"sketch": made.product, "axis": axis}, angle=360.0)
        volume = np.pi * (12 * (36 - bore**2) + 18 * (radius**2 - bore**2))
        assert volume_of(body, "step-000") == pytest.approx(volume, rel=3e-3)


def test_a_shadow_is_a_sketch_that_follows_the_scan(first):
    scan, section = first
    axes = plane_frame(np.array(section["origin"]), np.array(top_of(scan).surface.axis), np.array(section["u_axis"]))
    loops = outlines_of(scan, scan_lines(scan, axes, "silhouette").lines, axes)
    outer = max(loops, key=lambda loop: loop.area)
    params = over(section, [{"closed": True, "pieces": pieces_of(outer.outline)}]) | {"source": "silhouette"}
    for built, width in ((scan, 40), (scanned(41, 6.3), 41)):
        made = rebuild(params, built)
        assert made.facts.profiles == 1 and made.facts.reach is None
        assert made.facts.area == pytest.approx(width * 30, rel=5e-3)


def test_beside_no_axis_there_is_no_turned_profile(first):
    with pytest.raises(ContourError) as caught:
        run("sketch", {"source": "radial"}, {}, offset=0.0, turn=0.0)
    assert caught.value.problem.where.param == "axis"
