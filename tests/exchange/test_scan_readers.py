"""Files as they really come. Truth is always the same unit cube."""

from pathlib import Path

import numpy as np
import pytest

from contour.exchange.scanfile import read_scan
from contour.exchange.stl_out import write_stl
from contour.mesh.health import inspect_scan
from contour.recipe.problem import ContourError
from tests.conftest import CUBE_CORNERS, CUBE_FACETS, ascii_stl, binary_stl, cube

OBJ = "\n".join(
    [f"v {x} {y} {z}" for x, y, z in CUBE_CORNERS] + [f"f {a + 1} {b + 1} {c + 1}" for a, b, c in CUBE_FACETS]
)
QUADS = [(1, 3, 4, 2), (5, 6, 8, 7), (1, 2, 6, 5), (3, 7, 8, 4), (1, 5, 7, 3), (2, 4, 8, 6)]
QUAD_OBJ = "\n".join([f"v {x} {y} {z}" for x, y, z in CUBE_CORNERS] + ["f " + " ".join(map(str, q)) for q in QUADS])


def written(folder: Path, data: bytes | str, name: str = "scan.stl") -> Path:
    path = folder / name
    path.write_bytes(data.encode() if isinstance(data, str) else data)
    return path


GOOD = {
    "binary": binary_stl(cube()),
    "binary that says solid": binary_stl(cube(), header=b"solid cube"),
    "binary with too large a count": binary_stl(cube(), told=4000),
    "binary with a count of zero": binary_stl(cube(), told=0),
    "binary with spare bytes": binary_stl(cube(), tail=b"made by hand"),
    "ascii": ascii_stl(cube()),
    "ascii with crlf": ascii_stl(cube()).replace("\n", "\r\n"),
    "ascii in utf-16": ascii_stl(cube()).encode("utf-16"),
    "ascii in utf-16 without mark": ascii_stl(cube()).encode("utf-16-le"),
    "ascii with byte order mark": b"\xef\xbb\xbf" + ascii_stl(cube()).encode(),
    "ascii in capitals": ascii_stl(cube()).upper(),
    "ascii without endsolid": ascii_stl(cube()).replace("endsolid part\n", ""),
    "ascii without endfacet": ascii_stl(cube()).replace("endfacet\n", ""),
    "ascii without a name": ascii_stl(cube(), ""),
    "ascii in two solids": ascii_stl(cube()[:6], "lower") + ascii_stl(cube()[6:], "upper"),
    "obj": OBJ,
    "obj with quads": QUAD_OBJ,
    "obj with textures and normals": OBJ.replace("f ", "vn 0 0 1\nvt 0 0\nf ").replace("f 1 3 4", "f 1/1/1 3//1 4/1"),
    "obj with continued lines": OBJ.replace("f 1 3 4", "f 1 3 \\\n 4"),
}


@pytest.mark.parametrize("data", GOOD.values(), ids=GOOD.keys())
def test_every_way_to_write_a_cube_is_a_cube(tmp_path, data):
    name = "scan.obj" if isinstance(data, str) and data.lstrip().startswith("v ") else "scan.stl"
    facts = inspect_scan(read_scan(written(tmp_path, data, name)), 1.0)
    assert (facts.facets, facts.vertices) == (12, 8)
    assert facts.closed
    assert facts.volume == pytest.approx(1.0)
    assert facts.area == pytest.approx(6.0)


def test_the_content_decides_where_the_name_says_nothing(tmp_path):
    assert read_scan(written(tmp_path, OBJ, "scan.mesh")).format == "obj"
    assert read_scan(written(tmp_path, binary_stl(cube()), "scan")).format == "stl"


@pytest.mark.parametrize(
    ("data", "name"), [(OBJ, "scan.stl"), (binary_stl(cube()), "scan.obj"), (binary_stl(cube()), "scan.ply")]
)
def test_a_wrong_ending_is_refused(tmp_path, data, name):
    with pytest.raises(ContourError) as caught:
        read_scan(written(tmp_path, data, name))
    assert caught.value.problem.code == "wrong-ending"
    assert "rename" in (caught.value.problem.remedy or "")


def test_negative_obj_indices_count_back(tmp_path):
    text = OBJ
    for a, b, c in CUBE_FACETS:
        text = text.replace(f"f {a + 1} {b + 1} {c + 1}", f"f {a - 8} {b - 8} {c - 8}")
    assert inspect_scan(read_scan(written(tmp_path, text, "x.obj")), 1.0).volume == pytest.approx(1.0)


