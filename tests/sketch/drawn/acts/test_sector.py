"""One sector of a wheel taken over: its ends stay alike and the angle of one sector apart, and what runs over the seam is not straightened by itself."""

from __future__ import annotations

import numpy as np
import pytest

from contour.sketch.drawn.acts.done import done
from contour.sketch.drawn.acts.taking import TakeOver
from contour.sketch.drawn.solution import solved
from contour.sketch.drawn.text import Drawing, read_drawing
from contour.sketch.taken import LoopRelation, TakenLoop, TakenPiece


def sector(count: int, *, begin: float = 0.02, left_out: int | None = None) -> TakenLoop:
    """Out along one end, root, flank, tip, flank, root, in along the other end, the bore; the first root is nearly level."""
    pitch = 2 * np.pi / count

    def at(r: float, share: float) -> tuple[float, float]:
        a = np.pi / 2 + begin + share * pitch
        return (float(r * np.cos(a)), float(r * np.sin(a)))

    spots = [(6, 0.0), (20, 0.0), (20, 0.25), (24, 0.35), (24, 0.65), (20, 0.75), (20, 1.0), (6, 1.0)]
    pieces = []
    for k, (a, b) in enumerate(zip(spots, [*spots[1:], spots[0]], strict=True)):
        bore = k == len(spots) - 1
        pieces.append(
            TakenPiece(
                id=f"e{k + 1}",
                kind="arc" if bore else "line",
                start=at(*a),
                end=at(*b),
                mid=at(6, 0.5) if bore else None,
                taken=k != left_out,
                assumed=k in (0, 6),
            )
        )
    return TakenLoop(closed=True, pieces=pieces, relations=[LoopRelation(kind="turned", first="e1", second="e7")])


def take(loop: TakenLoop):
    return done(Drawing(entities={}), [TakeOver(act="take", loops=(loop,), within=0.3)], made=0)


def ends(drawing: Drawing, *names: str) -> list[np.ndarray]:
    return [np.array([drawing.point(drawing.entities[n].start), drawing.point(drawing.entities[n].end)]) for n in names]


@pytest.mark.parametrize("count", [2, 3, 12])
def test_the_ends_stay_alike_whatever_size_is_asked_for(count):
    out = take(sector(count))
    asked = sorted(c.kind for c in out.drawing.constraints)
    lean = "collinear" if count == 2 else "angle"
    assert asked.count("equal") == 1 and asked.count(lean) == 1 and asked.count("on-curve") == (1 if count == 2 else 2)
    assert "horizontal" not in asked  # its root is 1 degree off, and would leave the next one's root behind
    (tip,) = ends(out.drawing, "e4")
    more = {"kind": "length", "of": ["e4"], "value": 1.2 * float(np.linalg.norm(tip[1] - tip[0]))}
    sized = read_drawing({**out.drawing.text(), "dimensions": [more]})
    found = solved(sized)
    assert found.solved
    first, second = ends(found.drawing, "e1", "e7")
    centre = next(np.array(found.drawing.point(e.centre)) for e in found.drawing.entities.values() if e.kind == "arc")
    turn = 2 * np.pi / count
    spin = np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]])
    assert np.allclose((first - centre) @ spin.T + centre, second[::-1], atol=1e-6)


def test_of_a_part_of_it_nothing_is_held():
    """Without one of its flanks it does not go around any more."""
    asked = [c.kind for c in take(sector(6, left_out=2)).drawing.constraints]
    assert "angle" not in asked and "on-curve" not in asked
