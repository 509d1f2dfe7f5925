"""Files of solids through the API: dropped, begun with, added to a job, replaced; their edges offered, rounded, repaired and delivered."""

from __future__ import annotations

import uuid

import numpy as np
import pytest
from django.test import Client

from contour.exchange.step import write_step
from contour.solid.from_file import read_shape_file
from contour.solid.mass import volume
from tests.bench.asking import bring, client_of, edited, get, post, scan_id
from tests.bench.test_history_api import read_block, result, state  # noqa: F401
from tests.conftest import circle, facet_near, prism, rectangle

pytestmark = pytest.mark.django_db(transaction=True)

PLATE = prism([*rectangle(60, 30), circle(15, 15, 5)], 8)


def step_file(tmp_path, *bodies, unit="mm") -> bytes:
    path = tmp_path / "side_plate.step"
    write_step(path, [(name, shape.shape, None) for name, shape in bodies or (("Side plate", PLATE),)], unit=unit)
    return path.read_bytes()


@pytest.fixture
def plate(maker, tmp_path) -> dict:
    upload = bring(maker, step_file(tmp_path), "side_plate.step")
    return post(maker, "/jobs", {"upload": upload["id"], "name": "Side plate", "unit": "mm"})


def borders(client: Client, job: dict) -> tuple[str, dict]:
    body = result(client, job)["bodies"][0]
    return body["id"], get(client, f"/jobs/{job['id']}/products/{body['key']}/borders")


def rim(found: dict) -> dict:
    return next(e for e in found["edges"] if e["kind"] == "circle" and e["centre"][2] == 8)


def edge_ref(body: str, edge: dict) -> dict:
    return {"body": body, "edge": edge["name"], "kind": edge["kind"], "ends": edge["ends"], "place": edge["centre"]}


def test_a_dropped_file_says_what_it_holds_and_a_job_begins_with_it(maker, tmp_path):
    upload = bring(maker, step_file(tmp_path, unit="inch"), "side_plate.step")
    facts = upload["facts"]
    assert facts["bodies"] and facts["unit_mm"] == 25.4 and facts["doubt"] is None
    assert facts["bodies"] == [{"name": "Side plate", "colour": None, "closed": True, "faces": 7}]
    job = post(maker, "/jobs", {"upload": upload["id"], "name": "Winch", "unit": "inch"})
    (evidence,) = job["recipe"]["evidence"]
    assert (evidence["kind"], evidence["unit"]) == ("solid", None)  # the file's own word is believed
    (body,) = result(maker, job)["bodies"]
    assert body["volume"] == pytest.approx((1800 - np.pi * 25) * 8, rel=1e-6)


def test_a_damaged_file_is_refused_with_a_sentence(maker):
    upload = bring(maker, b"ISO-10303-21;\nHEADER;\nrubbish", "torn.step")
    assert upload["facts"] is None
    assert upload["problem"]["code"] == "file-not-understood" and upload["problem"]["remedy"]


def test_an_edge_is_rounded_lost_offered_again_and_repaired(maker, plate):
    body, found = borders(maker, plate)
    edge = rim(found)
    assert edge["label"].startswith("edge of side plate, face ") and edge["radius"] == 5.0
    assert any(c["label"].startswith("corner of side plate") for c in found["corners"])
    step = str(uuid.uuid4())
    params = {"edges": [edge_ref(body, edge)], "radius": {"text": "1 mm"}}
    edited(maker, plate, {"op": "add-step", "id": step, "kind": "fillet", "params": params})
    built = next(s for s in result(maker, plate)["steps"] if s["id"] == step)
    assert built["status"] == "ok" and built["handles"][0]["place"] == "radius"
    gone = {**edge_ref(body, edge), "edge": "nothing|nowhere"}
    edited(maker, plate, {"op": "set-params", "step": step, "params": {"edges": [gone]}})
    failed = next(s for s in result(maker, plate)["steps"] if s["id"] == step)
    assert (failed["problems"][0]["code"], failed["problems"][0]["where"]["param"]) == ("ref-lost", "edges[0]")
    offer = get(maker, f"/jobs/{plate['id']}/steps/{step}/repair?place=edges[0]")
    assert offer["wanted"] == "edge" and offer["parts"][0]["length"] == pytest.approx(10 * np.pi, abs=1e-3)
    mended = offer["parts"][0]["ref"]
    assert mended["edge"] == edge["name"]
    edited(maker, plate, {"op": "set-params", "step": step, "params": {"edges": [mended]}})
    assert next(s for s in result(maker, plate)["steps"] if s["id"] == step)["status"] == "ok"


