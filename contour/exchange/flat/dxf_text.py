"""DXF as text, mended as far as its tags go: an entity with a number that is none is taken out, a file that breaks off is ended."""

from __future__ import annotations

import io
import re

from contour.exchange.flat.shapes import LeftOut
from contour.recipe.problem import ContourError

__all__ = ["DxfText", "damaged"]

_MOST_MENDED = 50
# Group codes whose value is a coordinate or another real number.
_REAL = frozenset([*range(10, 60), *range(110, 150), *range(210, 240), *range(460, 470), *range(1010, 1060)])
_END = [b"  0", b"ENDSEC", b"  0", b"EOF"]


def damaged(
    message: str, got: str, remedy: str = "save it again, as text, or open it where it was made"
) -> ContourError:
    return ContourError("file-not-understood", message, got=got, need="a DXF file of sections of tags", remedy=remedy)


class DxfText:
    """Lines of a file, of which two make a tag. left_out: what was taken out so that the rest can be read."""

    def __init__(self, lines: list[bytes], left_out: list[LeftOut]) -> None:
        self.lines = lines
        self.numbers = list(range(1, len(lines) + 1))
        self.left_out = left_out

    @classmethod
    def of(cls, data: bytes) -> DxfText:
        """Raises ContourError (file-not-understood) where it is no DXF from the start."""
        lines = data.removeprefix(b"\xef\xbb\xbf").splitlines()
        if b"SECTION" not in (line.strip() for line in lines[:400]):
            first = lines[0][:40].decode("utf-8", "replace") if lines else "nothing"
            raise damaged("this is no DXF", f"'{first}' on line 1")
        while lines and not lines[-1].strip():
            lines.pop()
        if lines[-1].strip() == b"EOF":
            return cls(lines, [])._checked()
        # It breaks off: the entity it breaks off in is not whole.
        lines = lines[: len(lines) // 2 * 2]
        at = max((k for k in range(0, len(lines), 2) if lines[k].strip() == b"0"), default=0)
        told = LeftOut(_kind(lines, at), "", f"the file breaks off at line {len(lines) + 1}")
        return cls([*lines[:at], *_END], [told])._checked()

    def _checked(self) -> DxfText:
        """Without entities that have a number that is none: what reads them would make another of it."""
        kept: list[bytes] = []
        numbers: list[int] = []
        first, bad, section = 0, 0, b""
        for k in range(0, len(self.lines) + 1, 2):
            end = k + 1 >= len(self.lines)
            code, value = (b"0", b"") if end else (self.lines[k].strip(), self.lines[k + 1].strip())
            if code == b"0" or end:
                if bad and section in (b"ENTITIES", b"BLOCKS"):
                    said = self.lines[bad].strip()[:20].decode("utf-8", "replace")
                    why = f"damaged at line {self.numbers[bad]}: '{said}' is no number"
                    self.left_out.append(LeftOut(_kind(self.lines, first), "", why))
                else:
                    kept += self.lines[first:k]
                    numbers += self.numbers[first:k]
                first, bad = k, 0
            elif code == b"2" and _kind(self.lines, first) == "SECTION":
                section = value
            elif not bad and code.isdigit() and int(code) in _REAL and not _is_real(value):
                bad = k + 1
        self.lines, self.numbers = kept, numbers
        return self

    def stream(self) -> io.BytesIO:
        return io.BytesIO(b"\n".join(self.lines) + b"\n")

    def without(self, error: Exception) -> None:
        """Takes out the entity that an error names by its line. Raises ContourError where it names none, or too many were taken out."""
        found = re.search(r"line:? (\d+)", str(error))
        at = int(found.group(1)) if found else 0
        starts = [k for k in range(0, min(at, len(self.lines)), 2) if self.lines[k].strip() == b"0"]
        if not starts or len(self.left_out) >= _MOST_MENDED:
            raise damaged("this DXF is damaged", str(error)[:160]) from None
        first = starts[-1]
        last = next((k for k in range(first + 2, len(self.lines), 2) if self.lines[k].strip() == b"0"), len(self.lines))
        kind = _kind(self.lines, first)
        if kind in ("SECTION", "ENDSEC", "TABLE", "EOF", ""):
            raise damaged("this DXF is damaged", str(error)[:160]) from None
        self.left_out.append(LeftOut(kind, "", f"damaged at line {self.numbers[at - 1]}"))
        del self.lines[first:last], self.numbers[first:last]


def _is_real(value: bytes) -> bool:
    try:
        float(value)
    except ValueError:
        return False
    return True


def _kind(lines: list[bytes], at: int) -> str:
    return lines[at + 1].strip().decode("ascii", "replace")[:40] if at + 1 < len(lines) else ""
