"""PLY, 3MF and packed files. Truth is a cube, as other writers would write it: none of these files comes from our own."""

import gzip
import io
import struct
import zipfile

import numpy as np
import pytest

from contour.exchange.mesh_out import write_mesh
from contour.exchange.scanfile import read_scan
from contour.mesh.health import inspect_scan
from contour.recipe.problem import ContourError
from tests.conftest import CUBE_CORNERS, CUBE_FACETS, ascii_stl, binary_stl, cube

QUADS = [(0, 2, 3, 1), (4, 5, 7, 6), (0, 1, 5, 4), (2, 6, 7, 3), (0, 4, 6, 2), (1, 3, 7, 5)]


def put(folder, name, data):
    path = folder / name
    path.write_bytes(data if isinstance(data, bytes) else data.encode())
    return path


def ply_head(form, vertices=8, faces=12, extra="", kind="float", index="uchar int"):
    return (
        f"ply\nformat {form} 1.0\ncomment made by hand\nelement vertex {vertices}\nproperty {kind} x\nproperty {kind} y\n"
        f"property {kind} z\n{extra}element face {faces}\nproperty list {index} vertex_indices\nend_header\n"
    )


def binary_ply(order, *, quads=False, extra=False):
    faces = QUADS if quads else CUBE_FACETS.tolist()
    form = {"<": "binary_little_endian", ">": "binary_big_endian"}[order]
    out = ply_head(form, faces=len(faces), extra="property uchar red\n" if extra else "").encode()
    for p in CUBE_CORNERS:
        out += struct.pack(order + "3f", *p) + (b"\x80" if extra else b"")
    for f in faces:
        out += struct.pack(order + "B", len(f)) + struct.pack(f"{order}{len(f)}i", *f)
    return out


def ascii_ply():
    rows = [" ".join(f"{c:g}" for c in p) for p in CUBE_CORNERS]
    rows += [f"3 {a} {b} {c}" for a, b, c in CUBE_FACETS.tolist()]
    return ply_head("ascii") + "\n".join(rows) + "\n"


def model(unit="millimeter", *, build='<item objectid="1"/>', more="", facets=CUBE_FACETS):
    points = "".join(f'<vertex x="{x}" y="{y}" z="{z}"/>' for x, y, z in CUBE_CORNERS)
    faces = "".join(f'<triangle v1="{a}" v2="{b}" v3="{c}"/>' for a, b, c in facets)
    return (
        f'<?xml version="1.0"?><model unit="{unit}" xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02"><resources>'
        f'<object id="1"><mesh><vertices>{points}</vertices><triangles>{faces}</triangles></mesh></object>{more}</resources>'
        f"<build>{build}</build></model>"
    )


def package(text, part="3D/3dmodel.model", **others):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as z:
        z.writestr(part, text)
        for name, data in others.items():
            z.writestr(name.replace("__", "/"), data)
    return out.getvalue()


GOOD = {
    "ascii.ply": ascii_ply(),
    "little.ply": binary_ply("<"),
    "big.ply": binary_ply(">"),
    "quads.ply": binary_ply("<", quads=True),
    "coloured.ply": binary_ply(">", extra=True),
    "crlf.ply": ascii_ply().replace("\n", "\r\n"),
    "part.3mf": package(model()),
    "placed.3mf": package(model(build='<item objectid="1" transform="0 1 0 -1 0 0 0 0 1 5 6 7"/>')),
    "assembly.3mf": package(
        model(
            build='<item objectid="2"/>',
            more='<object id="2"><components><component objectid="1"/></components></object>',
        )
    ),
    "mirrored.3mf": package(model(build='<item objectid="1" transform="-1 0 0 0 1 0 0 0 1 0 0 0"/>')),
    "no build.3mf": package(model(build="")),
    "scan.stl.gz": gzip.compress(binary_stl(cube())),
    "text.stl.gz": gzip.compress(ascii_stl(cube()).encode()),
    "scan.zip": package(ascii_stl(cube()), "folder/scan.stl", **{"readme.txt": "about it"}),
    "package.3mf.gz": gzip.compress(package(model())),
}


@pytest.mark.parametrize("name", GOOD)
def test_every_way_to_write_a_cube_is_a_cube(tmp_path, name):
    facts = inspect_scan(read_scan(put(tmp_path, name, GOOD[name])), 1.0)
    assert (facts.facets, facts.vertices, facts.closed) == (12, 8, True)
    assert facts.volume == pytest.approx(1.0)
    assert not any("inwards" in w for w in facts.warnings)
    assert not [d for d in facts.defects if d.blocking]


@pytest.mark.parametrize(
    ("unit", "size"), [("inch", 25.4), ("meter", 1000), ("foot", 304.8), ("micron", 0.001), ("centimeter", 10)]
)
def test_the_unit_of_a_3mf_is_honoured(tmp_path, unit, size):
    from contour.recipe.formula import LENGTH_UNITS

    raw = read_scan(put(tmp_path, "part.3mf", package(model(unit))))
    assert inspect_scan(raw, LENGTH_UNITS[raw.unit]).size == pytest.approx([size] * 3)


