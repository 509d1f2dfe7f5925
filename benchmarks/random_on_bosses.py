"""What the bosses of random jobs get: a side made a full round, a fillet into the base's upper face, a rib that leans on them."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np

from benchmarks.random_features import first_wall
from benchmarks.random_rules import NEAR, Built, Holds, Row, Rule, mm, rebuilt, sized
from contour.recipe.recipe import Step

if TYPE_CHECKING:
    from benchmarks.random_jobs import Maker

__all__ = ["footed", "ribbed", "rounded_off"]


def _side(m: Maker, sketch: str, k: int) -> Holds:
    """Of a boss's side over its outline's k-th line: an upright plane with its middle between that line's ends."""

    def holds(r: Row, built: Built) -> bool:
        a, b = built.side(sketch, k)
        along = (b - a) / np.linalg.norm(b - a)
        if r["kind"] != "plane" or abs(r["axis"][2]) > 1e-6 or abs(np.dot(r["axis"], along)) > 1e-6:
            return False
        to = np.array(r["centre"]) - a
        off = abs(to[0] * along[1] - to[1] * along[0])
        # Above the upper face, or it would be the wall of a pocket in the same plane.
        above = r["centre"][2] > m.top(built.recipe) - NEAR
        return bool(off < NEAR and above and -1e-6 < to @ along < np.linalg.norm(b - a) + 1e-6)

    return holds


def rounded_off(m: Maker) -> bool:
    """A boss's side between its two neighbours made one round: all three run upright."""
    if not m.bosses:
        return False
    _, sketch, corners = m.bosses[int(m.rng.integers(len(m.bosses)))]
    k = int(m.rng.integers(corners))
    rules = [_side(m, sketch, j % corners) for j in (k, k - 1, k + 1)]
    refs = [m.ref("face", holds) for holds in rules]
    if any(ref is None for ref in refs):
        return False
    made = m.id("round")
    step = Step(
        id=made, kind="full_round", name=f"Round {m.count}", params={"face": refs[0], "sides": [refs[1], refs[2]]}
    )
    asked = [Rule(made, ref, "face", holds) for ref, holds in zip(refs, rules, strict=True) if ref]
    return m.put(step, rules=tuple(asked))


def footed(m: Maker) -> bool:
    """A boss's side run into the base's upper face in a round."""
    on = m.on_top()
    if not m.bosses or on is None:
        return False
    _, sketch, corners = m.bosses[int(m.rng.integers(len(m.bosses)))]
    holds = _side(m, sketch, int(m.rng.integers(corners)))
    side = m.ref("face", holds)
    if side is None:
        return False
    made = m.id("foot")
    params: dict[str, Any] = {"first": on[0], "second": side, "radius": mm(m.rng.uniform(0.4, 2))}
    step = Step(id=made, kind="face_fillet", name=f"Foot {m.count}", params=params)
    return m.put(
        step, rules=(Rule(made, on[0], "face", on[1]), Rule(made, side, "face", holds)), turn=((made, "radius"),)
    )


def ribbed(m: Maker) -> bool:
    """A rib between the base's upper face and a boss: its line leans, in a plane along one of the base's walls through the boss."""
    wall = m.ref("face", first_wall(m))
    if not m.bosses or wall is None:
        return False
    boss, outline, _ = m.bosses[int(m.rng.integers(len(m.bosses)))]
    foot, _ = rebuilt(m.job.recipe, m.store).side(outline, 0)
    a, b = m.outline[0], m.outline[1]
    along = (b - a) / np.linalg.norm(b - a)
    inward = np.array([-along[1], along[0]])
    top, height = m.top(m.job.recipe), sized(m.job.recipe, boss, "distance")
    # From the boss's middle height outward and down to the upper face.
    run = float(m.rng.uniform(2, 8) * m.rng.choice([-1, 1]))
    ends = np.array([[*foot[:2], top + 0.7 * height], [*(foot[:2] + run * along), top + 0.1 * height]])
    sketch, made = m.id("line"), m.id("rib")
    inside = float((foot[:2] - a) @ inward)
    drawn = {"plane": wall, "offset": mm(-inside), "closed": False}
    across, up = np.array([*along, 0.0]), np.array([0, 0, 1.0])
    first = Step(id=sketch, kind="traced", name=f"Line {m.count}", params={**drawn, "points": [[-1, 0], [1, 0]]})
    frame = m.frame_of(first)
    if frame is None:
        return False
    flat = frame.to_plane(ends)
    middle = (flat.min(axis=0) + flat.max(axis=0)) / 2
    shift = {"shift_x": mm(float(middle[0])), "shift_y": mm(float(middle[1]))}
    assert abs(frame.normal @ across) < 1e-6 and abs(frame.normal @ up) < 1e-6
    line = first.model_copy(update={"params": {**drawn, **shift, "points": np.round(flat - middle, 6).tolist()}})
    rib = {"sketch": {"id": sketch}, "body": {"id": m.base}, "thickness": mm(m.rng.uniform(0.8, 3))}
    step = Step(id=made, kind="rib", name=f"Rib {m.count}", params=rib)
    return m.put(line, step, rules=(Rule(sketch, wall, "face", first_wall(m)),), turn=((made, "thickness"),))
