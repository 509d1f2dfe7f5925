"""Features that random jobs get beside bosses and pockets: holes, threads in them, reliefs, features done again, and what ends a job: a shell with its inner
volume, a thicker top, leaning walls."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np

from benchmarks.random_rules import NEAR, Built, Holds, Row, Rule, mm, sized
from contour.recipe.recipe import Step
from contour.simulate.star_outlines import star_outline

if TYPE_CHECKING:
    from benchmarks.random_jobs import Maker

__all__ = ["again", "drilled", "finish", "first_wall", "raised", "threaded"]


def drilled(m: Maker) -> bool:
    """A blind hole from the base's upper face, at a point."""
    on = m.on_top()
    if on is None:
        return False
    at, made = m.id("point"), m.id("hole")
    x, y = m.rng.uniform(-9, 9, 2)
    place = {"by": "typed", "x": mm(x), "y": mm(y), "z": mm(m.top(m.job.recipe))}
    hole: dict[str, Any] = {"face": on[0], "by": "points", "points": [{"id": at}], "extent": "blind"}
    hole |= {"diameter": mm(m.rng.uniform(1.5, 4)), "depth": mm(m.rng.uniform(1.5, 4))}
    steps = (
        Step(id=at, kind="point", name=f"Point {m.count}", params=place),
        Step(id=made, kind="hole", name=f"Hole {m.count}", params=hole),
    )
    done = m.put(*steps, rules=(Rule(made, on[0], "face", on[1]),), turn=((made, "diameter"), (at, "x")))
    if done:
        m.holes.append((made, at))
        if m.rng.random() < 0.6:
            threaded(m)
    return done


def threaded(m: Maker) -> bool:
    """The standard thread nearest to a hole's size in its wall, real or only noted."""
    if not m.holes:
        return False
    hole, at = m.holes.pop(int(m.rng.integers(len(m.holes))))

    def holds(r: Row, built: Built) -> bool:
        middle = [sized(built.recipe, at, n) for n in "xy"]
        across = sized(built.recipe, hole, "diameter")
        if r["kind"] != "cylinder" or abs(r["axis"][2]) < 0.999 or abs(r["diameter"] - across) > NEAR:
            return False
        return bool(np.hypot(*(np.array(r["origin"][:2]) - middle)) < NEAR)

    wall = m.ref("face", holds)
    if wall is None:
        return False
    made = m.id("thread")
    step = Step(
        id=made,
        kind="threaded",
        name=f"Thread {m.count}",
        params={"face": wall, "made": str(m.rng.choice(["real", "noted"]))},
    )
    return m.put(step, rules=(Rule(made, wall, "face", holds),))


def raised(m: Maker) -> bool:
    """A profile raised from the base's upper face, or sunk into it."""
    on = m.on_top()
    if on is None:
        return False
    sketch, made = m.id("sketch"), m.id("relief")
    outline = star_outline(m.rng, most=6, radius_mm=(2, 5)) + m.rng.uniform(-9, 9, 2)
    height = float(m.rng.uniform(0.4, 2) * m.rng.choice([-1, 1]))
    steps = (
        Step(
            id=sketch,
            kind="traced",
            name=f"Outline {m.count}",
            params={"plane": on[0], "points": np.round(outline, 6).tolist()},
        ),
        Step(
            id=made,
            kind="relief",
            name=f"Relief {m.count}",
            params={"sketch": {"id": sketch}, "faces": [on[0]], "height": mm(height)},
        ),
    )
    rules = (Rule(sketch, on[0], "face", on[1]), Rule(made, on[0], "face", on[1]))
    return m.put(*steps, rules=rules, turn=((made, "height"),))


def again(m: Maker) -> bool:
    """A boss once more, beside itself along the base's first side."""
    if not m.bosses:
        return False
    boss, sketch, _ = m.bosses[int(m.rng.integers(len(m.bosses)))]
    made = m.id("again")
    params: dict[str, Any] = {"what": "steps", "steps": [{"id": boss}], "by": "rows", "count": {"text": "2"}}
    params |= {"bodies": [{"id": m.base}]}
    params |= {"along": {"sketch": sketch, "entity": "e1"}, "pitch": mm(m.rng.uniform(3, 9))}
    return m.put(Step(id=made, kind="repeat", name=f"Again {m.count}", params=params), turn=((made, "pitch"),))


def first_wall(m: Maker) -> Holds:
    """Of the base's wall over its outline's first line."""

    def holds(r: Row, _built: Built) -> bool:
        a, b = m.outline[0], m.outline[1]
        n = np.array([b[1] - a[1], a[0] - b[0]]) / np.linalg.norm(b - a)
        on = r["kind"] == "plane" and abs(r["axis"][:2] @ n) > 1 - 1e-9 and r["name"].startswith(f"{m.base[:8]}.side")
        return bool(on and abs((np.array(r["centre"][:2]) - a) @ n) < NEAR)

    return holds


def finish(m: Maker) -> bool:
    """What changes the whole of a body, at the end: hollowed from below, thicker at its top, or with a wall that leans."""

    def underside(r: Row, _built: Built) -> bool:
        flat = r["kind"] == "plane" and r["axis"][2] < -0.999
        return bool(flat and abs(r["centre"][2]) < NEAR and r["name"].startswith(m.base[:8]))

    below, on = m.ref("face", underside), m.on_top()
    if below is None or on is None:
        return False
    made = m.id("last")
    kind = str(m.rng.choice(["shell", "thicken", "draft"]))
    rules = [Rule(made, below, "face", underside)]
    if kind == "shell":
        params: dict[str, Any] = {"faces": [below], "thickness": mm(m.rng.uniform(0.8, 2))}
    elif kind == "thicken":
        params = {
            "faces": [on[0]],
            "thickness": mm(m.rng.uniform(0.5, 3)),
            "operation": "add",
            "bodies": [{"id": m.base}],
        }
        rules = [Rule(made, on[0], "face", on[1])]
    else:
        wall = first_wall(m)
        side = m.ref("face", wall)
        if side is None:
            return False
        params = {"faces": [side], "stays": below, "angle": {"text": f"{m.rng.uniform(0.5, 4):.4f} deg"}}
        rules.append(Rule(made, side, "face", wall))
    turn = () if kind == "draft" else ((made, "thickness"),)
    done = m.put(Step(id=made, kind=kind, name=f"Last {m.count}", params=params), rules=tuple(rules), turn=turn)
    if not done or kind != "shell":
        return done
    rim = m.ref("face", underside)
    if rim is None:
        return True
    held = m.id("inner")
    inside = Step(id=held, kind="cavity", name=f"Inside {m.count}", params={"body": {"id": m.base}, "openings": [rim]})
    return m.put(inside, rules=(Rule(held, rim, "face", underside),))
