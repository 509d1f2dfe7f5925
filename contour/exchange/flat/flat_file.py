"""A flat drawing read or written by what its file is called."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from contour.exchange.flat.shapes import FlatDrawing, Piece, Text
from contour.recipe.problem import ContourError, Where

__all__ = ["flat_text", "read_flat", "require_size"]

_LARGEST = 50 * 2**20  # bytes


def read_flat(path: Path, *, blocks: bool = False, name: str | None = None) -> FlatDrawing:
    """name: of the file, where its path does not say it. Raises ContourError (file-missing, file-empty, file-too-large, wrong-kind, file-not-understood) that names the file."""
    name = name or path.name
    where = Where(file=name)
    try:
        size = path.stat().st_size
    except OSError:
        raise ContourError(
            "file-missing", "there is no such file", where=where, got=name, remedy="check its name"
        ) from None
    if not size:
        raise ContourError("file-empty", "the file has no bytes", where=where, remedy="save the drawing again")
    require_size(size, name)
    try:
        return _read(path, blocks)
    except ContourError as error:
        raise error.at(file=name) from None


def require_size(size: int, name: str) -> None:
    """size: bytes. Raises ContourError (file-too-large) that names the file."""
    if size > _LARGEST:
        raise ContourError(
            "file-too-large",
            "the drawing is too large",
            where=Where(file=name),
            got=f"{size / 2**20:.0f} MB",
            need=f"at most {_LARGEST // 2**20} MB",
            remedy="save only the view that is needed",
        )


def _read(path: Path, blocks: bool) -> FlatDrawing:
    ending = path.suffix.lower()
    if ending == ".dxf":
        from contour.exchange.flat.dxf_read import read_dxf

        return read_dxf(path, blocks=blocks)
    if ending == ".svg":
        from contour.exchange.flat.svg_read import read_svg

        return read_svg(path)
    raise _no_kind(ending)


def flat_text(kind: str, pieces: Sequence[Piece], texts: Sequence[Text] = ()) -> str:
    """The text of a file of that kind ("dxf" or "svg"), places in mm. Raises ContourError (wrong-kind)."""
    if kind == "dxf":
        from contour.exchange.flat.dxf_write import dxf_text

        return dxf_text(pieces, texts)
    if kind == "svg":
        from contour.exchange.flat.svg_write import svg_text

        return svg_text(pieces, texts)
    raise _no_kind(kind)


def _no_kind(got: str) -> ContourError:
    return ContourError(
        "wrong-kind",
        "this is no flat drawing",
        got=got or "no ending",
        need="a file that ends in .dxf or .svg",
        remedy="save it as DXF or SVG",
    )
