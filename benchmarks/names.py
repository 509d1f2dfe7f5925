"""References to faces and edges over late changes: a part of twenty steps, every size changed both ways, two hundred times.

Whether a reference means the right face is judged by geometry alone: each has a rule in terms of the sizes (which plane,
which side of a slot) that knows nothing of names.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from contour.geometry.frames import plane_frame
from contour.recipe.problem import ContourError
from contour.recipe.reference import EdgeRef, FaceRef
from contour.sketch.entities import Entity, Sketch, find_profiles
from contour.solid.boolean import combine
from contour.solid.edge_blends import Bevel, Rounding, chamfer, fillet
from contour.solid.extrude import extrude
from contour.solid.facts import face_facts
from contour.solid.halves import beyond_plane
from contour.solid.resurface import resurface
from contour.solid.shape import NamedShape, read_shape, write_shape
from contour.solid.topology.imported import carried_numbers
from contour.solid.topology.parts import faces_with_neighbours
from contour.solid.topology.resolve import edge_faces_named, resolve_edges, resolve_face
from contour.solid.topology.rows import topology_rows
from demo.bracket import rounded_rectangle, whole_circle

__all__ = ["run"]

Sizes = dict[str, float]
Row = dict[str, Any]
Rule = Callable[[Row, Sizes], bool]
Size = Callable[[Sizes], float]
CHANGES = 200
LIFT, SINK = 0.3, 0.2  # what the seats do, mm

BASE: Sizes = {
    "width": 120,
    "depth": 80,
    "height": 12,
    "corner": 8,
    "boss_x": 88,
    "boss_y": 52,
    "boss_r": 12,
    "boss_h": 14,
    "slot_x": 45,
    "slot_w": 10,
    "slot_d": 5,
    "hole_x": 20,
    "hole_y": 18,
    "hole_r": 4,
    "eye_r": 5,
    "pocket_x": 96,
    "pocket_w": 18,
    "pocket_d": 4,
    "cross_y": 36,
    "cross_w": 5,
    "cross_d": 3,
    "window_w": 8,
    "peg_r": 2.5,
    "trim": 4,
}


def flat(axis: int, at: Callable[[Sizes], float], sign: float, *sides: Callable[[Row, Sizes], bool]) -> Rule:
    """A plane square to an axis at a place, and on the right side of whatever splits it."""

    def rule(f: Row, s: Sizes) -> bool:
        return bool(
            f["kind"] == "plane"
            and f["axis"][axis] * sign > 0.999
            and abs(f["centre"][axis] - at(s)) < 1e-3
            and all(side(f, s) for side in sides)
        )

    return rule


def round_about(x: Callable[[Sizes], float], y: Callable[[Sizes], float], diameter: Callable[[Sizes], float]) -> Rule:
    def rule(f: Row, s: Sizes) -> bool:
        return bool(
            f["kind"] == "cylinder"
            and abs(f["diameter"] - diameter(s)) < 1e-3
            and np.hypot(f["origin"][0] - x(s), f["origin"][1] - y(s)) < 1e-3
        )

    return rule


def circle_at(x: Size, y: Size, radius: Size, z: Size) -> Rule:
    """A whole round edge about an upright axis."""

    def rule(e: Row, s: Sizes) -> bool:
        return bool(
            e["kind"] == "circle"
            and abs(e["radius"] - radius(s)) < 1e-3
            and np.hypot(e["origin"][0] - x(s), e["origin"][1] - y(s)) < 1e-3
            and abs(e["origin"][2] - z(s)) < 1e-3
        )

    return rule


def line_at(axis: int, **at: Size) -> Rule:
    """A straight edge along an axis, with the other two coordinates given."""

    def rule(e: Row, s: Sizes) -> bool:
        return bool(
            e["kind"] == "line"
            and abs(e["axis"][axis]) > 0.999
            and all(abs(e["centre"]["xyz".index(k)] - place(s)) < 1e-3 for k, place in at.items())
        )

    return rule


def zero(_: Sizes) -> float:
    return 0.0


def left(f: Row, s: Sizes) -> bool:
    return bool(f["centre"][0] < s["slot_x"])


def right(f: Row, s: Sizes) -> bool:
    return not left(f, s)


def over_boss(f: Row, s: Sizes) -> bool:
    """The post ends at the same height."""
    return bool(np.hypot(f["centre"][0] - s["boss_x"], f["centre"][1] - s["boss_y"]) < s["boss_r"])


def front(f: Row, s: Sizes) -> bool:
    return bool(f["centre"][1] < s["cross_y"])


@dataclass(slots=True)
class Part:
    """The part as it grows. In the first run references are picked by their rules; later they have to resolve."""

    sizes: Sizes
    picked: dict[str, FaceRef | EdgeRef] = field(default_factory=dict)
    body: NamedShape | None = None
    outcome: dict[str, str] = field(default_factory=dict)
    offered: int = 0
    blends_refused: int = 0
    known: tuple[NamedShape, dict[str, list[Row]]] | None = None
    file: File | None = None

    def rows(self) -> dict[str, list[Row]]:
        """What is known of the present body, worked out once."""
        assert self.body is not None
        if self.known is None or self.known[0] is not self.body:
            self.known = (self.body, topology_rows(self.body))
        return self.known[1]

    def refer(self, tag: str, rule: Rule) -> int | None:
        """Place of the face a reference means now; none when it does not resolve."""
        named = faces_with_neighbours(self.rows()["faces"])
        if tag not in self.picked:
            (k,) = [i for i, r in enumerate(named) if rule(r, self.sizes)]
            r = named[k]
            self.picked[tag] = FaceRef(body="b", name=r["name"], kind=r["kind"], beside=tuple(r["beside"]))
            return k
        ref = self.picked[tag]
        assert isinstance(ref, FaceRef)
        try:
            k = resolve_face(ref, named)
        except ContourError as error:
            self.outcome[tag] = error.problem.code
            self.offered += bool(named)
            return None
        self.outcome[tag] = "right" if rule(named[k], self.sizes) else "wrong"
        return k

    def edges(self, tag: str, rule: Rule) -> list[str]:
        """Names of the edges that a reference means now; none when it does not resolve. All of them have to be right."""
        body = self.rows()
        rows = body["edges"]
        if tag not in self.picked:
            there = [e for e in rows if rule(e, self.sizes)]
            assert there, tag
            e = there[0]
            ends = tuple(edge_faces_named(e, body["faces"]))
            self.picked[tag] = EdgeRef(body="b", edge=e["name"], kind=e["kind"], ends=ends)
            return [e["name"]]
        ref = self.picked[tag]
        assert isinstance(ref, EdgeRef)
        try:
            found = resolve_edges(ref, rows, body["faces"])
        except ContourError as error:
            self.outcome[tag] = error.problem.code
            self.offered += bool(rows)
            return []
        self.outcome[tag] = "right" if all(rule(rows[i], self.sizes) for i in found) else "wrong"
        return [rows[i]["name"] for i in found]

    def blend(self, step: str, size: float, tags: dict[str, Rule], *, flat: bool = False) -> None:
        """A fillet or chamfer on the edges meant. What is too large for the changed part is refused, and told so."""
        assert self.body is not None
        names = tuple(dict.fromkeys(n for tag, rule in tags.items() for n in self.edges(tag, rule)))
        if not names:
            return
        try:
            if flat:
                self.body = chamfer(self.body, [Bevel(names, size)], prefix=f"{step}.chamfer").made
            else:
                self.body = fillet(self.body, [Rounding(names, size)], prefix=f"{step}.fillet").made
        except ContourError:
            self.blends_refused += 1

    def solid(self, entities: list[Entity], z: float, to: float, step: str) -> NamedShape:
        sketch = Sketch(plane_frame(np.array([0, 0, z]), np.array([0, 0, 1.0]), np.array([1.0, 0, 0])), tuple(entities))
        return extrude(find_profiles(sketch), sketch.frame, start_mm=0.0, end_mm=to - z, prefix=step)

    def work(self, tool: NamedShape, how: str) -> None:
        self.body = tool if self.body is None else combine(self.body, tool, how)  # type: ignore[arg-type]

    def seat(self, moves: dict[str, tuple[Rule, float]]) -> None:
        assert self.body is not None
        found = {self.refer(tag, rule): d for tag, (rule, d) in moves.items()}
        found.pop(None, None)
        if found:
            self.body = resurface(self.body, found)  # type: ignore[arg-type]


def box(x0: float, y0: float, x1: float, y1: float, tag: str) -> list[Entity]:
    spots = [(x0, y0), (x1, y0), (x1, y1), (x0, y1)]
    return [Entity(f"{tag}{k}", "line", spots[k], spots[(k + 1) % 4]) for k in range(4)]


def height(part: Part, k: int | None, otherwise: float) -> float:
    return otherwise if k is None or part.body is None else float(part.rows()["faces"][k]["centre"][2])


@dataclass(slots=True)
class File:
    """What the versions of a solid's file have held so far: rows of faces, and their numbers."""

    rows: list[Row] = field(default_factory=list)
    numbers: list[int] = field(default_factory=list)


