"""How profiles and entities of a kept sketch are found by their names, offered for repair, and labelled."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Literal

import numpy as np

from contour.recipe.problem import ContourError
from contour.recipe.reference import Candidate, EntityRef, ProfileRef
from contour.sketch.chosen import every_profile
from contour.sketch.entities import Sketch, entity_points

__all__ = ["SketchParts"]

_KINDS = {"line": "line", "arc": "arc", "ellipse": "ellipse", "free": "curve"}


class SketchParts:
    """Parts of one kind; `load` reads a kept sketch."""

    def __init__(self, part: Literal["profile", "entity"], load: Callable[[Path], Sketch]) -> None:
        self._part, self._load = part, load

    def _there(self, folder: Path) -> list[Candidate]:
        sketch = self._load(folder)
        if self._part == "entity":
            return [
                Candidate(e.id, False, {"kind": _KINDS[e.kind], "centre": _middle(sketch, entity_points(e))})
                for e in (*sketch.entities, *sketch.helpers)
            ]
        return [
            Candidate(
                p.id,
                False,
                {
                    "kind": "profile",
                    "area": round(p.area, 4),
                    "centre": _middle(sketch, np.vstack([entity_points(e) for e in p.outer.entities])),
                },
            )
            for p in every_profile(sketch)
        ]

    def present(self, ref: ProfileRef | EntityRef, folder: Path) -> tuple[str, ...]:
        there = [c.name for c in self._there(folder)]
        if ref.called in there:
            return (ref.called,)
        raise ContourError(
            "ref-lost",
            f"the sketch has no such {self._part} any more",
            got=ref.called,
            need=f"one of {', '.join(there[:8])}" if there else f"a sketch with a {self._part}",
            remedy=f"choose the {self._part} again",
        )

    def candidates(self, ref: ProfileRef | EntityRef, folder: Path, most: int = 6) -> list[Candidate]:
        there = self._there(folder)
        if ref.place is not None:
            old = np.array(ref.place)
            there.sort(key=lambda c: float(np.linalg.norm(np.array(c.said["centre"]) - old)))
        return there[:most]

    def label(self, name: str, steps: Mapping[str, str] | None = None) -> str:
        return f"{'profile' if self._part == 'profile' else 'piece'} {name}"


def _middle(sketch: Sketch, points: np.ndarray) -> list[float]:
    at = sketch.frame.to_space((points.min(axis=0) + points.max(axis=0)) / 2)
    return [round(float(x), 4) for x in at]
