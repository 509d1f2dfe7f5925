"""Wear that was planted is found and left out; form that was planted is measured."""

from __future__ import annotations

import numpy as np
import pytest

from contour.check.exact_arrays import exact_arrays
from contour.exchange.raw import RawScan
from contour.fit.covariance import fit_covariance
from contour.fit.form import form_of
from contour.fit.segment.whole import segment
from contour.fit.wear import worn_zone
from contour.geometry.surfaces import Surface
from contour.mesh.prepare import PreparedScan, prepare_scan
from contour.simulate.scanner import ScanSettings, virtual_scan
from demo.bracket import bracket_scan
from tests.conftest import circle, prism, rectangle

RADIUS, LENGTH, EDGE = 8.0, 18.0, 0.5


def tube(
    worn_mm: float, *, over_deg: float = 90.0, oval_mm: float = 0.0, noise: float = 0.03, seed: int = 1
) -> PreparedScan:
    """A bore whose radius has grown by up to `worn_mm` over a sector about 40 degrees, and which is oval by `oval_mm`."""
    rng = np.random.default_rng(seed)
    across, along = round(2 * np.pi * RADIUS / EDGE), round(LENGTH / EDGE)
    a, h = np.meshgrid(np.arange(across) * 2 * np.pi / across, np.arange(along + 1) * EDGE, indexing="ij")
    off = np.degrees((a - np.radians(40) + np.pi) % (2 * np.pi) - np.pi)
    worn = worn_mm * np.clip(np.cos(np.pi * off / over_deg), 0, 1) * (np.abs(off) < over_deg / 2)
    r = RADIUS + worn + oval_mm / 2 * np.cos(2 * (a - np.radians(40))) + rng.normal(0, noise, a.shape)
    points = np.stack([r * np.cos(a), r * np.sin(a), h], axis=-1).reshape(-1, 3)
    k = (np.arange(across)[:, None] * (along + 1) + np.arange(along)).ravel()
    n = ((np.arange(across)[:, None] + 1) % across * (along + 1) + np.arange(along)).ravel()
    facets = np.vstack([np.column_stack([k, k + 1, n]), np.column_stack([n, k + 1, n + 1])])  # facing the axis
    return prepare_scan(RawScan(points[facets], np.arange(len(facets)), len(facets), "stl"), 1.0)


def bore(radius: float = RADIUS + 0.03) -> Surface:
    return Surface("cylinder", (0.02, 0.02, LENGTH / 2), (0, 0, 1), radius, -1)


@pytest.mark.parametrize("seed", range(6))
def test_a_worn_sector_is_found_and_without_it_the_true_diameter_holds(seed: int) -> None:
    scan = tube(0.15, seed=seed)
    facets = np.arange(len(scan.facets))
    zone = worn_zone(scan, facets, bore())
    assert zone is not None
    angle = np.degrees(np.arctan2(*scan.centroids[zone.facets][:, [1, 0]].T))
    assert np.median(angle) == pytest.approx(40, abs=6) and 0.1 < zone.share < 0.3
    assert zone.depth_mm == pytest.approx(0.15, abs=0.05)
    rest = np.setdiff1d(facets, zone.facets)
    points = scan.vertices[np.unique(scan.facets[rest])]
    u = fit_covariance(zone.surface, points, edge_mm=scan.edge_mm)
    assert u.radius is not None
    assert abs(zone.surface.radius - RADIUS) < 2 * u.radius


@pytest.mark.parametrize("seed", range(6))
def test_a_sound_bore_has_no_worn_zone(seed: int) -> None:
    scan = tube(0.0, seed=seed)
    assert worn_zone(scan, np.arange(len(scan.facets)), bore()) is None


def test_an_oval_bore_is_out_of_round_where_it_is() -> None:
    scan = tube(0.0, oval_mm=0.2, noise=0.01)
    form = form_of(bore(RADIUS), scan.vertices, edge_mm=scan.edge_mm)
    assert form.roundness == pytest.approx(0.2, abs=0.05) and form.cylindricity is not None
    assert form.widest is not None
    a = np.degrees(np.arctan2(form.widest[1], form.widest[0])) % 180
    assert abs(a - 40) < 12
    assert form.straightness is not None and form.straightness < 0.03
    assert len(form.profile) == 72 and form.flatness is None and form.u < 0.05