def imported(plate: NamedShape, file: File) -> NamedShape:
    """The plate as a file brings it in: nothing of how it was made, its faces numbered on from the first version."""
    shape = read_shape(write_shape(plate.shape))
    rows = face_facts(NamedShape(shape, plate.names))
    numbers = carried_numbers(file.rows, file.numbers, rows)
    if not file.rows:
        file.rows, file.numbers = rows, numbers
    return NamedShape(shape, tuple(f"plate000.imported[{n}]" for n in numbers))


def grow(part: Part) -> None:
    """The twenty steps."""
    s = part.sizes
    h, top = s["height"], s["height"] + s["boss_h"]
    plate = part.solid(rounded_rectangle(0, 0, s["width"], s["depth"], s["corner"], "o"), 0, h, "plate000")
    part.work(plate if part.file is None else imported(plate, part.file), "new")
    part.work(part.solid([whole_circle(s["boss_x"], s["boss_y"], s["boss_r"], "b")], h - 1, top, "boss0000"), "add")
    x = s["slot_x"]
    part.work(
        part.solid(box(x - s["slot_w"] / 2, -9, x + s["slot_w"] / 2, 200, "s"), h - s["slot_d"], h + 50, "slot0000"),
        "subtract",
    )
    part.work(part.solid([whole_circle(s["hole_x"], s["hole_y"], s["hole_r"], "h")], -5, 80, "hole0000"), "subtract")
    part.work(part.solid([whole_circle(s["boss_x"], s["boss_y"], s["eye_r"], "e")], -5, 80, "eye00000"), "subtract")
    p = s["pocket_x"]
    part.work(part.solid(box(p, 8, p + s["pocket_w"], 20, "p"), h - s["pocket_d"], 80, "pocket00"), "subtract")
    part.seat(
        {
            "seat 1: left top": (flat(2, lambda s: s["height"], 1, left), LIFT),
            "seat 1: bottom": (flat(2, zero, -1), SINK),
            "seat 1: right side": (flat(0, lambda s: s["width"], 1), SINK),
        }
    )
    k = part.refer("post: until the boss's top", flat(2, lambda s: s["height"] + s["boss_h"], 1))
    part.work(part.solid([whole_circle(p - 18, 14, 3, "t")], h - 1, height(part, k, top), "post0000"), "add")
    w = s["window_w"]
    part.work(part.solid(box(66, 64, 66 + w, 64 + w, "w"), -5, 80, "window00"), "subtract")
    y = s["cross_y"]
    part.work(
        part.solid(box(-9, y - s["cross_w"] / 2, x, y + s["cross_w"] / 2, "c"), h - s["cross_d"], 90, "cross000"),
        "subtract",
    )
    part.seat(
        {
            "seat 2: left front": (flat(2, lambda s: s["height"] + LIFT, 1, left, front), 0.1),
            "seat 2: boss top": (flat(2, lambda s: s["height"] + s["boss_h"], 1, over_boss), LIFT),
            "seat 2: pocket floor": (flat(2, lambda s: s["height"] - s["pocket_d"], 1), 0.1),
            "seat 2: left side": (flat(0, zero, -1), 0.1),
        }
    )
    k = part.refer("peg: from the pocket's floor", flat(2, lambda s: s["height"] - s["pocket_d"] + 0.1, 1))
    floor = height(part, k, h - s["pocket_d"])
    part.work(part.solid([whole_circle(p + 6, 14, s["peg_r"], "g")], floor - 1, h + 6, "peg00000"), "add")
    part.work(part.solid([whole_circle(108, 66, 3, "i")], -5, 80, "hole2000"), "subtract")
    k = part.refer("trim: along the back", flat(1, lambda s: s["depth"], 1, right))
    if k is not None and part.body is not None:
        f = part.rows()["faces"][k]
        at = np.array(f["centre"]) - s["trim"] * np.array(f["axis"])
        tool = beyond_plane(at, np.array(f["axis"]), 500, at, "trim0000.cut")
        part.body = combine(part.body, tool, "subtract")
    part.seat(
        {
            "seat 3: hole": (
                round_about(lambda s: s["hole_x"], lambda s: s["hole_y"], lambda s: 2 * s["hole_r"]),
                -0.1,
            ),
            "seat 3: boss": (round_about(lambda s: s["boss_x"], lambda s: s["boss_y"], lambda s: 2 * s["boss_r"]), 0.1),
            "seat 3: right top": (flat(2, lambda s: s["height"], 1, right), 0.05),
            "seat 3: slot floor": (flat(2, lambda s: s["height"] - s["slot_d"], 1), 0.05),
            "seat 3: front": (flat(1, zero, -1, right), 0.05),
        }
    )
    blends(part)


