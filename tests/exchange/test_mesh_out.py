import numpy as np
import pytest

from contour.exchange.obj_out import write_obj
from contour.exchange.scanfile import read_scan
from contour.mesh.health import inspect_scan
from tests.conftest import cube


def welded(size):
    corners = np.asarray(cube(size))
    vertices, facets = np.unique(corners.reshape(-1, 3), axis=0, return_inverse=True)
    return vertices, np.asarray(facets).reshape(-1, 3).astype(np.int32)


@pytest.mark.parametrize(("unit", "factor"), [("mm", 1.0), ("inch", 1 / 25.4)])
def test_bodies_read_back_closed_and_of_their_size(tmp_path, unit, factor):
    path = tmp_path / "parts.obj"
    first, second = welded((30, 20, 10)), welded((5, 5, 5))
    count = write_obj(path, [("Base Ø plate", *first), ("Peg", second[0] + 100, second[1])], factor=factor, unit=unit)
    facts = inspect_scan(read_scan(path), 1 / factor)
    assert count == 24
    assert facts.closed
    assert facts.components == 2
    assert facts.volume == pytest.approx(6000 + 125, rel=1e-6)
    text = path.read_text()
    assert f"lengths in {unit}" in text
    assert [line for line in text.splitlines() if line.startswith("o ")] == ["o Base_plate", "o Peg"]


def test_no_bodies_make_an_empty_file(tmp_path):
    path = tmp_path / "none.obj"
    assert write_obj(path, []) == 0
    assert path.read_text().startswith("#")