def test_the_preview_says_where_its_grips_stand(maker, plate):
    body, found = borders(maker, plate)
    params = {"edges": [edge_ref(body, rim(found))], "radius": {"text": "2 mm"}}
    seen = post(maker, f"/jobs/{plate['id']}/preview", {"edit": {"op": "add-step", "kind": "fillet", "params": params}})
    (grips,) = seen["handles"].values()
    assert grips[0]["kind"] == "radius" and grips[0]["origin"][2] == pytest.approx(8)
    assert seen["bodies"][0]["view"]


def test_another_solid_comes_in_for_reference_and_is_not_delivered(maker, plate, tmp_path):
    pin = step_file(tmp_path, ("Pin", prism([circle(15, 15, 4.9)], 30)))
    upload = bring(maker, pin, "pin.step")
    job = state(maker, plate)
    body = {"version": job["version"], "upload": upload["id"], "role": "reference"}
    post(maker, f"/jobs/{plate['id']}/solids", body)
    bodies = {b["name"]: b for b in result(maker, plate)["bodies"]}
    assert bodies["Pin"]["role"] == "reference" and bodies["Side plate"]["role"] == "material"
    row = post(maker, f"/jobs/{plate['id']}/deliveries", {"kind": "step"})
    done = get(maker, f"/jobs/{plate['id']}/deliveries/{row['id']}")
    assert done["result"]["solids"] == 1
    out = maker.get(f"/api/jobs/{plate['id']}/deliveries/{row['id']}/file")
    (tmp_path / "out.step").write_bytes(b"".join(out.streaming_content))
    assert volume(read_shape_file(tmp_path / "out.step")) == pytest.approx((1800 - np.pi * 25) * 8, rel=1e-6)


def test_somebody_elses_upload_is_nobodys(maker, plate, tmp_path):
    other = client_of("other")
    upload = bring(other, step_file(tmp_path), "theirs.step")
    body = {"version": state(maker, plate)["version"], "upload": upload["id"]}
    assert post(maker, f"/jobs/{plate['id']}/solids", body, 404)["problem"]["code"] == "not-found"
    scan = {**body, "unit": "mm"}
    assert post(maker, f"/jobs/{plate['id']}/scans", scan, 404)["problem"]["code"] == "not-found"


@pytest.mark.parametrize(("height", "depth"), [(10, None), (16, 10)])
def test_a_scanned_hole_says_the_face_it_is_drilled_from_and_its_depth(maker, job, read_block, height, depth):  # noqa: F811
    """A bore of Ø 12 at (15, 15) that was scanned from z = 0 to 10, in a block that is as high as that, or higher."""
    scan, bore, body = scan_id(job), str(uuid.uuid4()), str(uuid.uuid4())
    seed = int(read_block.source_facet[facet_near(read_block, (21, 15, 5))])
    size = {"width": {"text": "100 mm"}, "depth": {"text": "100 mm"}, "height": {"text": f"{height} mm"}}
    steps = [
        {"id": bore, "kind": "region", "params": {"scan": {"id": scan}, "seeds": [seed], "surface": "cylinder"}},
        {"id": body, "kind": "primitive", "params": {"form": "block", **size}},
    ]
    edited(maker, job, {"op": "add-steps", "steps": [{"op": "add-step", **s} for s in steps]})
    key = result(maker, job)["bodies"][0]["key"]
    ask = f"/jobs/{job['id']}/mouth"
    found = post(maker, ask, {"region": bore, "bodies": {body: key}})
    face = found["face"]
    assert (found["body"], found["until"]) == (body, None)
    assert face["kind"] == "plane" and abs(face["axis"][2]) == pytest.approx(1, abs=1e-9)
    if depth is None:
        assert found["depth"] is None
    else:
        assert face["centre"][2] == pytest.approx(0, abs=1e-9)
        assert found["depth"] == pytest.approx(depth, abs=0.6)  # less than a facet's side
    params = {
        "face": {"body": body, **{k: face[k] for k in ("name", "kind", "beside")}, "place": face["centre"]},
        "by": "axes",
        "axes": [{"id": bore}],
        "diameter": {"text": "12 mm"},
        "extent": "through" if depth is None else "blind",
        "depth": {"text": "10 mm"},
        "bottom": "flat",
    }
    edited(maker, job, {"op": "add-step", "kind": "hole", "params": params})
    drilled = result(maker, job)["bodies"][0]["volume"]
    assert drilled == pytest.approx(100 * 100 * height - np.pi * 36 * 10, rel=1e-6)
    assert post(maker, ask, {"region": bore, "bodies": {}}) == {
        "body": None,
        "face": None,
        "until": None,
        "depth": None,
    }
    assert post(maker, ask, {"region": body, "bodies": {}}, 404)["problem"]["code"] == "not-found"
