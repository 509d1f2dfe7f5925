"""Lasting names as a person reads them."""

from __future__ import annotations

from collections.abc import Mapping

from contour.solid.topology.resolve import roots, split_name

__all__ = ["corner_label", "edge_label", "face_label"]


def face_label(name: str, steps: Mapping[str, str] | None = None) -> str:
    """A face's name; `steps` maps the first eight characters of a step's id to its name.

    >>> face_label("ab12cd34.side[e4]+ff00ff00.end[p1]", {"ab12cd34": "Base plate", "ff00ff00": "Boss"})
    'Base plate, side e4 (and 1 more)'
    >>> face_label("ab12cd34.copy3[ff00ff00.side[e2]]", {"ab12cd34": "Pins", "ff00ff00": "Pin"})
    'Pins, copy3 of Pin, side e2'
    >>> face_label("ab12cd34.copy2-ff00ff00-side[e2]", {"ab12cd34": "Again", "ff00ff00": "Pocket"})
    'Again, copy2 of Pocket, side e2'
    """
    first, *more = sorted(roots(name))
    return _root_label(first, steps) + (f" (and {len(more)} more)" if more else "")


def _root_label(name: str, steps: Mapping[str, str] | None) -> str:
    step, _, part = name.partition(".")
    role, _, inner = part.partition("[")
    inner = inner.removesuffix("]")
    owner = step if steps is None else steps.get(step, "a deleted step")
    if role.count("-") == 2:
        # Of a step that was done again: which copy, of which step, and what it is there.
        copy, of, what = role.split("-")
        return f"{owner}, {copy} of {_root_label(f'{of}.{what}[{inner}]', steps)}"
    if inner.count(".") == 1 and "|" not in inner:
        return f"{owner}, {role} of {_root_label(inner, steps)}"
    if role == "imported":
        role = "face"
    return f"{owner}, {role}" + (f" {inner}" if role in ("side", "face", "thread") else "")


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
