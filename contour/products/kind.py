"""What a kind of product declares: how it is kept, what place in space it stands for, and what is kept beside it for the view."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, Generic, Literal, TypeVar

from contour.construct.place import Place
from contour.recipe.reference import PartResolver

__all__ = ["Extras", "ProductKind"]

P = TypeVar("P")


@dataclass(frozen=True, slots=True)
class Extras:
    """What is wanted beside a product itself. view: its buffers for the view and the distances · measure: figures that take the
    kernel long · parts: a list of what can be pointed to on it, which else is made when somebody asks for it."""

    view: bool = True
    measure: bool = True
    parts: bool = True


@dataclass(frozen=True, slots=True)
class ProductKind(Generic[P]):
    """One kind of product; everything that handles products reads this.

    id: what steps say they make, and references accept · file: what its folder holds and no other kind's does ·
    save, load: its codec · beside: writes what the view and the distances need, and says what is known of the product (kept as
    ``about`` of it) · place: the plane, axis or point it stands for, none for what has no place · state_of: what its slot
    names: a step of its own (""), or a scan, body or file of solids, whose present state it then is · read_off_scan: its figures are as good
    as the scan they were read from · parts: kinds of parts of it that can be pointed to, and how each is found · version: raise it when the same product is kept, or what is beside it, another way.
    """

    id: str
    model: type[P]
    file: str
    save: Callable[[P, Path], None]
    load: Callable[[Path], P]
    beside: Callable[[P, Path, Extras], dict[str, Any]] | None = None
    place: Callable[[P], Place] | None = None
    state_of: Literal["", "scan", "body", "solid"] = ""
    read_off_scan: bool = False
    parts: Mapping[str, PartResolver] = field(default_factory=dict)
    version: int = 1
