"""Jobs of eight to fifteen steps put together at random: plates with bosses, pockets, holes, threads, ribs, reliefs and turned pieces whose faces coincide
with, touch or graze others, rounds, chamfers, features done again; at the end a shell and its inner volume, a thicker top or a wall that leans. Every
reference in them has a rule in terms of the steps' own sizes, which knows nothing of names."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from benchmarks.random_features import again, drilled, finish, raised
from benchmarks.random_on_bosses import footed, ribbed, rounded_off
from benchmarks.random_rules import NEAR, Built, Holds, Job, Row, Rule, mm, rebuilt, sized
from contour.geometry.frames import PlaneFrame
from contour.job.build.store import Store
from contour.products import load_product
from contour.recipe.recipe import Recipe, Step
from contour.recipe.reference import PARTS
from contour.simulate.star_outlines import star_outline
from contour.solid.topology.parts import BODY_PARTS, faces_with_neighbours, read_topology

__all__ = ["Maker", "meant_wrongly", "random_job"]


class Maker:
    """One job as it grows; steps that a build refuses are left out."""

    def __init__(self, seed: int, store: Store) -> None:
        self.rng = np.random.default_rng([17, seed])
        self.store = store
        self.job = Job(Recipe(name=f"Random {seed}"))
        self.count = 0
        self.bosses: list[tuple[str, str, int]] = []  # extrude step, sketch step, corners
        self.holes: list[tuple[str, str]] = []  # hole step, its point's step
        self.rounded: set[int] = set()

    def id(self, kind: str) -> str:
        self.count += 1
        return f"{self.count:02d}{kind}zzzzzzzz"[:10]

    def put(self, *steps: Step, rules: tuple[Rule, ...] = (), turn: tuple[tuple[str, str], ...] = ()) -> bool:
        recipe = self.job.recipe.model_copy(update={"steps": (*self.job.recipe.steps, *steps)})
        failed = [s for s in rebuilt(recipe, self.store).result.steps if s.status != "ok"]
        if failed:
            self.job.refused += [p for s in failed for p in s.problems]
            return False
        self.job.recipe = recipe
        self.job.rules += rules
        self.job.turnable += turn
        return True

    def frame_of(self, sketch: Step) -> PlaneFrame | None:
        """Of a sketch that is not taken in yet; None where it does not come out."""
        recipe = self.job.recipe.model_copy(update={"steps": (*self.job.recipe.steps, sketch)})
        last = rebuilt(recipe, self.store).result.steps[-1]
        return load_product(self.store.folder(str(last.key))).frame if last.status == "ok" else None

    def ref(self, part: str, holds: Holds) -> dict[str, Any] | None:
        """The one part of the body that the rule is true of, as a reference."""
        built = rebuilt(self.job.recipe, self.store)
        folder = self.store.folder(built.result.steps[-1].after[self.base])
        rows = read_topology(folder)
        found = [r for r in rows["faces" if part == "face" else "edges"] if holds(r, built)]
        if len(found) != 1 or not found[0]["name"] or found[0]["name"].endswith("?"):
            return None
        row = found[0]
        if part == "face":
            whole = next(r for r in faces_with_neighbours(rows["faces"]) if r["name"] == row["name"])
            return {"body": self.base, "name": row["name"], "kind": row["kind"], "beside": whole["beside"]}
        ends = [rows["faces"][k]["name"] for k in row["ends"]]
        return {"body": self.base, "edge": row["name"], "kind": row["kind"], "ends": ends}

    # -- features ------------------------------------------------------------------------------------------------------------

    def begin(self) -> bool:
        rng = self.rng
        square = rng.random() < 0.5
        if square:
            w, d = rng.uniform(30, 70), rng.uniform(25, 60)
            self.outline = np.array([[-w / 2, -d / 2], [w / 2, -d / 2], [w / 2, d / 2], [-w / 2, d / 2]])
        else:
            self.outline = star_outline(rng, most=7, radius_mm=(22, 36))
        self.square = square
        sketch, self.base = self.id("sketch"), self.id("base")
        steps = (
            Step(id=sketch, kind="traced", name="Outline", params={"points": np.round(self.outline, 6).tolist()}),
            Step(
                id=self.base,
                kind="extrude",
                name="Base",
                params={"sketch": {"id": sketch}, "distance": mm(rng.uniform(8, 25))},
            ),
        )
        return self.put(*steps, turn=((self.base, "distance"),))

    def top(self, recipe: Recipe) -> float:
        return sized(recipe, self.base, "distance")

    def on_top(self) -> tuple[dict[str, Any], Holds] | None:
        """The base's upper face."""

        def holds(r: Row, built: Built) -> bool:
            flat = r["kind"] == "plane" and r["axis"][2] > 0.999
            return bool(
                flat and abs(r["centre"][2] - self.top(built.recipe)) < NEAR and ".end[" in r["name"].split("+")[0]
            )

        found = self.ref("face", lambda r, built: holds(r, built) and r["name"].startswith(self.base[:8]))
        return None if found is None else (found, holds)

    def feature(self) -> bool:
        """A boss on the base's upper face or a pocket in it."""
        rng = self.rng
        on = self.on_top()
        if on is None:
            return False
        face, holds = on
        p = star_outline(rng, most=6, radius_mm=(3, 7))
        shift = rng.uniform(-8, 8, 2)
        way = int(rng.integers(4))
        if self.square and way < 3:
            # A side in the base's own side, or a hair within or beyond it.
            w, h = rng.uniform(5, 12), rng.uniform(5, 12)
            p = np.array([[-w / 2, -h / 2], [w / 2, -h / 2], [w / 2, h / 2], [-w / 2, h / 2]])
            hair = 0.0 if way < 2 else float(rng.choice([-1, 1])) * 10 ** rng.uniform(-4, -2)
            shift[0] = self.outline[1][0] - w / 2 + hair
        sketch, made = self.id("sketch"), self.id("feat")
        adds = rng.random() < 0.55
        distance = rng.uniform(3, 12) if adds else -rng.uniform(2, 0.7 * self.top(self.job.recipe))
        steps = (
            Step(
                id=sketch,
                kind="traced",
                name=f"Outline {self.count}",
                params={
                    "plane": face,
                    "points": np.round(p, 6).tolist(),
                    "shift_x": mm(float(shift[0])),
                    "shift_y": mm(float(shift[1])),
                },
            ),
            Step(
                id=made,
                kind="extrude",
                name=f"Feature {self.count}",
                params={
                    "sketch": {"id": sketch},
                    "distance": mm(float(distance)),
                    "operation": "add" if adds else "subtract",
                    "bodies": [{"id": self.base}],
                },
            ),
        )
        done = self.put(
            *steps, rules=(Rule(sketch, face, "face", holds),), turn=((made, "distance"), (sketch, "shift_y"))
        )
        if done and adds:
            self.bosses.append((made, sketch, len(p)))
        return done

    def upright(self) -> bool:
        """A fillet or chamfer along one of the base's upright edges."""
        rng = self.rng
        k = int(rng.integers(len(self.outline)))
        if k in self.rounded:
            return False
        at = self.outline[k]

        def holds(r: Row, built: Built) -> bool:
            upright = r["kind"] == "line" and abs(r["axis"][2]) > 0.999
            return bool(upright and math.dist(r["centre"][:2], at) < NEAR)

        edge = self.ref("edge", holds)
        if edge is None:
            return False
        self.rounded.add(k)
        return self.blend(edge, holds)

    def rim(self) -> bool:
        """A fillet or chamfer along one edge of a boss's upper face."""
        if not self.bosses:
            return False
        rng = self.rng
        made, sketch, corners = self.bosses[int(rng.integers(len(self.bosses)))]
        k = int(rng.integers(corners))

        def holds(r: Row, built: Built) -> bool:
            a, b = built.side(sketch, k)
            lift = np.array([0, 0, sized(built.recipe, made, "distance")])
            if r["kind"] != "line" or np.linalg.norm(np.cross(r["axis"], b - a)) > 1e-5 * np.linalg.norm(b - a):
                return False
            # Whatever is left of that side lies on its line, between its ends.
            along = (np.array(r["centre"]) - a - lift) @ (b - a) / ((b - a) @ (b - a))
            off = np.linalg.norm(np.cross(np.array(r["centre"]) - a - lift, b - a)) / np.linalg.norm(b - a)
            return bool(off < NEAR and -1e-6 < along < 1 + 1e-6)

        edge = self.ref("edge", holds)
        return edge is not None and self.blend(edge, holds)

    def blend(self, edge: dict[str, Any], holds: Holds) -> bool:
        rng = self.rng
        made = self.id("blend")
        kind, size = ("fillet", "radius") if rng.random() < 0.6 else ("chamfer", "distance")
        params = {"edges": [edge], size: mm(rng.uniform(0.4, 2.0))}
        step = Step(id=made, kind=kind, name=f"Blend {self.count}", params=params)
        return self.put(step, rules=(Rule(made, edge, "edge", holds),), turn=((made, size),))

    def turned(self) -> bool:
        """A turned piece, put into the base and joined to it or cut out of it."""
        rng = self.rng
        r, t, h = rng.uniform(3, 7), rng.uniform(1, 2.5), rng.uniform(6, 14)
        outline = [[0, 0], [r, 0], [r, h * 0.4], [r - t, h * 0.6], [r - t, h], [0, h]]
        middle = np.mean([np.min(outline, axis=0), np.max(outline, axis=0)], axis=0)
        sketch, made, put, joined = (self.id(n) for n in ("half", "turn", "put", "join"))
        points = (np.array(outline) - middle).tolist()
        place = {
            n: mm(float(v)) for n, v in zip("xyz", (*rng.uniform(-8, 8, 2), self.top(self.job.recipe) - 2), strict=True)
        }
        steps = (
            Step(id=sketch, kind="traced", name=f"Half {self.count}", params={"points": np.round(points, 6).tolist()}),
            Step(
                id=made,
                kind="revolve",
                name=f"Turned {self.count}",
                params={"sketch": {"id": sketch}, "axis": {"sketch": sketch, "entity": "e6"}},
            ),
            Step(id=put, kind="move", name=f"Put {self.count}", params={"body": {"id": made}, **place}),
            Step(
                id=joined,
                kind="combine",
                name=f"Join {self.count}",
                params={
                    "body": {"id": self.base},
                    "tools": [{"id": made}],
                    "operation": str(rng.choice(["add", "subtract"])),
                },
            ),
        )
        return self.put(*steps, turn=((put, "x"), (put, "z")))

    def moved(self) -> bool:
        """The base's upper face moved."""
        on = self.on_top()
        if on is None or self.bosses:
            return False
        made = self.id("shift")
        step = Step(
            id=made,
            kind="shift",
            name=f"Moved {self.count}",
            params={"faces": [on[0]], "distance": mm(self.rng.uniform(-0.8, 1.5))},
        )
        return self.put(step, rules=(Rule(made, on[0], "face", on[1]),), turn=((made, "distance"),))


