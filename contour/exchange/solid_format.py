"""Whether a file is STEP or IGES, by its content; the kernel is not asked."""

from __future__ import annotations

from pathlib import Path
from typing import Literal

from contour.recipe.problem import ContourError, Where

__all__ = ["Format", "format_of", "is_solid_file"]

Format = Literal["step", "iges"]
_PART21 = b"ISO-10303-21"


def format_of(path: Path) -> Format:
    """What a file's content says it is. Raises ContourError (file-missing, file-empty, file-not-understood)."""
    if not path.is_file():
        raise ContourError(
            "file-missing",
            "there is no such file",
            where=Where(file=path.name),
            got="no file",
            need="a file that is there",
            remedy="check the path",
        )
    with path.open("rb") as file:
        head = file.read(4096)
    if not head.strip():
        raise ContourError(
            "file-empty",
            "the file is empty",
            where=Where(file=path.name),
            got="nothing but blanks",
            need="a STEP or IGES file",
            remedy="export the solid again",
        )
    if head.lstrip()[:64].startswith(_PART21):
        return "step"
    lines = head.splitlines()
    if lines and any(len(line) >= 73 and line[72:73] == b"S" for line in lines[:3]):
        return "iges"
    raise ContourError(
        "file-not-understood",
        "this is neither STEP nor IGES",
        where=Where(file=path.name),
        got=repr(head[:24].decode("latin-1")),
        need="a file that begins with ISO-10303-21, or IGES with its sections marked in column 73",
        remedy="export the solid as STEP",
    )


def is_solid_file(path: Path) -> bool:
    """Whether a file is STEP or IGES by its content."""
    try:
        return bool(format_of(path))
    except ContourError:
        return False