@pytest.mark.parametrize("ending", ["stl", "obj", "ply", "3mf"])
@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_what_we_write_reads_back_in_its_unit(tmp_path, ending, unit):
    factor = 25.4 if unit == "inch" else 1.0
    points, facets = CUBE_CORNERS * 40.0, CUBE_FACETS.astype(np.int32)
    path = tmp_path / f"out.{ending}"
    count = write_mesh(
        path, [("Cover <1>", points, facets), ("Pin", points / 4 + 100, facets)], factor=1 / factor, unit=unit
    )
    raw = read_scan(path)
    facts = inspect_scan(raw, factor)
    assert count == facts.facets == 24
    assert facts.volume == pytest.approx(64000 + 1000, rel=1e-6)
    assert raw.unit == (unit if ending == "3mf" else None)


def test_an_unknown_ending_is_no_format(tmp_path):
    with pytest.raises(ContourError, match="no mesh format"):
        write_mesh(tmp_path / "out.xyz", [])


@pytest.mark.parametrize(("cut", "left"), [(1, 11), (40, 9), (12 * 13 + 5, 0)])
def test_a_truncated_ply_keeps_its_whole_facets(tmp_path, cut, left):
    data = binary_ply("<")[:-cut]
    if left == 0:
        with pytest.raises(ContourError) as caught:
            read_scan(put(tmp_path, "cut.ply", data))
        assert caught.value.problem.code == "no-facets"
        return
    raw = read_scan(put(tmp_path, "cut.ply", data))
    assert len(raw.corners) == left or len(raw.corners) == left - 1
    assert any(n.code == "wrong-count" for n in raw.notes)


def test_bad_indices_are_dropped_with_their_place(tmp_path):
    data = ascii_ply().replace("3 0 2 3", "3 0 2 99", 1)
    raw = read_scan(put(tmp_path, "bad.ply", data))
    assert len(raw.corners) == 11
    assert next(n for n in raw.notes if n.code == "bad-index").places == (0,)
    bad = CUBE_FACETS.copy()
    bad[3, 1] = 4000
    raw = read_scan(put(tmp_path, "bad.3mf", package(model(facets=bad))))
    assert len(raw.corners) == 11
    assert raw.facet_ids.tolist() == [0, 1, 2, *range(4, 12)]


def bomb_gz():
    return gzip.compress(b"\0" * (1 << 20)) * 600


def bomb_zip():
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as z, z.open("3D/3dmodel.model", "w", force_zip64=True) as f:
        for _ in range(520):
            f.write(b" " * (1 << 20))
    return out.getvalue()


def test_bombs_are_refused_before_they_go_off(tmp_path):
    for name, data in (("bomb.stl.gz", bomb_gz()), ("bomb.3mf", bomb_zip())):
        assert len(data) < 2_000_000
        with pytest.raises(ContourError) as caught:
            read_scan(put(tmp_path, name, data))
        assert caught.value.problem.code == "file-too-large"
        assert "unpacks" in caught.value.problem.message


REFUSED = {
    "nested.stl.gz": gzip.compress(gzip.compress(gzip.compress(gzip.compress(binary_stl(cube()))))),
    "half.stl.gz": gzip.compress(binary_stl(cube()))[:40],
    "empty.zip": package("hello", "readme.txt"),
    "two.zip": package(ascii_stl(cube()), "a.stl", **{"b.stl": ascii_stl(cube())}),
    "torn.3mf": package(model())[:300],
    "xml.3mf": package(model().replace("</model>", "")),
    "entities.3mf": package('<?xml version="1.0"?><!DOCTYPE m [<!ENTITY a "aaaa">]>' + model()[21:]),
    "ring.3mf": package(
        model(
            build='<item objectid="2"/>',
            more='<object id="2"><components><component objectid="2"/></components></object>',
        )
    ),
    "header.ply": "ply\nformat ascii 1.0\nelement vertex 3\n",
    "format.ply": ply_head("binary_middle_endian"),
    "property.ply": ply_head("ascii", kind="quaternion"),
    "liar.ply": ply_head("binary_little_endian", vertices=10**15, faces=10**15),
}


@pytest.mark.parametrize("name", REFUSED)
def test_what_cannot_be_read_is_refused_clearly(tmp_path, name):
    with pytest.raises(ContourError) as caught:
        read_scan(put(tmp_path, name, REFUSED[name]))
    assert caught.value.problem.code in ("file-not-understood", "no-facets", "file-too-large")
    assert name in caught.value.problem.line()
    assert caught.value.problem.remedy


def test_damaged_files_of_every_format_are_read_or_refused(tmp_path):
    """Seeded bit flips, cuts and splices; the benchmark `damage` does thousands through the command line."""
    rng = np.random.default_rng(5)
    sources = {
        "ply": binary_ply("<"),
        "3mf": package(model()),
        "stl": binary_stl(cube()),
        "stl.gz": gzip.compress(binary_stl(cube())),
    }
    outcomes = set()
    for ending, source in sources.items():
        for k in range(60):
            data = bytearray(source)
            if k % 3 == 0:
                for at in rng.integers(0, len(data), 3):
                    data[at] ^= 1 << int(rng.integers(8))
            elif k % 3 == 1:
                del data[int(rng.integers(1, len(data))) :]
            else:
                at = int(rng.integers(len(data)))
                data[at : at + 8] = rng.bytes(24)
            path = put(tmp_path, f"x.{ending}", bytes(data))
            try:
                inspect_scan(read_scan(path), 1.0)
                outcomes.add("read")
            except ContourError as error:
                outcomes.add("refused" if error.problem.message else "refused without a word")
    assert outcomes == {"read", "refused"}