def blends(part: Part) -> None:
    """The last five: edges that all the steps before have made, moved and cut."""
    s = part.sizes
    boss_top = s["height"] + s["boss_h"] + LIFT
    part.blend(
        "filleta0",
        0.8,
        {
            "fillet 1: boss rim": circle_at(
                lambda s: s["boss_x"], lambda s: s["boss_y"], lambda s: s["boss_r"] + 0.1, lambda _: boss_top
            )
        },
    )
    floor = s["height"] - s["slot_d"] + 0.05
    part.blend(
        "filletb0",
        0.5,
        {
            "fillet 2: slot, left foot": line_at(1, x=lambda s: s["slot_x"] - s["slot_w"] / 2, z=lambda _: floor),
            "fillet 2: slot, right foot": line_at(1, x=lambda s: s["slot_x"] + s["slot_w"] / 2, z=lambda _: floor),
        },
    )
    window = {
        f"chamfer 1: window, {side}": line_at(axis, **{other: lambda _, at=at: at, "z": lambda _: -SINK})
        for side, axis, other, at in (
            ("front", 0, "y", 64.0),
            ("right", 1, "x", 66 + s["window_w"]),
            ("back", 0, "y", 64 + s["window_w"]),
            ("left", 1, "x", 66.0),
        )
    }
    part.blend("chamfera", 0.4, window, flat=True)
    part.work(part.solid([whole_circle(s["slot_x"], 60, 2.5, "j")], -5, 80, "hole3000"), "subtract")
    hole = {
        "chamfer 2: hole, below": circle_at(
            lambda s: s["hole_x"], lambda s: s["hole_y"], lambda s: s["hole_r"] + 0.1, lambda _: -SINK
        ),
        "chamfer 2: eye, above": circle_at(
            lambda s: s["boss_x"], lambda s: s["boss_y"], lambda s: s["eye_r"], lambda _: boss_top
        ),
    }
    part.blend("chamferb", 0.3, hole, flat=True)


