"""The sluice-winch side plate: a supplier's STEP file without history, and the job that puts two fillets on it."""

from __future__ import annotations

import tempfile
import uuid
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

from contour.exchange.step import write_step
from contour.geometry.frames import plane_frame
from contour.recipe.evidence.solid import SolidEvidence
from contour.recipe.recipe import Recipe, Step
from contour.sketch.entities import Entity, Sketch, find_profiles
from contour.solid.boolean import combine
from contour.solid.extrude import extrude
from contour.solid.shape import NamedShape
from demo.bracket import rounded_rectangle, whole_circle

__all__ = ["FILE_NAME", "side_plate", "side_plate_job", "side_plate_step"]

FILE_NAME = "sluice-winch-side-plate.step"
WIDTH, DEPTH, THICK = 160.0, 90.0, 10.0
BOSSES = ((45.0, 45.0, 20.0, 11.0), (115.0, 45.0, 26.0, 15.0))  # x, y, radius, bore
_SPACE = uuid.UUID("5ab1e0f1-6c1e-4a57-9d54-51de9ab1e000")


def _solid(entities: list[Entity], z: float, to: float) -> NamedShape:
    sketch = Sketch(plane_frame(np.array([0, 0, z]), np.array([0, 0, 1.0]), np.array([1.0, 0, 0])), tuple(entities))
    return extrude(find_profiles(sketch), sketch.frame, start_mm=0.0, end_mm=to - z, prefix=f"p{z:g}")


def side_plate() -> NamedShape:
    """160 x 90 x 10 mm, two bosses of 8 mm for the shafts, a pocket between them, four bolt holes. Sharp all over."""
    plate = _solid(rounded_rectangle(0.0, 0.0, WIDTH, DEPTH, 12.0, "o"), 0.0, THICK)
    for k, (x, y, radius, _) in enumerate(BOSSES):
        plate = combine(plate, _solid([whole_circle(x, y, radius, f"b{k}")], THICK - 1, THICK + 8), "add")
    plate = combine(
        plate, _solid(rounded_rectangle(71.0, 22.0, 83.0, 68.0, 4.0, "k"), THICK - 4, THICK + 1), "subtract"
    )
    for k, (x, y, _, bore) in enumerate(BOSSES):
        plate = combine(plate, _solid([whole_circle(x, y, bore, f"h{k}")], -1.0, THICK + 20), "subtract")
    for k, (x, y) in enumerate(((12.0, 12.0), (148.0, 12.0), (148.0, 78.0), (12.0, 78.0))):
        plate = combine(plate, _solid([whole_circle(x, y, 4.5, f"s{k}")], -1.0, THICK + 1), "subtract")
    return plate


def side_plate_step(path: Path) -> None:
    """As the supplier sends it: one body, its colour, nothing of how it was made."""
    write_step(path, [("Side plate", side_plate().shape, "#8a9aa5")], unit="mm")


def side_plate_job(blob: str, file: Path) -> Recipe:
    """The solid as it came, fillets at the feet of both bosses and around the pocket's floor."""
    from contour.job.build.build import build
    from contour.job.build.store import Store
    from contour.solid.topology.parts import read_topology
    from contour.solid.topology.resolve import edge_faces_named

    def id_of(name: str) -> str:
        return str(uuid.uuid5(_SPACE, name))

    solid = SolidEvidence(id=id_of("file"), name=FILE_NAME, blob=blob, format="step")
    steps = [
        Step(id=id_of("solid"), kind="solid", name="Side plate", params={"file": {"id": solid.id}, "role": "material"})
    ]

    def recipe() -> Recipe:
        return Recipe(name="Winch side plate, from a supplier's STEP", evidence=(solid,), steps=tuple(steps))

    def round_off(name: str, radius: str, wanted: Callable[[dict[str, Any]], bool]) -> None:
        with tempfile.TemporaryDirectory(prefix="contour-") as folder:
            store = Store(Path(folder))
            store.put_blob(file.read_bytes())
            body = read_topology(store.folder(build(recipe(), store, with_fit=False).bodies[0].key))
            edges = [
                {
                    "body": steps[0].id,
                    "edge": e["name"],
                    "kind": e["kind"],
                    "ends": edge_faces_named(e, body["faces"]),
                    "place": e["centre"],
                }
                for e in body["edges"]
                if not e["smooth"] and wanted(e)
            ]
        params = {"edges": edges, "radius": {"text": radius, "mark": "intent", "note": "as on the drawing"}}
        steps.append(Step(id=id_of(name), kind="fillet", name=name, params=params))

    round_off(
        "Boss feet",
        "4 mm",
        lambda e: e["kind"] == "circle" and e["origin"][2] == THICK and round(e["radius"], 3) in (20.0, 26.0),
    )
    round_off("Pocket floor", "2 mm", lambda e: e["kind"] == "line" and e["centre"][2] == THICK - 4)
    return recipe()
