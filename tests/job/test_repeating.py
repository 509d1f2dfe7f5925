"""What the regions of a whole scan tell of things that repeat, on parts made with so many."""

import numpy as np
import pytest

from contour.fit.segment.whole import Settings
from contour.geometry.rigid import moved, turned
from contour.geometry.surfaces import Surface
from contour.job.questions.repeating import RoundRegion, alike_around
from contour.job.questions.segmented import regions_of
from contour.mesh.prepare import prepare_scan
from contour.register.turned_alike import TurnedAlike
from contour.solid.tessellate import tessellate
from tests.conftest import raw_scan
from tests.register.test_placing import some_pose
from tests.wheels import holed_disc, scan_without, wheel

Z = np.array([0, 0, 1.0])


@pytest.mark.parametrize(("body", "count"), [(wheel(14), 14), (holed_disc(6), 6)])
def test_a_scanned_part_tells_how_many_are_alike_and_about_which_axis(body, count):
    pose = some_pose(count)
    out, _ = regions_of(scan_without(body, pose=pose), Settings())
    (told,) = out["alike"]
    assert told["count"] == count and told["agree"] > 0.8
    assert abs(np.dot(told["axis"], turned(pose, Z))) > 0.9999
    to = np.array(told["point"]) - moved(pose, np.zeros(3))
    assert np.linalg.norm(np.cross(to, turned(pose, Z))) < 0.05
    assert out["regions"][told["region"]]["kind"] == "cylinder"


def test_a_modelled_wheel_tells_it_too():
    mesh = tessellate(wheel(10).shape, chord_mm=0.05)
    out, _ = regions_of(prepare_scan(raw_scan(mesh.vertices[mesh.triangles]), 1.0), Settings())
    assert (out["mesh"], [a["count"] for a in out["alike"]]) == ("modelled", [10])


def test_a_part_on_which_nothing_repeats_tells_nothing(block_scan):
    assert regions_of(block_scan, Settings())[0]["alike"] == []


def test_surfaces_about_one_axis_are_asked_once_and_blends_and_planes_never(monkeypatch):
    asked = []

    def four(*given, **_):
        asked.append(tuple(given[3]))
        return TurnedAlike(4, 0.95, 0.2)

    monkeypatch.setattr("contour.job.questions.repeating.turned_alike", four)
    scan = scan_without(holed_disc(4), spacing=1.6)
    round_about = [((0, 0, 0), Z, 24.0, 900.0), ((0, 0, 5), -Z, 6.0, 100.0), ((15, 0, 0), Z, 3.0, 950.0)]
    regions = [
        RoundRegion(k, Surface("cylinder", at, tuple(along), r, 1), area)
        for k, (at, along, r, area) in enumerate(round_about)
    ]
    regions.append(RoundRegion(9, Surface("plane", (0, 0, 0), (0, 0, 1), 0.0, 1), 5000.0))
    rows = alike_around(scan, regions, modelled=False)
    assert asked == [(0, 0, 0), (15, 0, 0)]  # the disc and its bore have the most area together
    assert [r["region"] for r in rows] == [0, 2]