def run() -> Iterator[tuple[str, str]]:
    for start, file in (("drawn", None), ("imported", File())):
        for said, figure in changed(file):
            yield f"{said}, {start} start", figure


def changed(file: File | None) -> Iterator[tuple[str, str]]:
    """All the changes to a part that begins with an extrusion, or with a file of which each change gives a newer version."""
    first = Part(dict(BASE), file=file)
    grow(first)
    rng = np.random.default_rng(3)
    counts: dict[str, int] = {}
    wrong: list[str] = []
    stopped = offered = refused_blends = 0
    names = list(BASE)
    for k in range(CHANGES):
        name = names[k % len(names)]
        factor = 1 + rng.uniform(0.04, 0.3) * (1 if (k // len(names)) % 2 else -1)
        part = Part({**BASE, name: BASE[name] * factor}, first.picked, file=file)
        try:
            grow(part)
        except ContourError:
            stopped += 1  # the part itself is no part any more: the step says so, and what comes after is not asked
        for tag, code in part.outcome.items():
            counts[code] = counts.get(code, 0) + 1
            if code == "wrong":
                wrong.append(f"{name} x {factor:.2f}: {tag}")
        offered += part.offered
        refused_blends += part.blends_refused
    total = sum(counts.values())
    yield f"{CHANGES} changes of {len(names)} sizes, {len(first.picked)} references each", f"{total} references asked"
    yield "resolve to the right face, %", f"{100 * counts.get('right', 0) / total:.2f}"
    yield "wrong by the geometric rule", str(counts.get("wrong", 0)) + (f" ({'; '.join(wrong[:5])})" if wrong else "")
    reported = {c: n for c, n in counts.items() if c not in ("right", "wrong")}
    yield "reported instead, with candidates", f"{sum(reported.values())} {reported}, {offered} with candidates"
    yield "changes that broke a step", str(stopped)
    yield "fillets and chamfers too large for the changed part (refused)", str(refused_blends)
