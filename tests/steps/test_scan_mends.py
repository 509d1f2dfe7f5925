"""Each mend as a step of its own, on a sphere that is spoilt in just the way the step is for."""

import numpy as np
import pytest

from contour.mesh.facets import Mesh, mesh_of_soup
from contour.mesh.prepare import PreparedScan, mesh_of, prepare_mesh
from contour.mesh.topology import signed_volume
from contour.recipe.problem import ContourError
from contour.recipe.values import facets_to_bytes
from tests.conftest import cube
from tests.shapes import punched, sphere
from tests.steps.test_scan_steps import run

BALL = sphere(32, 20.0)
WHOLE = signed_volume(BALL.vertices, BALL.facets)


def scan_of(mesh: Mesh) -> PreparedScan:
    return prepare_mesh(mesh, pose=np.eye(4), raw_facets=len(mesh.facets))


def with_soup(*parts: np.ndarray) -> Mesh:
    corners = np.vstack([BALL.vertices[BALL.facets], *parts])
    return mesh_of_soup(corners, np.arange(len(corners)))


def mended(out) -> Mesh:
    return mesh_of(out.product.scan)


def volume(mesh: Mesh) -> float:
    return signed_volume(mesh.vertices, mesh.facets)


def closed(mesh: Mesh) -> bool:
    return bool((mesh.across() >= 0).all())


@pytest.mark.parametrize("reach", [None, "0.01 mm"])
def test_weld_closes_a_slit(reach):
    corners = BALL.vertices[BALL.facets].copy()
    upper = corners.mean(axis=1)[:, 2] > 0
    corners[upper] += [0, 0, 0.004]
    slit = mesh_of_soup(corners, np.arange(len(corners)))
    assert not closed(slit)
    out = run("weld", scan_of(slit), **({"reach": {"text": reach}} if reach else {}))
    assert closed(mended(out))
    assert 0.0019 < out.facts.moved < 0.0041
    assert volume(mended(out)) == pytest.approx(WHOLE, rel=1e-3)


def test_weld_does_not_close_what_lies_farther_than_its_reach():
    corners = BALL.vertices[BALL.facets].copy()
    corners[corners.mean(axis=1)[:, 2] > 0] += [0, 0, 0.5]
    out = run("weld", scan_of(mesh_of_soup(corners, np.arange(len(corners)))), reach={"text": "0.1 mm"})
    assert not closed(mended(out))
    with pytest.raises(ContourError) as caught:
        run("weld", scan_of(BALL), reach={"text": "0 mm"})
    assert caught.value.problem.where.param == "reach"


def test_orient_turns_what_faces_inwards_and_says_how_many():
    facets = BALL.facets.copy()
    facets[100:160] = facets[100:160, ::-1]
    out = run("orient", scan_of(Mesh(BALL.vertices, facets, BALL.source)))
    assert out.facts.changed == 60
    assert volume(mended(out)) == pytest.approx(WHOLE)
    inside_out = Mesh(BALL.vertices, BALL.facets[:, ::-1].copy(), BALL.source)
    out = run("orient", scan_of(inside_out))
    assert out.facts.changed == len(BALL.facets)
    assert volume(mended(out)) == pytest.approx(WHOLE)


def test_drop_takes_each_kind_only_when_it_is_asked():
    crumb = cube((0.4, 0.4, 0.4)) + [40.0, 0, 0]
    repeated = BALL.vertices[BALL.facets[[5, 50, 500]]]
    scan = scan_of(with_soup(crumb, repeated))
    every = run("drop", scan)
    assert every.facts.islands == 1
    assert len(every.product.scan.facets) == len(BALL.facets)
    assert volume(mended(every)) == pytest.approx(WHOLE)
    kept = run("drop", scan, islands=False)
    assert len(kept.product.scan.facets) == len(BALL.facets) + 12
    only = run("drop", scan, repeated=False)
    assert only.facts.islands == 1
    with pytest.raises(ContourError) as caught:
        run("drop", scan, share={"text": "1.5"})
    assert caught.value.problem.where.param == "share"


def test_split_parts_two_bodies_that_touch_in_a_point_and_along_an_edge():
    for shift in ([10.0, 10, 10], [10.0, 10, 0]):
        corners = np.vstack([cube((10, 10, 10)), cube((10, 10, 10)) + shift])
        touching = mesh_of_soup(corners, np.arange(24))
        out = run("split", scan_of(touching))
        made = mended(out)
        assert out.facts.changed > 0
        assert closed(made)
        assert volume(made) == pytest.approx(2000, rel=0.02)
        # Written as a file with one place per corner, they stay apart.
        again = mesh_of_soup(made.vertices[made.facets], np.arange(len(made.facets)))
        assert len(again.vertices) == len(made.vertices)
        assert closed(again)


def spiked() -> Mesh:
    vertices = BALL.vertices.copy()
    vertices[777] *= 1.6
    return Mesh(vertices, BALL.facets, BALL.source)


