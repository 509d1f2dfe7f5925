"""A rough block seated on the scan of the true one: 40 x 30 x 10 with a bore of 12 at (15, 15)."""

import numpy as np
import pytest
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut
from OCP.BRepPrimAPI import BRepPrimAPI_MakeCone, BRepPrimAPI_MakeCylinder
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt
from pydantic import ValidationError

from contour.check.exact_arrays import exact_arrays
from contour.check.pairing import propose_pairs
from contour.mesh.prepare import prepare_scan
from contour.products.scan import ScanProduct
from contour.recipe.problem import Problem
from contour.simulate.scanner import ScanSettings, virtual_scan
from contour.solid.extent import bounds
from contour.solid.face_geometry import face_surface
from contour.solid.facts import face_facts
from contour.solid.shape import NamedShape, faces
from tests.conftest import circle, facet_near, prism, raw_scan, rectangle
from tests.steps.helpers import body, cylinder_region, plane_region, run, shape_of


@pytest.fixture(scope="module")
def rough():
    """Half a millimetre off everywhere, the bore too narrow."""
    return prism([*rectangle(40.9, 29.4, at=(-0.5, 0.3)), circle(15.02, 15, 5.5)], 9.4, z=0.4)


def pairs_of(scan, rough, wanted=None):
    found = propose_pairs(scan, rough, wanted=wanted)
    rows = face_facts(rough)
    return [
        {
            "face": {"body": "b", "name": rows[p.face]["name"], "kind": rows[p.face]["kind"]},
            "seeds": [int(scan.source_facet[p.seed])],
        }
        for p in found
    ]


def seat(scan, rough, pairs, products=None, names=None, tilt="3 deg"):
    params = {"scan": {"id": "s"}, "body": {"id": "b"}, "pairs": pairs, "tilt": {"text": tilt}}
    faces = {f"pairs[{i}].face": p["face"]["name"] for i, p in enumerate(pairs)} | (names or {})
    return run("seat", params, {"scan": ScanProduct(scan), "body": body(rough), **(products or {})}, **faces)


def test_all_faces_find_their_region_and_lie_on_the_truth(block_scan, rough):
    pairs = pairs_of(block_scan, rough)
    assert len(pairs) == 7
    made = seat(block_scan, rough, pairs)
    assert made.facts.seated == 7
    assert made.facts.unseated == ()
    box = bounds(shape_of(made, "b").shape)
    assert np.abs(box - [[0, 0, 0], [40, 30, 10]]).max() < 0.02
    rows = {f["name"]: f for f in face_facts(shape_of(made, "b"))}
    assert rows["s1.side[c1]"]["diameter"] == pytest.approx(12, abs=0.08)  # scans of bores read small
    assert shape_of(made, "b").names == rough.names
    for row in made.facts.pairs:
        assert row.after < 0.05
        assert row.before > 0.2
        assert row.tilt < 1


def test_what_is_not_paired_stays(block_scan, rough):
    top = next(k for k, n in enumerate(rough.names) if ".end" in n)
    made = seat(block_scan, rough, pairs_of(block_scan, rough, [top]))
    box = bounds(shape_of(made, "b").shape)
    assert box[1, 2] == pytest.approx(10, abs=0.02)
    assert box[0, 2] == pytest.approx(0.4, abs=1e-6)
    assert len(made.facts.unseated) == 6


