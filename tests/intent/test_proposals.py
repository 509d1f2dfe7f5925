"""Proposals on made-up fits: what was planted is proposed, what was not is left alone."""

from __future__ import annotations

import math

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from contour.fit.covariance import Covariance
from contour.geometry.surfaces import Surface
from contour.intent.features import Feature, Proposal
from contour.intent.proposals import proposals
from contour.intent.rounding import Rounding, rounding_of

U_DIRECTION = math.radians(0.05)


class Part:
    """Adds features as a scan would fit them: truth plus errors of the stated size."""

    def __init__(self, seed: int = 1) -> None:
        self.rng = np.random.default_rng(seed)
        self.rows: list[Feature] = []

    def _tilted(self, axis: np.ndarray) -> np.ndarray:
        return Rotation.from_rotvec(self.rng.normal(0, U_DIRECTION / math.sqrt(2), 3)).apply(
            axis / np.linalg.norm(axis)
        )

    def plane(self, at, normal, *, area: float = 400.0) -> None:
        n = np.array(normal, float)
        n /= np.linalg.norm(n)
        p = np.array(at, float) + self.rng.normal(0, 0.004) * n
        spot = (float(p[0]), float(p[1]), float(p[2]))
        axis = self._tilted(n)
        u = Covariance(0.005, U_DIRECTION)
        self.rows.append(Feature(len(self.rows), Surface("plane", spot, tuple(axis), 0.0, 1), u, area, spot))

    def bore(self, at, axis, diameter: float, *, u_radius: float = 0.01, blend: bool = False) -> None:
        off = np.array(at, float) + self.rng.normal(0, 0.005, 3)
        spot = (float(off[0]), float(off[1]), float(off[2]))
        radius = diameter / 2 + self.rng.normal(0, u_radius)
        u = Covariance(0.006, U_DIRECTION, u_radius)
        surface = Surface("cylinder", spot, tuple(self._tilted(np.array(axis, float))), radius, -1)
        self.rows.append(Feature(len(self.rows), surface, u, 120.0, spot, blend))

    def found(self, kind: str) -> list[Proposal]:
        return [p for p in proposals(self.rows)[0] if p.kind == kind]


def flange(missing: int | None = None) -> Part:
    part = Part(3)
    part.plane((0, 0, 0), (0, 0, -1), area=3000)
    part.plane((5, 5, 12), (0, 0, 1), area=2800)
    part.bore((0, 0, 6), (0, 0, 1), 25)
    part.bore((0, 0, 20), (0, 0, 1), 32)
    for k in range(6):
        a = math.radians(15 + 60 * k)
        if k != missing:
            part.bore((30 * math.cos(a), 30 * math.sin(a), 5), (0, 0, 1), 6.6)
    return part


def test_a_flange_is_read_as_its_designer_meant_it() -> None:
    part = flange()
    (circle,) = part.found("bolt-circle")
    assert circle.regions == (4, 5, 6, 7, 8, 9) and circle.proposed == 60 and not circle.missing
    assert any(set(p.regions) == {2, 3} for p in part.found("coaxial"))
    assert any(len(p.regions) == 10 for p in part.found("parallel"))
    sizes = {p.proposed for p in part.found("round")}
    assert {25.0, 32.0, 12.0} <= sizes
    (radius,) = part.found("equal-radius")
    assert len(radius.regions) == 6 and radius.away < 3


def test_a_missing_bore_is_named_with_its_place() -> None:
    (circle,) = flange(missing=2).found("bolt-circle")
    a = math.radians(15 + 120)
    assert len(circle.missing) == 1
    assert circle.missing[0][:2] == pytest.approx((30 * math.cos(a), 30 * math.sin(a)), abs=0.1)


def test_a_row_with_a_gap_and_square_sides() -> None:
    part = Part(5)
    for x in (0, 12.5, 25, 50):
        part.bore((x, 3, 0), (0, 0, 1), 5)
    part.plane((0, -4, 0), (0, -1, 0))
    part.plane((-6, 0, 0), (-1, 0, 0))
    (row,) = part.found("row")
    assert row.measured == pytest.approx(12.5, abs=0.02) and row.proposed in (None, 12.5)
    assert row.missing[0][0] == pytest.approx(37.5, abs=0.1)
    assert len(part.found("perpendicular")) == 3


def test_walls_with_one_draft() -> None:
    part = Part(6)
    part.plane((0, 0, 20), (0, 0, 1), area=2000)
    t = math.radians(2.0)
    for k in range(4):
        a = math.pi / 2 * k
        part.plane(
            (20 * math.cos(a), 20 * math.sin(a), 10),
            (math.cos(a) * math.cos(t), math.sin(a) * math.cos(t), math.sin(t)),
        )
    (draft,) = part.found("draft")
    assert draft.proposed == 2.0 and len(draft.regions) == 5


def test_a_part_that_has_no_relations_gets_none() -> None:
    """Odd angles, odd radii, odd places: 40 such parts, hardly a proposal among them."""
    count = 0
    for seed in range(40):
        rng = np.random.default_rng(100 + seed)
        part = Part(seed)
        for _ in range(6):
            part.plane(rng.uniform(-40, 40, 3), rng.normal(size=3))
        for _ in range(4):
            part.bore(rng.uniform(-40, 40, 3), rng.normal(size=3), float(rng.uniform(5, 30)), u_radius=0.03)
        found, _ = proposals(part.rows)
        count += len(found)
    assert count <= 0.05 * 40 * 10


def test_a_value_is_round_by_itself_only_beyond_chance() -> None:
    alone = Rounding("mm", 0.0)
    assert alone.near(50.01, 0.02) == 50.0 and alone.near(12.03, 0.02) is None
    common = Rounding("mm", 0.5)
    assert common.near(12.03, 0.02) == 12.0 and common.near(12.52, 0.02) == 12.5 and common.near(12.3, 0.02) is None


def test_the_step_of_a_part_comes_from_all_of_its_sizes() -> None:
    assert rounding_of([(v, 0.02) for v in (6.0, 8.01, 12.5, 19.98, 43.0)]) == Rounding("mm", 0.5)
    assert rounding_of([(v, 0.02) for v in (6.31, 8.74, 12.12, 19.83, 43.17)]).step == 0.0
    inches = [
        (25.4 * n / 16 + e, 0.02) for n, e in ((4, 0.01), (6, -0.01), (7, 0.0), (12, 0.02), (20, 0.0), (9, -0.02))
    ]
    assert rounding_of(inches).system == "inch"


def test_an_inch_made_part_says_so() -> None:
    part = Part(8)
    for k, n in enumerate((6, 9, 11, 20, 25)):
        part.bore((20 * k, 0, 0), (0, 0, 1), 25.4 * n / 16, u_radius=0.004)
    assert proposals(part.rows)[1] == "inch"
    assert any("inch" in p.text for p in part.found("round"))


def test_a_feature_that_its_points_do_not_settle_is_left_out() -> None:
    part = flange()
    before = proposals(part.rows)
    lost = Covariance(math.inf, math.inf, math.inf)
    part.rows.append(Feature(99, Surface("cylinder", (1, 2, 3), (0, 0, 1), 12.5, -1), lost, 5.0, (1, 2, 3)))
    part.rows.append(Feature(98, Surface("cylinder", (1, 2, 3), (0, 0, 1), 77.0, -1), lost, 5.0, (1, 2, 3)))
    assert proposals(part.rows) == before
