"""Steps that change a scan, on a block whose faces are known."""

import json

import numpy as np
import pytest

from contour.geometry.rigid import moved, placement
from contour.mesh.prepare import mesh_of, placed, prepare_mesh
from contour.mesh.topology import signed_volume
from contour.products import load_product
from contour.products.scan import ScanProduct
from contour.recipe.params import dimension_at, values_in
from contour.recipe.problem import ContourError
from contour.recipe.registry import Inputs
from contour.recipe.values import facets_to_bytes
from contour.steps import KINDS
from tests.conftest import facet_near

SCAN_KINDS = sorted(k for k, kind in KINDS.items() if kind.makes == "scan")


def run(kind, scan, beside=None, blob=lambda _: b"", **params):
    model = KINDS[kind].params.model_validate({"scan": {"id": "s"}, **params})
    values = {p: v.resolve(dimension_at(type(model), p), "mm").value for p, v in values_in(model).items()}
    products = {"scan": ScanProduct(scan), **{k: ScanProduct(v) for k, v in (beside or {}).items()}}
    return KINDS[kind].run(model, Inputs("step", products, "mm", values, {}, blob))


def seed(scan, place):
    return [int(scan.source_facet[facet_near(scan, place)])]


@pytest.fixture(scope="module")
def holed(block_scan):
    """The block's scan without what lies within 3 mm of a place on its top and 2 mm of one on its side."""
    gone = np.linalg.norm(block_scan.centroids - [30, 20, 10], axis=1) < 3
    gone |= np.linalg.norm(block_scan.centroids - [20, 0, 5], axis=1) < 2
    return prepare_mesh(mesh_of(block_scan).without(gone), pose=np.eye(4), raw_facets=block_scan.raw_facets)


def test_every_scan_step_is_known():
    assert SCAN_KINDS == [
        "align",
        "counterpart",
        "decimate",
        "drop",
        "earlier",
        "fill",
        "mend",
        "merge",
        "offset-scan",
        "orient",
        "patch",
        "refine",
        "rescale",
        "sector",
        "smooth",
        "split",
        "trim",
        "weld",
    ]


@pytest.mark.parametrize(
    "kind",
    [
        k
        for k in SCAN_KINDS
        if k
        not in (
            "align",
            "merge",
            "decimate",
            "refine",
            "offset-scan",
            "trim",
            "smooth",
            "fill",
            "mend",
            "sector",
            "earlier",
        )
    ],
)
def test_a_mend_with_nothing_to_do_says_so_and_changes_nothing(block_scan, kind):
    out = run(kind, block_scan)
    assert [p.code for p in out.problems] == ["unchanged"]
    assert np.array_equal(np.sort(out.product.scan.source_facet), np.sort(block_scan.source_facet))


def test_fill_closes_all_or_the_one_that_was_picked(holed):
    out = run("fill", holed)
    assert out.facts.changed == 2
    assert signed_volume(out.product.scan.vertices, out.product.scan.facets) == pytest.approx(
        40 * 30 * 10 - np.pi * 36 * 10, rel=0.01
    )
    assert (out.product.scan.source_facet < 0).sum() == out.facts.added
    rim = np.flatnonzero((holed.across == -1).any(axis=1))
    top = rim[np.argmax(holed.centroids[rim, 2])]
    one = run("fill", holed, which="picked", rims=[int(holed.source_facet[top])])
    assert one.facts.changed == 1
    small = run("fill", holed, which="small", longest={"text": "19 mm"})
    assert small.facts.changed == 1


def test_mend_tells_before_and_after(holed):
    out = run("mend", holed, holes=True)
    assert out.facts.before["hole"] == 2
    assert "hole" not in out.facts.after
    assert [d.operation for d in out.facts.done] == ["fill holes"]
    assert out.facts.moved == 0


def test_smoothing_takes_noise_off_planes_and_keeps_size_and_edges(block_scan):
    out = run("smooth", block_scan, rounds={"text": "20"})
    made = out.product.scan

    def top(scan):
        middle = (np.abs(scan.vertices[:, 0] - 30) < 5) & (np.abs(scan.vertices[:, 1] - 15) < 10)
        return scan.vertices[(scan.vertices[:, 2] > 9.5) & middle]

    assert top(made)[:, 2].std() < 0.5 * top(block_scan)[:, 2].std()
    before, after = (signed_volume(s.vertices, s.facets) for s in (block_scan, made))
    assert after == pytest.approx(before, rel=2e-3)
    assert np.ptp(made.vertices, axis=0) == pytest.approx(np.ptp(block_scan.vertices, axis=0), abs=0.1)
    assert out.facts.moved <= 3 * block_scan.noise_mm + 1e-9


