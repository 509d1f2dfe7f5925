"""Round angles, gaps alike, standard holes and mirror symmetry: proposed where planted, and each with a demand that can be met."""

from __future__ import annotations

import math

import numpy as np
import pytest

from contour.intent.mirror import mirrors
from contour.intent.proposals import proposals
from contour.intent.relation import FEWEST
from contour.intent.standards import _lists, _rare
from tests.intent.test_proposals import Part, flange


def of_kind(part: Part, kind: str):
    return [p for p in proposals(part.rows)[0] if p.kind == kind]


def tray(seed: int = 2, *, odd: float = 0.0) -> Part:
    """Walls, floor and four bores, alike left and right of x = 0; `odd` pushes one bore aside."""
    part = Part(seed)
    part.plane((0, 0, 0), (0, 0, -1), area=2400)
    part.plane((0, 0, 8), (0, 0, 1), area=2000)
    part.plane((-30, 0, 4), (-1, 0, 0), area=600)
    part.plane((30, 0, 4), (1, 0, 0), area=600)
    part.plane((0, -20, 4), (0, -1, 0), area=700)
    part.plane((0, 22, 4), (0, 1, 0), area=700)
    for x in (-18, 18):
        part.bore((x + (odd if x > 0 else 0), -9, 4), (0, 0, 1), 6.6)
        part.bore((x, 13, 4), (0, 0, 1), 9.3)
    return part


def test_a_mirrored_part_tells_its_plane_its_pairs_and_its_share():
    found = mirrors(tray().rows)
    best = found[0]
    assert best.share == pytest.approx(1, abs=0.02) and best.away < 3
    pairs = {tuple(sorted(p)) for p in zip(best.regions[::2], best.regions[1::2], strict=True)}
    assert pairs == {(2, 3), (6, 8), (7, 9)}
    assert best.demand is not None and best.demand.kind == "mirror" and len(best.demand.members) == 6


def test_a_bore_that_stands_aside_is_left_out_of_the_share():
    (best, *_) = mirrors(tray(odd=1.5).rows)
    assert best.share is not None and best.share < 0.999
    pairs = {tuple(sorted(p)) for p in zip(best.regions[::2], best.regions[1::2], strict=True)}
    assert (6, 8) not in pairs and (2, 3) in pairs


def test_a_lopsided_part_has_no_mirror():
    rng = np.random.default_rng(9)
    for seed in range(10):
        part = Part(seed)
        for _ in range(7):
            part.plane(rng.uniform(-40, 40, 3), rng.normal(size=3), area=float(rng.uniform(100, 3000)))
        for _ in range(3):
            part.bore(rng.uniform(-40, 40, 3), rng.normal(size=3), float(rng.uniform(5, 30)))
        assert mirrors(part.rows) == []


def test_round_angles_are_told_when_the_part_has_several():
    part = Part(5)
    for degrees in (0, 30, 45, 75, 120):
        a = math.radians(degrees)
        part.plane((20 * math.cos(a), 20 * math.sin(a), 0), (math.cos(a), math.sin(a), 0))
    found = of_kind(part, "angle")
    assert {p.proposed for p in found} >= {30.0, 45.0, 75.0}
    assert all(p.demand is not None and p.demand.kind == "angle" for p in found)
    odd = Part(6)
    for degrees in (0, 31.7, 48.2, 77.1):
        a = math.radians(degrees)
        odd.plane((20 * math.cos(a), 20 * math.sin(a), 0), (math.cos(a), math.sin(a), 0))
    assert of_kind(odd, "angle") == []


def test_clearance_holes_are_known_by_their_screw():
    (hole,) = [p for p in of_kind(flange(), "standard") if len(p.regions) == 6]
    assert hole.proposed == 6.6 and "M6" in hole.text and hole.stated == "Ø"
    assert hole.demand is not None and hole.demand.value == pytest.approx(3.3)
    part = Part(3)
    part.bore((0, 0, 0), (0, 0, 1), 27.37)
    assert of_kind(part, "standard") == []


def test_gaps_alike_are_told_only_where_no_round_value_says_it_already():
    part = Part(8)
    for z in (0.0, 7.37, 31.13, 38.50, 61.9):
        part.plane((0, 0, z), (0, 0, 1 if z else -1))
    found = of_kind(part, "equal-distance")
    assert any(p.demand is not None and p.measured == pytest.approx(7.37, abs=0.03) for p in found)
    plain = Part(8)
    for z in (0.0, 7.0, 31.0, 38.0):
        plain.plane((0, 0, z), (0, 0, 1 if z else -1))
    assert of_kind(plain, "equal-distance") == []


def test_short_arcs_join_a_direction_that_others_know_and_make_none_of_their_own():
    part = flange()
    loose = Part(11)
    loose.rows = list(part.rows)
    loose.bore((50, 0, 3), (0.012, 0, 1), 16.0, u_radius=0.05)
    last = loose.rows[-1]
    from dataclasses import replace

    loose.rows[-1] = replace(last, u=replace(last.u, direction=math.radians(1.5)))
    (group, *_) = sorted(of_kind(loose, "parallel"), key=lambda p: -len(p.regions))
    assert last.id in group.regions
    alone = Part(12)
    for k in range(3):
        alone.bore((20 * k, 0, 0), (0, 0, 1), 9 + k)
    alone.rows = [replace(f, u=replace(f.u, direction=math.radians(1.5))) for f in alone.rows]
    assert of_kind(alone, "parallel") == []


def test_every_demand_speaks_of_regions_of_its_proposal():
    for part in (flange(), flange(2), tray()):
        for p in proposals(part.rows)[0]:
            assert p.demand is not None, p.kind
            assert set(p.demand.members) <= set(p.regions)
            assert len(p.demand.members) >= FEWEST[p.demand.kind]
            if p.kind in ("bolt-circle", "row"):
                assert len(p.demand.slots) == len(p.demand.members)


def test_a_diameter_that_is_hardly_known_is_no_standard_hole() -> None:
    tapping = _lists("mm")[0]
    assert _rare(tapping, 394.12, 894.0, 0.1) is None  # a strip that fits any radius
    known = _rare(tapping, 10.2, 0.005, 0.1)
    assert known is not None and known[0] == 10.2