def test_a_refused_pair_says_why_and_the_others_still_move(block_scan, rough):
    top = next(k for k, n in enumerate(rough.names) if ".end" in n)
    good = pairs_of(block_scan, rough, [top])
    side = {"face": {"body": "b", "name": "s1.side[e2]", "kind": "plane"}}
    bore = {"face": {"body": "b", "name": "s1.side[c1]", "kind": "cylinder"}}
    here = facet_near(block_scan, (30, 5, 10))
    top_seed = [int(block_scan.source_facet[here])]
    pairs = [
        *good,
        {**side, "region": {"id": "tilted"}},
        {**bore, "region": {"id": "plane"}},
        {"face": {"body": "b", "name": "s1.side[e1]", "kind": "plane"}, "seeds": top_seed},
        {"face": {"body": "b", "name": "gone", "kind": "plane"}, "seeds": top_seed},
        good[0],
        {"face": {"body": "b", "name": "s1.side[e4]", "kind": "plane"}},
    ]
    tilted = plane_region((40, 15, 5), (1, 0, 0.2))
    facets = np.sort(block_scan.source_facet[:200])
    products = {
        "pairs[1].region": type(tilted)(facets, tilted.surface, 0.0),
        "pairs[2].region": type(tilted)(facets, tilted.surface, 0.0),
    }
    lost = {"pairs[4].face": Problem(code="ref-lost", message="the plane face is no longer there")}
    made = seat(block_scan, rough, pairs, products, lost)
    assert [r.status for r in made.facts.pairs] == ["seated"] + ["refused"] * 6
    reasons = {p.where.param: p.code for p in made.problems}
    assert reasons == {
        "pairs[1].region": "too-tilted",
        "pairs[2].region": "wrong-kind",
        "pairs[3].region": "too-tilted",
        "pairs[4].face": "ref-lost",
        "pairs[5].face": "bad-params",
        "pairs[6].region": "bad-params",
    }
    assert bounds(shape_of(made, "b").shape)[1, 2] == pytest.approx(10, abs=0.02)


def test_too_few_facets_and_the_other_side_are_refused(block_scan, rough):
    side = {"face": {"body": "b", "name": "s1.side[e2]", "kind": "plane"}, "region": {"id": "r"}}
    few = plane_region((40, 15, 5), (1, 0, 0))
    made = seat(block_scan, rough, [side], {"pairs[0].region": type(few)(np.array([1, 2]), few.surface, 0.0)})
    assert made.problems[0].code == "too-few-facets"
    turned = plane_region((40, 15, 5), (-1, 0, 0))
    facets = np.sort(block_scan.source_facet[:200])
    made = seat(block_scan, rough, [side], {"pairs[0].region": type(turned)(facets, turned.surface, 0.0)})
    assert made.problems[0].code == "wrong-kind"
    bore = {"face": {"body": "b", "name": "s1.side[c1]", "kind": "cylinder"}, "region": {"id": "r"}}
    shaft = cylinder_region((15, 15, 0), (0, 0, 1), 6, outward=1)
    made = seat(block_scan, rough, [bore], {"pairs[0].region": type(shaft)(facets, shaft.surface, 0.0)})
    assert "other way" in made.problems[0].message


def test_a_pair_that_would_break_the_body_is_refused_alone(block_scan, rough):
    """The bottom is told to lie above the top: it is refused, the top still moves."""
    bottom = {
        "face": {"body": "b", "name": next(n for n in rough.names if ".start" in n), "kind": "plane"},
        "region": {"id": "r"},
    }
    top = next(k for k, n in enumerate(rough.names) if ".end" in n)
    good = pairs_of(block_scan, rough, [top])
    high = plane_region((20, 15, 30), (0, 0, -1))
    # Facets of the top: as far from the bottom as the block is high, and more than that above the seated top.
    above = np.flatnonzero(block_scan.centroids[:, 2] > 9.9)
    facets = np.sort(block_scan.source_facet[above])
    made = seat(block_scan, rough, [bottom, *good], {"pairs[0].region": type(high)(facets, high.surface, 0.0)})
    assert [r.status for r in made.facts.pairs] == ["refused", "seated"]
    assert made.problems[0].code == "body-broken"
    assert bounds(shape_of(made, "b").shape)[1, 2] == pytest.approx(10, abs=0.02)


def test_proposals_look_along_the_normal_and_leave_out_what_has_no_partner(block_scan, rough):
    far = prism(rectangle(10, 10, at=(80, 80)), 5)
    assert propose_pairs(block_scan, far) == []
    tilted = propose_pairs(block_scan, rough, tilt_deg=0.0001)
    assert len(tilted) < 7


def test_a_region_step_that_is_there_already_is_proposed(block_scan, rough):
    from contour.fit.region import grow_region

    grown = grow_region(block_scan, np.array([facet_near(block_scan, (30, 5, 10))]))
    found = propose_pairs(block_scan, rough, regions={"top-step": grown.facets}, kinds={"top-step": "plane"})
    by_face = {rough.names[p.face]: p.region for p in found}
    assert by_face[next(n for n in rough.names if ".end" in n)] == "top-step"
    assert list(by_face.values()).count("top-step") == 1


