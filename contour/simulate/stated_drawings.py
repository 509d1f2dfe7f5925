"""Six drawings with the sizes that they state, to be extruded and found again: lines, fillets, slots, rings of holes, angles, inches."""

from __future__ import annotations

import math

from contour.sketch.drawn.text import Arc, Circle, Drawing, Entity, Line, Point

__all__ = ["stated_drawings"]

Place = tuple[float, float]


class _Sheet:
    def __init__(self) -> None:
        self.entities: dict[str, Entity] = {}

    def point(self, at: Place) -> str:
        name = f"p{len(self.entities)}"
        self.entities[name] = Point(at=at)
        return name

    def add(self, entity: Entity) -> str:
        name = f"e{len(self.entities)}"
        self.entities[name] = entity
        return name

    def ring(self, at: Place, diameter: float) -> str:
        return self.add(Circle(centre=self.point(at), radius=diameter / 2))

    def chain(self, *places: Place) -> list[str]:
        corners = [self.point(p) for p in places]
        return [self.add(Line(start=a, end=b)) for a, b in zip(corners, [*corners[1:], corners[0]], strict=True)]

    def rounded(self, width: float, height: float, radius: float, at: Place = (0.0, 0.0)) -> None:
        (x, y), w, h, r = at, width, height, radius
        ends = [(r, 0), (w - r, 0), (w, r), (w, h - r), (w - r, h), (r, h), (0, h - r), (0, r)]
        corners = [self.point((x + a, y + b)) for a, b in ends]
        for k, (a, b) in enumerate(((w - r, r), (w - r, h - r), (r, h - r), (r, r))):
            self.add(Line(start=corners[2 * k], end=corners[2 * k + 1]))
            end = corners[(2 * k + 2) % 8]
            self.add(Arc(centre=self.point((x + a, y + b)), start=corners[2 * k + 1], end=end))

    def slot(self, a: Place, b: Place, width: float) -> None:
        """Level, from the centre of one end to that of the other."""
        r = width / 2
        ends = [self.point(p) for p in ((a[0], a[1] - r), (b[0], b[1] - r), (b[0], b[1] + r), (a[0], a[1] + r))]
        self.add(Line(start=ends[0], end=ends[1]))
        self.add(Arc(centre=self.point(b), start=ends[1], end=ends[2]))
        self.add(Line(start=ends[2], end=ends[3]))
        self.add(Arc(centre=self.point(a), start=ends[3], end=ends[0]))

    def drawing(self) -> Drawing:
        return Drawing(entities=self.entities)


def stated_drawings() -> list[tuple[str, Drawing, list[float]]]:
    """Name, drawing (mm) and the sizes that it states: mm, degrees where it is an angle (of the gusset alone: 35)."""
    return [_plate(), _link(), _gusset(), _flange(), _angle_bracket(), _inch_cover()]


def _plate() -> tuple[str, Drawing, list[float]]:
    s = _Sheet()
    s.rounded(96, 54, 8)
    for at in ((12, 12), (84, 12), (84, 42), (12, 42)):
        s.ring(at, 6.5)
    s.ring((48, 27), 26)
    return "plate", s.drawing(), [96, 54, 8, 6.5, 26, 12, 72, 30, 48, 27]


def _link() -> tuple[str, Drawing, list[float]]:
    s = _Sheet()
    s.slot((0, 0), (70, 0), 30)
    s.ring((0, 0), 12)
    s.ring((70, 0), 12)
    s.slot((25, 0), (45, 0), 8)
    return "link", s.drawing(), [70, 15, 12, 4, 20, 25]


def _gusset() -> tuple[str, Drawing, list[float]]:
    s = _Sheet()
    high = 10 + 70 * math.tan(math.radians(35))
    s.chain((0, 0), (80, 0), (80, 10), (10, high), (0, high))
    s.ring((22, 18), 9)
    return "gusset", s.drawing(), [80, 10, 35, 9, 22, 18]


def _flange() -> tuple[str, Drawing, list[float]]:
    s = _Sheet()
    s.ring((0, 0), 110)
    s.ring((0, 0), 48)
    for k in range(6):
        a = math.radians(60 * k)
        s.ring((40 * math.cos(a), 40 * math.sin(a)), 8.5)
    return "flange", s.drawing(), [110, 48, 8.5, 40]


def _angle_bracket() -> tuple[str, Drawing, list[float]]:
    s = _Sheet()
    s.chain((0, 0), (60, 0), (60, 8), (8, 8), (8, 45), (0, 45))
    return "angle bracket", s.drawing(), [60, 8, 45]


def _inch_cover() -> tuple[str, Drawing, list[float]]:
    s = _Sheet()
    inch = 25.4
    s.rounded(3.5 * inch, 2 * inch, 0.25 * inch)
    for x in (0.5, 3.0):
        s.ring((x * inch, inch), 0.375 * inch)
    return "inch cover", s.drawing(), [v * inch for v in (3.5, 2, 0.25, 0.375, 0.5, 2.5, 1)]
