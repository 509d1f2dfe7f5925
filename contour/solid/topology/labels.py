"""Lasting names as a person reads them."""

from __future__ import annotations

from collections.abc import Mapping

from contour.solid.topology.resolve import roots, split_name

__all__ = ["corner_label", "edge_label", "face_label"]


def face_label(name: str, steps: Mapping[str, str] | None = None) -> str:
    """A face's name; `steps` maps the first eight characters of a step's id to its name.

    >>> face_label("ab12cd34.side[e4]+ff00ff00.end[p1]", {"ab12cd34": "Base plate", "ff00ff00": "Boss"})
    'Base plate, side e4 (and 1 more)'
    """
    first, *more = sorted(roots(name))
    step, _, part = first.partition(".")
    role, _, entity = part.partition("[")
    owner = step if steps is None else steps.get(step, "a deleted step")
    if role == "imported":
        role = "face"
    text = f"{owner}, {role}" + (f" {entity.rstrip(']')}" if role in ("side", "face") else "")
    return text + (f" (and {len(more)} more)" if more else "")


def edge_label(name: str, steps: Mapping[str, str] | None = None) -> str:
    """An edge's name.

    >>> edge_label("ab12cd34.end[p1]|ab12cd34.side[e4]", {"ab12cd34": "Base plate"})
    'edge of Base plate, end and side e4'
    >>> edge_label("ab12cd34.end[p1]|ff00ff00.side[e4]", {"ab12cd34": "Base plate", "ff00ff00": "Boss"})
    'edge between Base plate, end and Boss, side e4'
    """
    sides = [face_label(part, steps) for part in split_name(split_name(name, "@")[0], "|")]
    if len(sides) == 1:
        return f"seam of {sides[0]}"
    first, second = (s.rpartition(", ") for s in sides[:2])
    if first[0] and first[0] == second[0]:
        return f"edge of {first[0]}, {first[2]} and {second[2]}"
    return f"edge between {' and '.join(sides)}"


def corner_label(name: str, steps: Mapping[str, str] | None = None) -> str:
    """A corner's name."""
    met = [face_label(part, steps) for part in split_name(name.rstrip("?"), "|")]
    return f"corner of {', '.join(met[:3])}" + (f" (and {len(met) - 3} more)" if len(met) > 3 else "")
