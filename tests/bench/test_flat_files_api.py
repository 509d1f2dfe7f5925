"""Flat files through the API: read as chosen and put in by the act that comes back; steps and sections as files."""

from __future__ import annotations

import json
import uuid

import ezdxf
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from contour.exchange.flat.flat_file import read_flat
from contour.exchange.flat.shapes import Arc, Line
from tests.bench.asking import client_of, edited, get, post, region_edit, scan_id
from tests.bench.test_history_api import block, read_block  # noqa: F401

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def print_file(tmp_path):
    document = ezdxf.new("R2010")
    document.header["$INSUNITS"] = 0
    space = document.modelspace()
    space.add_lwpolyline([(1, 1), (5, 1), (5, 3), (1, 3)], close=True, dxfattribs={"layer": "rim"})
    space.add_circle((3, 2), 0.5, dxfattribs={"layer": "hole"})
    space.add_text("boss", height=0.2).set_placement((3, 2))
    space.add_line((0, 0, 0), (0, 0, 4))
    document.saveas(tmp_path / "print.dxf")
    return (tmp_path / "print.dxf").read_bytes()


def read(client, job, data, name="print.dxf", status=200, **choice):
    answer = client.post(f"/api/jobs/{job['id']}/flat-file", {"file": SimpleUploadedFile(name, data), **choice})
    assert answer.status_code == status, answer.content
    return answer.json()


def test_a_file_is_asked_about_then_put_in_as_chosen(maker, job, print_file):
    first = read(maker, job, print_file)
    assert (first["unit_mm"], first["said"], first["likely"], first["size"]) == (None, False, "inch", [4, 2])
    assert [(n["name"], n["pieces"]) for n in first["layers"]] == [("rim", 4), ("hole", 1), ("0", 0)]
    assert [(o["kind"], o["at"]) for o in first["left_out"]] == [("LINE", [0, 0])]
    assert (len(first["paths"]), first["pieces"], first["words"]) == (5, 5, 1)
    chosen = read(maker, job, print_file, unit="mm", layers='["rim", "0"]', to_zero="true")
    assert chosen["unit_mm"] == 1 and chosen["pieces"] == 4
    drawn = post(maker, f"/jobs/{job['id']}/drawing", {"drawing": {}, "acts": [chosen["act"]]})
    assert drawn["regions"][0]["area"] == pytest.approx(8)
    assert min(e["at"] for e in drawn["drawing"]["entities"].values() if e["kind"] == "point") == [0, 0]
    (sheet,) = drawn["drawing"]["under"]
    assert (sheet["name"], sheet["texts"][0]["text"]) == ("print.dxf", "boss")
    step = str(uuid.uuid4())
    edited(maker, job, {"op": "add-step", "id": step, "kind": "sketch", "params": drawn["drawing"]})
    facts = next(s for s in get(maker, f"/jobs/{job['id']}")["build"]["result"]["steps"] if s["id"] == step)["facts"]
    assert facts["area"] == pytest.approx(8)


def test_all_of_it_lies_under_the_sketch(maker, job, print_file):
    found = read(maker, job, print_file, unit="mm", under="true")
    assert (found["pieces"], found["strokes"]) == (0, 5)
    drawn = post(maker, f"/jobs/{job['id']}/drawing", {"drawing": {}, "acts": [found["act"]]})
    assert not drawn["drawing"].get("entities") and len(drawn["drawing"]["under"][0]["lines"]) == 5


@pytest.mark.parametrize(
    ("name", "data", "code"),
    [
        ("print.dxf", b"not a drawing", "file-not-understood"),
        ("print.svg", b"<svg", "file-not-understood"),
        ("print.pdf", b"%PDF-1.4", "wrong-kind"),
        ("empty.dxf", b"", "file-empty"),
    ],
)
def test_what_cannot_be_read_says_so_by_name(maker, job, name, data, code):
    problem = read(maker, job, data, name, status=422)["problem"]
    assert (problem["code"], problem["where"]["file"]) == (code, name)
    assert problem["remedy"]


def test_too_much_is_told_with_the_way_out(maker, job, tmp_path):
    document = ezdxf.new("R2010")
    for k in range(2600):
        document.modelspace().add_line((k, 0), (k, 3))
    document.saveas(tmp_path / "stray.dxf")
    found = read(maker, job, (tmp_path / "stray.dxf").read_bytes(), "stray.dxf", unit="mm")
    assert found["act"] is None and "lie under" in found["refused"]["remedy"]


def test_nobody_elses_job_takes_a_file(job, print_file):
    read(client_of("visitor"), job, print_file, status=404)


def _saved(tmp_path, answer, name):
    assert answer.status_code == 200, answer.content
    (tmp_path / name).write_bytes(answer.content)
    return read_flat(tmp_path / name)


def test_a_sketch_goes_out_as_it_is_drawn(maker, job, tmp_path):
    spots = [{"at": [0, 0]}, {"at": [40, 20]}]
    acts = [
        {"act": "rectangle", "by": "corner", "spots": spots, "width": "40", "height": "20"},
        {"act": "circle", "by": "centre", "spots": [{"at": [20, 10]}, {"at": [24, 10]}]},
    ]
    kept = post(maker, f"/jobs/{job['id']}/drawing", {"drawing": {}, "acts": acts})["drawing"]
    step = str(uuid.uuid4())
    edited(maker, job, {"op": "add-step", "id": step, "kind": "sketch", "params": kept})
    for kind in ("dxf", "svg"):
        answer = maker.get(f"/api/jobs/{job['id']}/steps/{step}/flat.{kind}")
        assert answer["Content-Disposition"].endswith(f'.{kind}"')
        found = _saved(tmp_path, answer, f"out.{kind}")
        assert found.unit_mm == 1
        assert sum(isinstance(p.shape, Line) for p in found.pieces) == 4
        (ring,) = [p.shape for p in found.pieces if isinstance(p.shape, Arc)]
        assert (ring.centre, ring.radius) == (pytest.approx((20, 10)), pytest.approx(4))


def test_a_section_goes_out_with_the_cut_beside_its_pieces(maker, job, tmp_path):
    body = {"scan": scan_id(job), "origin": [0, 0, 5], "normal": [0, 0, 1], "fitted": True}
    url = f"/api/jobs/{job['id']}/section/flat.dxf"
    found = _saved(tmp_path, maker.post(url, json.dumps(body), content_type="application/json"), "cut.dxf")
    layers = {n.name: n.pieces for n in found.layers()}
    assert layers["section"] >= 4 and layers["scan"] >= 4
    assert found.unit_mm == 1


def test_an_outline_goes_out_as_it_was_built(maker, block, tmp_path):  # noqa: F811
    answer = maker.get(f"/api/jobs/{block['id']}/steps/{block['outline']}/flat.dxf")
    found = _saved(tmp_path, answer, "outline.dxf")
    assert found.pieces and {p.layer for p in found.pieces} == {"drawing"}


def test_a_step_that_is_not_flat_says_so(maker, job):
    region = region_edit(job)
    edited(maker, job, region)
    answer = maker.get(f"/api/jobs/{job['id']}/steps/{region['id']}/flat.dxf")
    assert answer.json()["problem"]["code"] == "wrong-kind"
    assert maker.get(f"/api/jobs/{job['id']}/steps/{uuid.uuid4()}/flat.dxf").json()["problem"]["code"] == "not-found"