def test_a_concave_polygon_is_cut_without_spilling_over(tmp_path):
    points = [(0, 0), (4, 0), (4, 3), (2, 1), (0, 3)]  # area 8: a fan from the wrong corner would give more
    text = "\n".join([f"v {x} {y} 0" for x, y in points] + ["f 3 4 5 1 2"])
    facts = inspect_scan(read_scan(written(tmp_path, text, "x.obj")), 1.0)
    assert facts.facets == 3
    assert facts.area == pytest.approx(8.0)


BROKEN_LINES = {
    "two vertices": ("  vertex 1 1 0\n endloop", " endloop", "few-vertices", 12),
    "four vertices": ("  vertex 1 1 0\n endloop", "  vertex 1 1 0\n  vertex 0 1 0\n endloop", "many-vertices", 13),
    "not a number": ("vertex 1 1 0\n endloop", "vertex 1 one 0\n endloop", "not-finite", 12),
    "nan": ("vertex 1 1 0\n endloop", "vertex nan 1 0\n endloop", "not-finite", 12),
    "infinite": ("vertex 1 1 0\n endloop", "vertex 1 inf 0\n endloop", "not-finite", 12),
}


@pytest.mark.parametrize(("good", "bad", "code", "read"), BROKEN_LINES.values(), ids=BROKEN_LINES.keys())
def test_bad_facets_are_dropped_with_their_line(tmp_path, good, bad, code, read):
    raw = read_scan(written(tmp_path, ascii_stl(cube()).replace(good, bad, 1)))
    note = next(n for n in raw.notes if n.code == code)
    assert note.count == 1
    assert note.places == (2,)  # the first facet begins in line 2
    assert raw.facets_read == read


def test_a_truncated_ascii_file_keeps_what_is_whole(tmp_path):
    text = ascii_stl(cube())
    raw = read_scan(written(tmp_path, text[: int(len(text) * 0.6)]))
    assert 5 <= len(raw.corners) <= 8
    assert any(n.code in ("truncated", "no-endsolid") for n in raw.notes)


def test_a_truncated_binary_file_keeps_whole_facets_and_says_so(tmp_path):
    raw = read_scan(written(tmp_path, binary_stl(cube())[:-70]))
    assert len(raw.corners) == 10
    assert {n.code for n in raw.notes} == {"wrong-count", "trailing-bytes"}


def test_binary_nan_is_dropped_with_its_facet_number(tmp_path):
    corners = cube()
    corners[3, 1, 2] = np.nan
    raw = read_scan(written(tmp_path, binary_stl(corners)))
    assert raw.facets_read == 12
    assert 3 not in raw.facet_ids
    assert raw.notes[0].places == (3,)


def test_bad_obj_indices_are_dropped_with_their_line(tmp_path):
    raw = read_scan(written(tmp_path, OBJ + "\nf 1 2 99\nf 0 1 2\nf 1 2 x", "x.obj"))
    note = next(n for n in raw.notes if n.code == "bad-index")
    assert note.places == (21, 22, 23)
    assert len(raw.corners) == 12


@pytest.mark.parametrize(
    ("data", "name", "code"),
    [
        (b"", "x.stl", "file-empty"),
        (b"\x00\x01\x02" * 20, "x.stl", "file-not-understood"),
        (bytes(range(256)) * 40, "x.stl", "file-not-understood"),
        ("just some words\nand more", "x.stl", "file-not-understood"),
        ("v 0 0 0\nv 1 0 0\nv 0 1 0", "x.obj", "no-facets"),
        ("solid empty\nendsolid empty", "x.stl", "no-facets"),
        (binary_stl(cube()[:0]), "x.stl", "no-facets"),
    ],
)
def test_an_unusable_file_gets_a_clear_refusal(tmp_path, data, name, code):
    with pytest.raises(ContourError) as caught:
        read_scan(written(tmp_path, data, name))
    assert caught.value.problem.code == code
    assert name in caught.value.problem.line()
    assert caught.value.problem.remedy


def test_a_missing_file_is_named():
    with pytest.raises(ContourError, match="nowhere"):
        read_scan(Path("nowhere.stl"))


def test_what_is_written_reads_back_in_the_unit(tmp_path):
    corners = cube((25.4, 50.8, 12.7))
    write_stl(tmp_path / "out.stl", corners.reshape(-1, 3), np.arange(36).reshape(-1, 3), factor=1 / 25.4)
    facts = inspect_scan(read_scan(tmp_path / "out.stl"), 25.4)
    assert facts.size == pytest.approx((25.4, 50.8, 12.7), rel=1e-6)
    assert facts.closed