def test_decimate_to_an_error_or_a_count(block_scan):
    out = run("decimate", block_scan, to="error", error={"text": "0.12 mm"})
    assert out.facts.facets < 0.5 * len(block_scan.facets)
    assert out.facts.moved <= 0.12
    counted = run("decimate", block_scan, to="count", count={"text": "2000"})
    assert counted.facts.facets == pytest.approx(2000, rel=0.05)
    assert (counted.product.scan.source_facet >= 0).all()


def test_refine_splits_long_sides_and_moves_nothing(block_scan):
    out = run("refine", block_scan, longest={"text": "0.5 mm"})
    made = out.product.scan
    sides = np.linalg.norm(made.vertices[made.facets] - np.roll(made.vertices[made.facets], -1, axis=1), axis=2)
    assert sides.max() <= 0.5
    assert signed_volume(made.vertices, made.facets) == pytest.approx(
        signed_volume(block_scan.vertices, block_scan.facets), rel=1e-9
    )
    assert (made.across == -1).sum() == (block_scan.across == -1).sum()
    seeds = np.array(seed(block_scan, (30, 20, 10)))
    assert len(made.facets_of_source(seeds)) > 1


def test_an_offset_moves_planes_by_the_distance(block_scan):
    for distance in (0.5, -0.5):
        made = run("offset-scan", block_scan, distance={"text": f"{distance} mm"}).product.scan
        size = np.ptp(made.vertices, axis=0) - np.ptp(block_scan.vertices, axis=0)
        assert size == pytest.approx([2 * distance] * 3, abs=0.12)
    with pytest.raises(ContourError, match="nothing"):
        run("offset-scan", block_scan, distance={"text": "0 mm"})


def test_trimming_cuts_straight_along_planes_and_boxes(block_scan):
    low = run("trim", block_scan, by="plane", axis="z", at={"text": "4 mm"}, keep="inside").product.scan
    assert low.vertices[:, 2].max() == pytest.approx(4.0)
    rim = low.vertices[np.unique(low.facets[(low.across == -1).any(axis=1)])]
    assert (np.abs(rim[:, 2] - 4) < 1e-9).sum() > 50
    box = run("trim", block_scan, by="box", from_x={"text": "5 mm"}, to_x={"text": "35 mm"}, keep="inside").product.scan
    assert box.vertices[:, 0].min() == pytest.approx(5)
    assert box.vertices[:, 0].max() == pytest.approx(35)
    outside = run("trim", block_scan, by="box", from_x={"text": "5 mm"}, to_x={"text": "35 mm"}).product.scan
    assert float(box.areas.sum() + outside.areas.sum()) == pytest.approx(float(block_scan.areas.sum()))


def test_picked_facets_are_taken_away_or_kept(block_scan):
    picked = np.flatnonzero(block_scan.centroids[:, 2] > 9.5)
    data = facets_to_bytes(block_scan.source_facet[picked])
    picks = {"picked": {"blob": "c" * 64, "count": len(picked)}}
    gone = run("trim", block_scan, blob=lambda _: data, **picks)
    kept = run("trim", block_scan, blob=lambda _: data, keep="inside", **picks)
    assert gone.facts.facets == len(block_scan.facets) - len(picked)
    assert kept.facts.facets == len(picked)
    with pytest.raises(ContourError, match="nothing of the scan is left"):
        run("trim", block_scan, by="plane", at={"text": "-50 mm"}, keep="inside")


def test_an_inside_out_scan_is_turned(block_scan):
    inside_out = prepare_mesh(
        mesh_of(run("orient", block_scan, turn_over=True).product.scan),
        pose=np.eye(4),
        raw_facets=block_scan.raw_facets,
    )
    assert signed_volume(inside_out.vertices, inside_out.facets) < 0
    made = run("orient", inside_out).product.scan
    assert signed_volume(made.vertices, made.facets) > 0


@pytest.fixture(scope="module")
def tilted(block_scan):
    """The block as somebody put it on the table, and where it lies."""
    from scipy.spatial.transform import Rotation

    pose = placement(Rotation.from_euler("xyz", [12, -8, 40], degrees=True).as_matrix(), np.array([30.0, -20, 15]))
    scan = placed(block_scan, pose)
    return prepare_mesh(mesh_of(scan), pose=np.eye(4), raw_facets=scan.raw_facets), pose


