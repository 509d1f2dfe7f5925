import numpy as np
import pytest
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCone, BRepPrimAPI_MakeCylinder

from contour.check.exact_arrays import exact_arrays
from contour.fit.budget import Budget
from contour.fit.region import (
    MOST_FITTED,
    corners_of,
    default_tolerance,
    grow_region,
    patch_around,
    region_of_facets,
    sampled,
)
from contour.fit.surface import fit_surface
from contour.geometry.surfaces import Surface, distances
from contour.mesh.prepare import prepare_scan
from contour.recipe.problem import ContourError
from contour.simulate.scanner import ScanSettings, virtual_scan
from demo.truth_parts import TRUTH_PARTS
from tests.conftest import facet_near, raw_scan


def noisy_cylinder(radius: float, n: int, sigma: float, span_deg: float = 360):
    rng = np.random.default_rng(4)
    axis = np.array([0.3, -0.5, 0.8]) / np.linalg.norm([0.3, -0.5, 0.8])
    u = np.cross(axis, [1.0, 0, 0])
    u /= np.linalg.norm(u)
    v = np.cross(axis, u)
    t, h = rng.uniform(0, np.radians(span_deg), n), rng.uniform(-10, 10, n)
    normals = np.cos(t)[:, None] * u + np.sin(t)[:, None] * v
    centre = np.array([3.0, -7, 11])
    return centre + h[:, None] * axis + (radius + rng.normal(0, sigma, n))[:, None] * normals, normals, centre, axis


@pytest.mark.parametrize("span", [360, 120])
def test_a_noisy_cylinder_is_found_again(span):
    points, normals, centre, axis = noisy_cylinder(8, 2000, 0.02, span)
    surface, rms = fit_surface(points, normals, kind="cylinder")
    # five standard errors; a third of the round determines the radius some eight times worse
    assert surface.radius == pytest.approx(8, abs=0.003 if span == 360 else 0.03)
    assert rms == pytest.approx(0.02, rel=0.1)
    assert abs(np.dot(surface.axis, axis)) > 1 - 1e-6
    across = np.array(surface.origin) - centre
    assert np.linalg.norm(across - (across @ axis) * axis) < (0.005 if span == 360 else 0.03)


def test_a_plane_with_outliers_is_held_by_its_many_points():
    rng = np.random.default_rng(5)
    points = np.column_stack([rng.uniform(-20, 20, (1000, 2)), rng.normal(0, 0.02, 1000)])
    points[:80, 2] += 1.0
    surface, _ = fit_surface(points, np.tile([0, 0, 1.0], (1000, 1)), kind="plane", huber_mm=0.04)
    at_origin = (
        surface.origin[2]
        - (surface.axis[0] * surface.origin[0] + surface.axis[1] * surface.origin[1]) / surface.axis[2]
    )
    assert abs(at_origin) < 0.01


def test_distances_are_positive_outside_the_material():
    bore = Surface("cylinder", (0, 0, 0), (0, 0, 1), 5.0, -1)
    assert distances(bore, np.array([[4.0, 0, 3], [6.0, 0, 3]])) == pytest.approx([1, -1])


@pytest.mark.parametrize(
    ("place", "kind", "flat_at"),
    [
        ((30, 5, 10), "plane", ([0, 0, 1], 10)),
        ((30, 5, 0), "plane", ([0, 0, -1], 0)),
        ((40, 15, 5), "plane", ([1, 0, 0], 40)),
    ],
)
def test_a_click_on_a_flat_face_grows_to_that_face(block_scan, place, kind, flat_at):
    region = grow_region(block_scan, np.array([facet_near(block_scan, place)]))
    normal, height = np.array(flat_at[0], float), flat_at[1]
    assert region.surface.kind == kind
    assert np.dot(region.surface.axis, normal) > 1 - 1e-5
    assert np.dot(region.surface.origin, normal) == pytest.approx(height, abs=0.01)
    # every facet that lies well inside that face is in, none of another face is
    away = np.abs(block_scan.centroids @ normal - height)
    inside = (away < 0.05) & (block_scan.normals @ normal > 0.95)
    assert inside[region.facets].mean() > 0.94  # the rest leans, on the rounded rim
    assert len(region.facets) > 0.8 * inside.sum()


def scanned(shape, spacing_mm: float = 0.7):
    """A scan of a solid, noise 0.02 mm."""
    made = virtual_scan(exact_arrays(shape), ScanSettings(spacing_mm=spacing_mm, noise_mm=0.02, seed=5))
    return prepare_scan(raw_scan(made.vertices[made.facets]), 1.0)