def test_a_seat_needs_pairs():
    with pytest.raises(ValidationError, match="pairs"):
        run("seat", {"scan": {"id": "s"}, "body": {"id": "b"}, "pairs": []}, {})


@pytest.fixture(scope="module")
def countersunk_scan():
    made = virtual_scan(exact_arrays(countersunk(5.0, 9.0).shape), ScanSettings(spacing_mm=0.7, noise_mm=0.02, seed=5))
    return prepare_scan(raw_scan(made.vertices[made.facets]), 1.0)


def countersunk(narrow, wide):
    """A round block of 40 across, 14 high, with a cone from above: wide at its mouth, narrow at its bottom 6 mm below."""
    block = BRepPrimAPI_MakeCylinder(20.0, 14.0).Shape()
    at = gp_Ax2(gp_Pnt(0, 0, 8), gp_Dir(0, 0, 1))
    made = BRepAlgoAPI_Cut(block, BRepPrimAPI_MakeCone(at, narrow, wide, 6.0).Shape()).Shape()
    return NamedShape(made, tuple(f"f{k}" for k in range(len(faces(made)))))


def test_a_conical_face_is_seated(countersunk_scan):
    rough = countersunk(5.4, 9.4)
    cone = next(k for k, r in enumerate(face_facts(rough)) if r["kind"] == "cone")
    pairs = pairs_of(countersunk_scan, rough, [cone])
    assert len(pairs) == 1
    made = seat(countersunk_scan, rough, pairs)
    (row,) = made.facts.pairs
    assert row.kind == "cone" and row.status == "seated" and row.after < row.before / 3
    now = face_surface(faces(shape_of(made, "b").shape)[cone])
    mouth = now.radius + (14.0 - now.at[2]) * now.along[2] * np.tan(now.half_angle)
    assert mouth == pytest.approx(9.0, abs=0.03)


def test_a_cone_of_another_angle_is_tilted_to_it(countersunk_scan):
    rough = countersunk(4.0, 9.4)
    cone = next(k for k, r in enumerate(face_facts(rough)) if r["kind"] == "cone")
    assert pairs_of(countersunk_scan, rough, [cone]) == []
    seeds = pairs_of(countersunk_scan, countersunk(5.4, 9.4), [cone])[0]
    made = seat(countersunk_scan, rough, [seeds])
    assert made.facts.refused == 1 and made.facts.pairs[0].code == "too-tilted"


@pytest.mark.parametrize(("off_mm", "status"), [(0.002, "stands"), (0.2, "refused")])
def test_a_face_that_cannot_move_but_lies_within_the_noise_is_no_refusal(block_scan, monkeypatch, off_mm, status):
    """A face among slivers (two circles fitted to one boss) cannot be moved its last micrometres: nothing is lost by that."""
    from contour.recipe.problem import ContourError
    from contour.solid import move_what_can

    block = prism([*rectangle(40, 30), circle(15, 15, 6)], 10 + off_mm)
    top = next(k for k, n in enumerate(block.names) if ".end" in n)
    resurfaced = move_what_can.resurface

    def held(body, moves):
        if top in moves:
            raise ContourError("body-broken", "moving the faces leaves the solid open or invalid")
        return resurfaced(body, moves)

    monkeypatch.setattr(move_what_can, "resurface", held)
    made = seat(block_scan, block, pairs_of(block_scan, block))
    row = next(r for r in made.facts.pairs if ".end" in r.face)
    assert row.status == status and "open or invalid" in row.reason
    assert row.after == row.before and row.offset == pytest.approx(-off_mm, abs=0.005)
    assert (made.facts.seated, made.facts.standing, made.facts.refused) == (
        (6, 1, 0) if status == "stands" else (6, 0, 1)
    )
    assert len(made.problems) == made.facts.refused  # what stands is no problem of the step
    assert any(".end" in name for name in made.facts.unseated)
