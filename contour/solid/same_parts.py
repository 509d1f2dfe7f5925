"""What was worked out of faces and edges, told again of the same ones in the next body.

A step changes a few faces of a body and leaves the others to the last byte as they were, though it stands as a body of its own, read from a file of its own.
"""

from __future__ import annotations

import hashlib
import io
from collections import OrderedDict
from collections.abc import Callable
from functools import wraps
from typing import TypeVar

from OCP.BinTools import BinTools, BinTools_FormatVersion
from OCP.TopoDS import TopoDS_Shape

__all__ = ["fingerprint", "told_of_parts"]

T = TypeVar("T")
_MOST_PRINTS = 8_000  # parts of shapes at hand
_MOST_TOLD = 4_000  # of each function

_prints: dict[int, tuple[TopoDS_Shape, bytes]] = {}


def fingerprint(part: TopoDS_Shape) -> bytes:
    """Of a face or an edge: its geometry, borders, tolerances, place and orientation to the last bit. A tenth of a millisecond, the first time that this very
    part of this very shape is asked about. What the kernel notes at edges of triangles counts: ask before there are any, and it stays as it was."""
    known = _prints.get(hash(part))
    if known is not None and known[0].IsEqual(part):
        return known[1]
    buffer = io.BytesIO()
    BinTools.Write_s(part, buffer, False, False, BinTools_FormatVersion.BinTools_FormatVersion_CURRENT)
    digest = hashlib.blake2b(buffer.getvalue(), digest_size=16).digest()
    if len(_prints) >= _MOST_PRINTS:
        _prints.clear()
    _prints[hash(part)] = (part, digest)
    return digest


def told_of_parts(function: Callable[..., T]) -> Callable[..., T]:
    """For a function of faces and edges alone, given by place: what it told of parts of the same bytes before. What it tells is not to be changed."""
    told: OrderedDict[tuple[bytes, ...], T] = OrderedDict()

    @wraps(function)
    def asked(*parts: TopoDS_Shape) -> T:
        key = tuple(map(fingerprint, parts))
        if key in told:
            told.move_to_end(key)
            return told[key]
        said = told[key] = function(*parts)
        if len(told) > _MOST_TOLD:
            told.popitem(last=False)
        return said

    return asked