def test_patch_takes_a_spike_off_and_moves_nothing_else():
    out = run("patch", scan_of(spiked()))
    made = mended(out)
    assert not out.problems
    radius = np.linalg.norm(made.vertices, axis=1)
    assert radius.max() < 20.2
    assert closed(made)
    assert volume(made) == pytest.approx(WHOLE, rel=2e-3)
    kept = np.isin(BALL.vertices.view("f8,f8,f8"), made.vertices.copy().view("f8,f8,f8")).ravel()
    away = np.linalg.norm(BALL.vertices - BALL.vertices[777], axis=1)
    assert kept[away > 8].all()


def test_patch_leaves_a_spike_when_only_folds_are_asked_for():
    out = run("patch", scan_of(spiked()), spikes=False, folds=False)
    assert np.linalg.norm(mended(out).vertices, axis=1).max() == pytest.approx(32.0)
    assert [p.code for p in out.problems] == ["unchanged"]


@pytest.mark.parametrize("shape", ["curved", "flat"])
def test_fill_follows_the_sphere_or_stays_flat(shape):
    scan = scan_of(punched(BALL, (0, 0, 20), 7.0))
    out = run("fill", scan, shape=shape)
    made = mended(out)
    assert closed(made)
    fresh = made.vertices[len(scan.vertices) :]
    radius = np.linalg.norm(fresh, axis=1)
    if shape == "curved":
        assert np.abs(radius - 20).max() < 0.35
    else:
        assert fresh[:, 2].max() < 19.2  # the rim's height, no bulge
    assert (out.product.scan.source_facet < 0).sum() == len(made.facets) - len(scan.facets)


def test_fill_up_to_a_length_leaves_the_larger_hole():
    two = punched(punched(BALL, (0, 0, 20), 7.0), (20, 0, 0), 2.5)
    out = run("fill", scan_of(two), which="small", longest={"text": "25 mm"})
    assert out.facts.changed == 1
    rim = np.unique(mended(out).facets[np.nonzero(mended(out).across() == -1)[0]])
    assert mended(out).vertices[rim, 2].min() > 15
    with pytest.raises(ContourError) as caught:
        run("fill", scan_of(two), which="small")
    assert caught.value.problem.where.param == "longest"


@pytest.mark.parametrize(("keep", "share"), [("outside", 0.25), ("inside", 0.75)])
def test_trim_by_a_plane_keeps_the_side_that_is_asked_for(keep, share):
    out = run("trim", scan_of(BALL), by="plane", axis="x", at={"text": "10 mm"}, keep=keep)
    made = mended(out)
    x = made.vertices[np.unique(made.facets), 0]
    assert (x.min() if keep == "outside" else -x.max()) == pytest.approx(10.0 if keep == "outside" else -10.0)
    # A zone of a sphere has the area of the cylinder around it (Archimedes).
    area = out.product.scan.vertex_areas.sum()
    assert area == pytest.approx(share * 4 * np.pi * 400, rel=0.01)


def test_trim_by_a_box_cuts_a_cap_off():
    out = run("trim", scan_of(BALL), by="box", from_z={"text": "10 mm"}, keep="inside")
    assert out.product.scan.vertex_areas.sum() == pytest.approx(2 * np.pi * 20 * 10, rel=0.01)


def test_trim_by_picks_needs_picks_and_names_them():
    with pytest.raises(ContourError) as caught:
        run("trim", scan_of(BALL))
    assert caught.value.problem.where.param == "picked"
    picked = facets_to_bytes(np.arange(100))
    out = run("trim", scan_of(BALL), blob=lambda _: picked, picked={"blob": "0" * 64, "count": 100})
    assert len(out.product.scan.facets) == len(BALL.facets) - 100
    assert out.product.scan.source_facet.min() == 100


@pytest.mark.parametrize("by", ["principal", "symmetry"])
def test_a_box_is_laid_along_its_own_axes(by):
    rng = np.random.default_rng(7)
    turn, _ = np.linalg.qr(rng.normal(size=(3, 3)))
    turn *= np.sign(np.linalg.det(turn))
    soup = np.vstack([cube((40, 24, 10))])
    from contour.mesh.reshape import refined

    fine = refined(mesh_of_soup(soup, np.arange(12)), 2.0)
    box = Mesh((fine.vertices - [20, 12, 5]) @ turn.T + [3, -8, 11], fine.facets, fine.source)
    out = run("align", scan_of(box), by=by)
    size = np.sort(np.ptp(out.product.scan.vertices, axis=0))
    if by == "principal":
        assert size == pytest.approx([10, 24, 40], abs=1e-6)
    else:
        assert np.abs(np.ptp(out.product.scan.vertices[:, 0]) - np.array([10, 24, 40])).min() < 0.01
        x = out.product.scan.vertices[:, 0]
        assert x.max() == pytest.approx(-x.min(), abs=0.01)


def test_rescale_brings_every_length_to_size_and_refuses_a_wrong_unit():
    out = run("rescale", scan_of(BALL), factor={"text": "1 / 1.003"})
    assert volume(mended(out)) == pytest.approx(WHOLE / 1.003**3, rel=1e-9)
    assert out.facts.moved == pytest.approx(20 * (1 - 1 / 1.003), rel=0.02)
    assert run("rescale", scan_of(BALL), factor={"text": "1"}).problems[0].code == "unchanged"
    with pytest.raises(ContourError) as caught:
        run("rescale", scan_of(BALL), factor={"text": "25.4"})
    assert caught.value.problem.where.param == "factor"