def test_a_bent_plate_is_not_flat() -> None:
    x, y = np.meshgrid(np.arange(0, 60, 0.7), np.arange(0, 30, 0.7), indexing="ij")
    z = 0.1 * ((x - 30) / 30) ** 2 + np.random.default_rng(2).normal(0, 0.02, x.shape)
    points = np.column_stack([x.ravel(), y.ravel(), z.ravel()])
    form = form_of(Surface("plane", (30, 15, 0.03), (0, 0, 1), 0.0, 1), points, edge_mm=0.7)
    assert form.flatness == pytest.approx(0.1, abs=0.03)
    assert form.roundness is None and form.straightness == pytest.approx(0.09, abs=0.03)


def plate_with_worn_bore(depth: float, over_deg: float = 90.0) -> PreparedScan:
    """A plate with a bore of R 9 that a load has worn to one side, and no dent anywhere else."""
    solid = exact_arrays(prism([*rectangle(40, 40), circle(20, 20, 9)], 16).shape)
    whole = virtual_scan(solid, ScanSettings(spacing_mm=0.7, noise_mm=0.03, seed=11))
    vertices = whole.vertices.copy()
    w = vertices[:, :2] - 20
    rho = np.linalg.norm(w, axis=1)
    off = np.arctan2(w[:, 1], w[:, 0])
    inside = (rho < 9.6) & (np.abs(off) < np.radians(over_deg / 2))
    out = np.zeros_like(vertices)
    out[:, :2] = w / rho[:, None]
    vertices += (depth * np.cos(np.pi * off / np.radians(over_deg)) * inside)[:, None] * out
    return prepare_scan(RawScan(vertices[whole.facets], np.arange(len(whole.facets)), len(whole.facets), "stl"), 1.0)


def test_a_worn_sector_stays_with_its_bore_when_the_whole_scan_is_looked_at() -> None:
    found = segment(plate_with_worn_bore(0.2))
    bores = [r for r in found.regions if r.kind == "cylinder" and r.area > 20]
    assert len(bores) == 1
    assert bores[0].area == pytest.approx(2 * np.pi * 9 * 16, rel=0.1)
    assert 0.1 < bores[0].worn_area / bores[0].area < 0.35
    assert bores[0].surface is not None and bores[0].uncertainty is not None and bores[0].uncertainty.radius is not None
    assert abs(bores[0].surface.radius - 9) < 2 * bores[0].uncertainty.radius
    k = found.regions.index(bores[0])
    zone = worn_zone(plate_with_worn_bore(0.2), np.flatnonzero(found.labels == k), bores[0].surface)
    assert zone is not None and zone.depth_mm == pytest.approx(0.2, abs=0.06)
    sound = segment(plate_with_worn_bore(0.0))
    assert not sound.worn.any()


def test_wear_over_half_a_bore_does_not_make_two_bores_of_it() -> None:
    """The bore's own fit gives way to so wide a zone: only all of it together shows what is sound."""
    found = segment(plate_with_worn_bore(0.28, over_deg=180.0))
    bores = [r for r in found.regions if r.kind == "cylinder" and r.area > 20]
    assert len(bores) == 1 and bores[0].worn_area > 0.2 * bores[0].area
    assert bores[0].surface is not None and bores[0].uncertainty is not None and bores[0].uncertainty.radius is not None
    assert abs(bores[0].surface.radius - 9) < 2 * bores[0].uncertainty.radius + 0.01


def test_the_eye_of_the_demo_bracket_is_one_worn_bore() -> None:
    scan = bracket_scan()
    found = segment(
        prepare_scan(RawScan(scan.vertices[scan.facets], np.arange(len(scan.facets)), len(scan.facets), "stl"), 1.0)
    )
    bores = [
        r for r in found.regions if r.surface is not None and r.kind == "cylinder" and abs(r.surface.radius - 9) < 0.3
    ]
    assert len(bores) == 1 and bores[0].worn_area > 0.2 * bores[0].area
    assert bores[0].uncertainty is not None and bores[0].uncertainty.radius is not None
    assert abs(bores[0].surface.radius - 9) < 2 * bores[0].uncertainty.radius