def test_a_click_on_the_rounded_edge_of_a_flat_finds_no_cylinder_that_nothing_is_as_large_as():
    """Where no plane begins, a cylinder of 400 mm took the whole flat along with its edge."""
    scan = scanned(BRepPrimAPI_MakeBox(60.0, 16.0, 9.0).Shape())
    low, high = scan.centroids.min(axis=0), scan.centroids.max(axis=0)
    beside = np.sort(np.minimum(scan.centroids - low, high - scan.centroids), axis=1)
    on_edge = np.flatnonzero((beside[:, 1] < 0.6) & (beside[:, 2] > 1.5))
    flats = 0
    for facet in on_edge[:: len(on_edge) // 150]:
        try:
            region = grow_region(scan, np.array([facet]), kinds=("plane", "cylinder"))
        except ContourError:
            continue
        assert region.surface.kind == "plane" or region.surface.radius < 20
        flats += region.surface.kind == "plane" and len(region.facets) > 200
    assert flats > 20


@pytest.mark.parametrize("width", [16.0, 5.0])
def test_clicks_all_over_a_strip_find_its_flats(width):
    """The narrow one is seven facets wide, with rounded edges on both sides: cylinders and tori bent to take them along."""
    scan = scanned(BRepPrimAPI_MakeBox(60.0, width, 9.0).Shape())
    beside = np.minimum(scan.centroids - scan.centroids.min(axis=0), scan.centroids.max(axis=0) - scan.centroids)
    on_flat = np.flatnonzero(np.sort(beside, axis=1)[:, 1] > 0.8)
    found = [grow_region(scan, np.array([f])) for f in on_flat[:: len(on_flat) // 120]]
    assert [r.surface.kind for r in found].count("plane") >= 0.97 * len(found)
    # Its inside is a line, about which the last fit turned some of them: rms of 56 sigma.
    assert max(r.rms for r in found) < 4 * scan.noise_mm


def test_a_click_on_the_rim_of_a_round_wall_finds_the_wall():
    """It found a ball of the wall's radius: a band as high as that explains."""
    scan = scanned(BRepPrimAPI_MakeCylinder(14.0, 18.0).Shape())
    c = scan.centroids
    rim = np.flatnonzero((np.hypot(c[:, 0], c[:, 1]) > 13.8) & (c[:, 2] > 16.3) & (c[:, 2] < 17.6))
    found = [grow_region(scan, np.array([f])).surface for f in rim[:: len(rim) // 60]]
    right = [s for s in found if s.kind == "cylinder" and abs(s.radius - 14) < 0.05]
    assert len(right) >= 0.8 * len(found)


def test_a_wall_with_three_degrees_of_draft_is_a_cone():
    """Patches of forty facets do not tell it from a cylinder, and a strip of one fills the band of the noise."""
    scan = scanned(BRepPrimAPI_MakeCone(15.0, 13.7, 25.0).Shape(), 0.8)
    c = scan.centroids
    wall = np.flatnonzero((np.hypot(c[:, 0], c[:, 1]) > 13) & (c[:, 2] > 4) & (c[:, 2] < 21))
    found = [grow_region(scan, np.array([f])).surface for f in wall[:: len(wall) // 40]]
    right = [s for s in found if s.kind == "cone" and abs(np.degrees(s.half_angle) - 2.977) < 0.05]
    assert len(right) >= 0.7 * len(found)


def test_a_click_anywhere_finds_a_surface_that_passes_there():
    """One click in seventeen on this part found nothing: on edges and narrow blends. What begins beside them is taken then."""
    scan = scanned(TRUTH_PARTS["davit foot"](), 1.0)
    found = []
    for facet in np.random.default_rng(5).permutation(len(scan.facets))[:80].tolist():
        try:
            found.append((facet, grow_region(scan, np.array([facet]))))
        except ContourError:
            continue
    assert len(found) >= 78
    assert max(r.rms for _, r in found) < 2 * default_tolerance(scan)
    beside = np.array([abs(distances(r.surface, scan.centroids[[facet]])[0]) for facet, r in found])
    assert np.mean(beside < scan.edge_mm) > 0.97


def test_a_click_in_the_bore_grows_to_the_bore(block_scan):
    region = grow_region(block_scan, np.array([facet_near(block_scan, (21, 15, 5))]))
    assert region.surface.kind == "cylinder"
    assert region.surface.outward == -1
    # chords and smoothing make bores come out small by some hundredths
    assert 2 * region.surface.radius == pytest.approx(12, abs=0.08)


def test_kind_tolerance_and_removed_facets_are_obeyed(block_scan):
    seed = facet_near(block_scan, (30, 5, 10))
    whole = grow_region(block_scan, np.array([seed]))
    assert (
        grow_region(block_scan, np.array([facet_near(block_scan, (21, 15, 5))]), kind="plane").surface.kind == "plane"
    )
    assert len(grow_region(block_scan, np.array([seed]), tolerance_mm=0.03).facets) < len(whole.facets)
    dab = patch_around(block_scan.across, block_scan.centroids, facet_near(block_scan, (35, 25, 10)), 3.0)
    less = grow_region(block_scan, np.array([seed]), removed=dab)
    assert not set(dab) & set(less.facets)
    assert len(less.facets) >= len(whole.facets) - 3 * len(dab)


def test_an_added_pick_brings_a_separate_piece_of_the_same_surface(drilled_block):
    from contour.check.exact_arrays import exact_arrays
    from contour.mesh.prepare import prepare_scan
    from contour.simulate.scanner import ScanSettings, virtual_scan
    from contour.solid.boolean import combine
    from tests.conftest import prism, raw_scan, rectangle

    slotted = combine(drilled_block, prism(rectangle(4, 40, at=(26, -5)), 6, z=6, prefix="s2"), "subtract")
    scan = virtual_scan(exact_arrays(slotted.shape), ScanSettings(spacing_mm=0.8, noise_mm=0.01, seed=1))
    scan = prepare_scan(raw_scan(scan.vertices[scan.facets]), 1.0)
    left, right = facet_near(scan, (5, 5, 10)), facet_near(scan, (36, 5, 10))
    one = grow_region(scan, np.array([left]))
    both = grow_region(scan, np.array([left, right]))
    assert right not in one.facets
    assert right in both.facets
    # With more to fit, a facet at the rim may fall on the other side of three sigma.
    assert len(set(one.facets) - set(both.facets)) <= 2


def test_no_surface_is_a_problem_with_its_place(block_scan):
    corner = facet_near(block_scan, (0, 0, 0))
    with pytest.raises(ContourError) as caught:
        grow_region(block_scan, np.array([corner]), tolerance_mm=1e-7)
    problem = caught.value.problem
    assert problem.code == "fit-failed"
    assert problem.where.facets == (int(block_scan.source_facet[corner]),)
    assert np.linalg.norm(np.array(problem.where.point)) < 2


def test_on_a_mesh_without_noise_two_facets_are_a_face():
    from contour.mesh.prepare import prepare_scan
    from tests.conftest import cube, raw_scan

    scan = prepare_scan(raw_scan(cube((40, 30, 10))), 1.0)
    region = grow_region(scan, np.array([facet_near(scan, (20, 15, 10))]))
    assert region.surface.kind == "plane"
    assert region.area == pytest.approx(1200)
    assert np.allclose(region.surface.axis, [0, 0, 1])
    assert region.rms == pytest.approx(0, abs=1e-9)


def test_a_spent_budget_keeps_what_is_found_and_names_what_was_not_tried(block_scan):
    seed = np.array([facet_near(block_scan, (21, 15, 5))])
    whole = grow_region(block_scan, seed)
    hasty = grow_region(block_scan, seed, budget=Budget(0.0))
    assert whole.untried == ()
    # The plane through a few facets of the bore comes first; then there was no time for what it really is.
    assert hasty.surface.kind == "plane" and "cylinder" in hasty.untried and len(hasty.facets) < len(whole.facets)


def test_corners_are_each_vertex_once_in_order(block_scan):
    facets = np.array([7, 3, 3, 90])
    assert corners_of(block_scan, facets).tolist() == np.unique(block_scan.facets[facets]).tolist()


def test_a_sample_is_even_and_leaves_few_alone():
    few = np.arange(2 * MOST_FITTED)
    assert sampled(few) is few
    many = sampled(np.arange(7 * MOST_FITTED + 3))
    assert MOST_FITTED <= len(many) <= MOST_FITTED + 1 and set(np.diff(many)) == {7}


def test_many_facets_by_hand_fit_as_well_as_all_of_them():
    """A fine half tube: more facets than the fit looks at. The size is known in closed form."""
    from contour.mesh.facets import Mesh
    from contour.mesh.prepare import prepare_mesh

    rng = np.random.default_rng(6)
    n, m = 420, 260
    t, h = np.meshgrid(np.linspace(0, np.pi, n), np.linspace(0, 60, m), indexing="ij")
    r = 25.0 + rng.normal(0, 0.01, t.shape)
    vertices = np.column_stack([(r * np.cos(t)).ravel(), (r * np.sin(t)).ravel(), h.ravel()])
    i, j = (a.ravel() for a in np.meshgrid(np.arange(n - 1), np.arange(m - 1), indexing="ij"))
    a = i * m + j
    facets = np.vstack([np.column_stack([a, a + m, a + m + 1]), np.column_stack([a, a + m + 1, a + 1])])
    scan = prepare_mesh(Mesh(vertices, facets.astype(np.int32), np.arange(len(facets))), pose=np.eye(4), raw_facets=0)
    assert len(facets) > 3 * MOST_FITTED
    found = region_of_facets(scan, np.arange(len(facets)))
    assert found.surface.kind == "cylinder" and len(found.facets) == len(facets)
    assert found.surface.radius == pytest.approx(25.0, abs=0.001)  # 0.01 mm over 30,000 places