_MORE = {
    "drilled": drilled,
    "raised": raised,
    "again": again,
    "ribbed": ribbed,
    "footed": footed,
    "rounded_off": rounded_off,
}


def random_job(seed: int, store: Store, steps: int | None = None) -> Job:
    """The same job for the same seed; of eight to fifteen steps, if it is not said how many. One of so many has no blends: the search for the largest
    radius that works can end the process it runs in."""
    maker = Maker(seed, store)
    maker.begin()
    wanted = int(maker.rng.integers(8, 16)) if steps is None else steps
    for _ in range(4 * wanted):
        if len(maker.job.recipe.steps) >= wanted:
            break
        blends = [] if steps else ["upright", "rim", "rim"]
        kind = str(maker.rng.choice(["feature", "feature", *blends, "turned", *_MORE, "ribbed", "rounded_off"]))
        if kind in _MORE:
            _MORE[kind](maker)
        else:
            getattr(maker, kind)()
    finish(maker)
    return maker.job


def meant_wrongly(job: Job, built: Built) -> list[str]:
    """References that resolve to something else than their rules say, by step and name; those of steps that failed are not asked for."""
    out = []
    result, store = built.result, built.store
    place = {s.id: k for k, s in enumerate(result.steps)}
    for rule in job.rules:
        k = place[rule.step]
        if result.steps[k].status != "ok":
            continue
        body = rule.ref["body"]
        folder = store.folder(result.steps[k - 1].after[body])
        ref = PARTS[rule.part].model_validate(rule.ref)
        names = BODY_PARTS[rule.part].present(ref, folder)  # type: ignore[arg-type]
        rows = {r["name"]: r for r in read_topology(folder)["faces" if rule.part == "face" else "edges"]}
        out += [f"{rule.step}: {n}" for n in names if not rule.holds(rows[n], built)]
    return out
