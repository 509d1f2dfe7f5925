"""The demo's pump cover, rebuilt from two scans that were merged: every step good, one closed solid, as large as the truth."""

from __future__ import annotations

import pytest

from contour.job.build.build import build
from contour.job.build.store import Store
from contour.solid.mass import volume
from demo.cover_job import complete_cover_job
from demo.files import COVER, made_file
from demo.pump_cover import pump_cover


@pytest.fixture(scope="module")
def built(tmp_path_factory):
    folder = tmp_path_factory.mktemp("cover")
    store = Store(folder / "store")
    upper, lower = (store.put_blob(path.read_bytes()) for path in (made_file(name, folder) for name in COVER))
    return build(complete_cover_job(upper, lower, store), store)


def test_it_ends_in_one_closed_solid_of_the_truths_size(built):
    assert {s.status for s in built.steps} == {"ok"}
    (body,) = built.bodies
    assert body.open == 0
    assert body.volume == pytest.approx(volume(pump_cover().shape), rel=0.01)


def test_its_faces_lie_on_the_merged_scan(built):
    seat = built.steps[-1].facts
    assert seat.seated >= 18 and all(row.reason for row in seat.pairs if row.status == "refused")
    assert built.fit.figures["inside_share"] > 0.85
    assert built.merged and len(built.scans) == 1