def test_datums_put_the_block_on_its_own_axes(tilted):
    scan, pose = tilted

    def pick(place):
        return {"seeds": seed(scan, moved(pose, np.array([place], float))[0]), "surface": "auto"}

    out = run(
        "align",
        scan,
        primary=pick((30, 20, 10)),
        secondary=[pick((40, 15, 5))],
        also=[pick((15, 9, 5))],
        up="+z",
        along="+x",
    )
    made = out.product.scan
    # The origin: where the bore's axis meets the top, pulled towards the end face's plane only along nothing it leaves open.
    assert out.facts.kinds == ("plane", "plane", "cylinder")
    turn = made.pose[:3, :3] @ pose[:3, :3]
    assert turn == pytest.approx(np.eye(3), abs=1e-3)
    top = made.vertices[(made.smooth_normals[:, 2] > 0.99).nonzero()[0][:1]]
    assert top.shape == (1, 3)
    assert abs(out.facts.tilt) < 0.15
    corner = run("align", scan, primary=pick((30, 20, 10)), secondary=[pick((40, 15, 5))], origin="corner")
    assert corner.facts.low == pytest.approx([0, 0, 0], abs=1e-9)
    assert corner.facts.high == pytest.approx([40, 30, 10], abs=0.15)


def test_typed_values_move_freely_and_round_what_was_found(tilted):
    scan, _ = tilted
    out = run("align", scan, by="move", turn_z={"text": "90 deg"}, shift_x={"text": "1 inch"})
    assert moved(np.array(out.facts.matrix), np.array([1.0, 0, 0])) == pytest.approx([25.4, 1, 0])
    assert out.product.scan.pose == pytest.approx(np.array(out.facts.matrix))
    with pytest.raises(ContourError, match="primary"):
        run("align", scan, by="datum")


def test_two_scans_of_one_block_become_one(block_scan):
    """Halves that overlap by a third, the second put down elsewhere; found with three spots, and without any."""
    left = prepare_mesh(
        mesh_of(block_scan).without(block_scan.centroids[:, 0] > 28), pose=np.eye(4), raw_facets=block_scan.raw_facets
    )
    pose = placement(np.array([[0.0, -1, 0], [1, 0, 0], [0, 0, 1]]), np.array([50.0, 5, -8]))
    right = mesh_of(placed(block_scan, pose)).without(block_scan.centroids[:, 0] < 8)
    right = prepare_mesh(right, pose=np.eye(4), raw_facets=block_scan.raw_facets)
    spots = np.array([[15.0, 25, 10], [25, 5, 10], [20, 0, 3], [12, 30, 6]])
    pairs = [{"here": p.tolist(), "there": q.tolist()} for p, q in zip(spots, moved(pose, spots + 0.3), strict=True)]
    for given in (pairs, []):
        out = run("merge", left, {"others[0].scan": right}, others=[{"scan": {"id": "r"}, "pairs": given}])
        made = out.product.scan
        assert out.gone == ("r",)
        if given:  # the block looks the same turned over about x: a search may find either
            assert moved(np.array(out.facts.scans[0].matrix) @ pose, spots) == pytest.approx(spots, abs=0.05)
        assert out.facts.error < 0.06
        assert (made.across == -1).sum() == 0
        volume = signed_volume(made.vertices, made.facets)
        assert volume == pytest.approx(signed_volume(block_scan.vertices, block_scan.facets), rel=0.01)
        assert made.raw_facets == 2 * block_scan.raw_facets
        assert set(np.unique(made.source_facet[made.centroids[:, 0] < 5] // block_scan.raw_facets)) == {0}
        assert set(np.unique(made.source_facet[made.centroids[:, 0] > 35] // block_scan.raw_facets)) == {1}


def test_scans_that_do_not_overlap_are_not_merged(block_scan):
    left = prepare_mesh(mesh_of(block_scan).without(block_scan.centroids[:, 0] > 10), pose=np.eye(4), raw_facets=10)
    right = prepare_mesh(mesh_of(block_scan).without(block_scan.centroids[:, 0] < 30), pose=np.eye(4), raw_facets=10)
    spots = [{"here": p, "there": p} for p in ([5, 5, 10], [5, 25, 10], [2, 0, 3])]
    with pytest.raises(ContourError) as caught:
        run("merge", left, {"others[0].scan": right}, others=[{"scan": {"id": "r"}, "pairs": spots}])
    assert caught.value.problem.code == "no-overlap"


def test_a_changed_scan_is_kept_and_read_back(tmp_path, holed):
    from contour.products import save_product

    made = run("fill", holed).product
    from contour.mesh.prepare import save_prepared

    save_prepared(made.scan, tmp_path)
    again = load_product(tmp_path).scan
    assert np.array_equal(again.source_facet, made.scan.source_facet)
    assert again.raw_facets == holed.raw_facets
    assert json.loads((tmp_path / "numbers.json").read_text())["noise_mm"] == made.scan.noise_mm
    with pytest.raises(TypeError):
        save_product(object(), tmp_path)
