"""A toothed wheel through the API: its scan lacks some of its teeth, one sector is drawn and laid around, and all of it is checked against the whole scan."""

from __future__ import annotations

import uuid

import numpy as np
import pytest

from contour.solid.mass import volume
from tests.bench.asking import bring, edited, post, scan_id
from tests.conftest import binary_stl
from tests.wheels import scan_without, wheel

pytestmark = pytest.mark.django_db(transaction=True)
TEETH = 7
KEPT = ("kind", "start", "end", "mid", "points", "assumed")


def test_one_tooth_becomes_the_wheel(maker):
    body = wheel(TEETH, root=14, tip=18, high=8, bore=5)
    scan = scan_without(body, (((16.0, 0.0, 7.0), 4.0),))
    facets = scan.vertices[scan.facets]
    job = post(maker, "/jobs", {"upload": bring(maker, binary_stl(facets))["id"], "name": "wheel", "unit": "mm"})
    of = {"scan": {"id": scan_id(job)}}
    wall = int(np.linalg.norm(facets.mean(axis=1) - (5.0, 0.0, 4.0), axis=1).argmin())
    ids = {n: str(uuid.uuid4()) for n in ("bore", "one", "plane", "outline", "tooth", "all", "whole")}
    at = {n: {"id": i} for n, i in ids.items()}
    steps = [
        {"op": "add-step", "id": ids["bore"], "kind": "region", "params": of | {"seeds": [wall]}},
        {"op": "add-step", "id": ids["one"], "kind": "sector", "params": of | {"axis": at["bore"]}},
    ]
    told = edited(maker, job, {"op": "add-steps", "steps": steps})["build"]["result"]
    bore, one = (s["facts"] for s in told["steps"])
    assert one["alike"] == TEETH and abs(one["angle"] - 360 / TEETH) < 1e-9
    offset = f"{one['middle']} mm"
    plane = {"scan": told["scans"][scan_id(job)], "origin": bore["origin"], "normal": bore["axis"], "offset": offset}
    found = post(maker, f"/jobs/{job['id']}/section", {**plane, "fitted": True})
    (loop,) = found["loops"]
    (relation,) = loop["relations"]
    assert loop["closed"] and relation["kind"] == "turned"
    pieces = [{k: p[k] for k in KEPT} | {"id": f"e{k}"} for k, p in enumerate(loop["pieces"], 1)]
    loops = [{"closed": True, "pieces": pieces, "relations": [relation]}]
    # Let go of, it is offered again, with how far the ends are off.
    asked = {**plane, "loops": [{**loops[0], "relations": []}]}
    offers = post(maker, f"/jobs/{job['id']}/outline-relations", asked)
    assert offers[0]["kind"] == "turned" and offers[0]["off"] < 0.1 and offers[0]["rms_held"] is not None
    take = {"act": "take", "loops": loops, "within": found["tolerance"]}
    drawn = post(maker, f"/jobs/{job['id']}/drawing", {"acts": [take]})["drawing"]
    asked_for = {c["kind"] for c in drawn["constraints"]}
    assert {"equal", "angle", "on-curve"} <= asked_for
    frame = of | {"plane": at["plane"], "offset": {"text": offset, "mark": "assumed"}}
    frame |= {k: found[k] for k in ("origin", "u_axis", "pose")}
    around = {"body": at["tooth"], "bodies": [at["tooth"]], "operation": "add", "by": "circle", "axis": at["bore"]}
    high = {"sketch": at["outline"], "distance": {"text": "8 mm"}, "symmetric": True}
    kinds = {
        "plane": {"by": "across axis", "axis": at["bore"]},
        "outline": frame | drawn,
        "tooth": high,
        "all": around | {"count": {"text": str(TEETH)}},
        "whole": of | {"before": at["one"]},
    }
    names = {"outline": "sketch", "tooth": "extrude", "all": "repeat", "whole": "earlier"}
    steps = [{"op": "add-step", "id": ids[n], "kind": names.get(n, n), "params": params} for n, params in kinds.items()]
    done = edited(maker, job, {"op": "add-steps", "steps": steps})["build"]["result"]
    assert [s["status"] for s in done["steps"]] == ["ok"] * 7, [s["problems"] for s in done["steps"]]
    (made,) = done["bodies"]
    # Four faces a tooth, the bore and both ends: no seam is left where sectors meet.
    assert len(made["faces"]) == 4 * TEETH + 3
    assert made["volume"] == pytest.approx(volume(body.shape), rel=3e-3)
    assert done["fit"]["figures"]["inside_share"] > 0.97
