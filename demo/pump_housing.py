"""Pump housing: the truth model, its virtual scan, and the job that rebuilds it up to what it holds.

A round casting that the pump cover closes: a flange of 84 with five bolt holes, a pot of 60 with a room of 50 in it, and a pipe that leads into the room
from one side. The scan shows the room's wall through the open flange.
"""

from __future__ import annotations

import tempfile
import uuid
from pathlib import Path

import numpy as np

from contour.check.exact_arrays import exact_arrays
from contour.exchange.scanfile import read_scan
from contour.job.build.build import build
from contour.job.build.keep import faces_of
from contour.job.build.store import Store
from contour.mesh.prepare import prepare_scan
from contour.recipe.evidence.scan import ScanEvidence
from contour.recipe.recipe import Recipe
from contour.simulate.scanner import Pose, ScanSettings, VirtualScan, turntable, virtual_scan
from contour.solid.boolean import combine
from contour.solid.shape import NamedShape
from demo.bracket import prism, whole_circle
from demo.jobs import JobMaker, circle_radius, length

__all__ = ["FILE_NAME", "SIZES", "housing_job", "housing_scan", "pump_housing"]

FILE_NAME = "pump-housing.ply"
# mm: radii, and heights below the flange's face.
SIZES = {"flange": 42.0, "flange_h": 10.0, "pot": 30.0, "pot_h": 40.0, "room": 25.0, "room_h": 34.0}
PIPE = {"outer": 12.0, "bore": 6.0, "ends": 46.0, "low": 23.0}  # along x; its axis so far below the face
_BOLTS, _BOLT_CIRCLE, _BOLT = 5, 33.0, 2.5
_SPACE = uuid.UUID("a1d9f9c4-63c7-4a46-9f0e-5a3f0f4f8b11")
_UP, _ALONG = np.array([0.0, 0.0, 1.0]), np.array([1.0, 0.0, 0.0])


def pump_housing() -> NamedShape:
    """The whole part as it was designed; its flange's face lies on z = 0, all of it below."""
    s = SIZES
    pot = prism([whole_circle(0, 0, s["pot"], "p")], (0, 0, -s["pot_h"]), _UP, s["pot_h"], "pot")
    flange = prism([whole_circle(0, 0, s["flange"], "f")], (0, 0, -s["flange_h"]), _UP, s["flange_h"], "flange")
    body = combine(pot, flange, "add")
    pipe = prism([whole_circle(0, -PIPE["low"], PIPE["outer"], "o")], (20, 0, 0), _ALONG, PIPE["ends"] - 20, "pipe")
    body = combine(body, pipe, "add")
    room = prism([whole_circle(0, 0, s["room"], "r")], (0, 0, -s["room_h"]), _UP, s["room_h"] + 1, "room")
    body = combine(body, room, "subtract")
    bore = prism([whole_circle(0, -PIPE["low"], PIPE["bore"], "b")], (10, 0, 0), _ALONG, PIPE["ends"] - 9, "bore")
    body = combine(body, bore, "subtract")
    for k in range(_BOLTS):
        a = np.radians(36 + 72 * k)  # clear of the pipe; the cover goes on turned by 18 degrees
        x, y = _BOLT_CIRCLE * float(np.cos(a)), _BOLT_CIRCLE * float(np.sin(a))
        hole = prism([whole_circle(x, y, _BOLT, f"h{k}")], (0, 0, -15), _UP, 20, f"bolt{k}")
        body = combine(body, hole, "subtract")
    return body


def housing_scan() -> VirtualScan:
    """As it lay on the turntable, its axes those of the part: it was put down against a stop."""
    views = turntable(8, (75.0, 40.0, 8.0, -30.0, -70.0))
    settings = ScanSettings(spacing_mm=0.9, noise_mm=0.02, soften=2, views=views, pose=Pose(), seed=41)
    return virtual_scan(exact_arrays(pump_housing().shape), settings)


def housing_job(blob: str, scan_file: Path) -> Recipe:
    """Pot, flange and pipe from sections, the room and the bore taken out, holes through the flange, and what the housing holds as a body of its own."""
    evidence = ScanEvidence(id=str(uuid.uuid5(_SPACE, "scan")), name=FILE_NAME, blob=blob, format="ply", unit="mm")
    make = JobMaker(prepare_scan(read_scan(scan_file), 1.0), evidence, "housing ", pose=Pose())
    _outside(make)
    _inside(make)
    with tempfile.TemporaryDirectory(prefix="contour-") as folder:
        store = Store(Path(folder))
        store.put_blob(scan_file.read_bytes())
        result = build(make.recipe("draft"), store, with_fit=False)
        key = next(b.key for b in result.bodies if b.id == make.id("Pot"))
        flat = [f for f in faces_of(store, key) if f["kind"] == "plane"]
    top = max(flat, key=lambda f: f["centre"][2] + (0 if f["axis"][2] > 0.9 else -1e3))
    end = max(flat, key=lambda f: f["centre"][0] + (0 if f["axis"][0] > 0.9 else -1e3))
    openings = [make.face("Pot", f) for f in (top, end)]
    make.add("cavity", "What it holds", {"body": {"id": make.id("Pot")}, "openings": openings})
    return make.recipe("Pump housing, with its inner volume")


def _outside(make: JobMaker) -> None:
    make.region("Flange face", (28.0, 0.0, 0.0))
    make.region("Pipe end", (PIPE["ends"], 0.0, -PIPE["low"] + 9))
    # Below the pipe and below the room's floor: there the pot is one disc.
    make.outline("Pot outline", "Flange face", -37.0, keep=lambda loop: circle_radius(loop) > 28)
    make.extrude("Pot", "Pot outline", "37 mm", back=length("3 mm"))
    make.outline("Flange outline", "Flange face", -5.0, keep=lambda loop: circle_radius(loop) > 40)
    make.extrude("Flange", "Flange outline", "5 mm", ("Pot",), back=length("5 mm"), operation="add")
    make.outline("Pipe outline", "Pipe end", -2.5, keep=lambda loop: circle_radius(loop) > 9)
    make.extrude("Pipe", "Pipe outline", "2.5 mm", ("Pot",), back=length("19 mm"), operation="add")


def _inside(make: JobMaker) -> None:
    make.outline("Room outline", "Flange face", -7.0, keep=lambda loop: 24 < circle_radius(loop) < 26)
    make.extrude("Room", "Room outline", "10 mm", ("Pot",), back=length("27 mm"), operation="subtract")
    make.outline("Bore outline", "Pipe end", -2.5, keep=lambda loop: 5 < circle_radius(loop) < 9)
    make.extrude("Bore", "Bore outline", "5 mm", ("Pot",), back=length("24 mm"), operation="subtract")
    make.outline("Bolt outlines", "Flange face", -5.0, keep=lambda loop: 1 < circle_radius(loop) < 4)
    make.extrude(
        "Bolt holes", "Bolt outlines", "10 mm", ("Pot",), extent="through", symmetric=True, operation="subtract"
    )
