"""STL in: binary and ASCII, several solids, and the ways real files are broken."""

from __future__ import annotations

import numpy as np

from contour.exchange.raw import NoteLog, RawScan, check_facet_count
from contour.recipe.problem import ContourError, Where

__all__ = ["looks_like_binary_stl", "read_ascii_stl", "read_binary_stl"]

_RECORD = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("attribute", "<u2")])


def looks_like_binary_stl(data: bytes) -> bool:
    """True when the size fits the facet count exactly: the word "solid" in a header proves nothing."""
    return len(data) >= 84 and 84 + 50 * int.from_bytes(data[80:84], "little") == len(data)


def read_binary_stl(data: bytes, name: str) -> RawScan:
    """Binary STL; a wrong count is answered with as many whole facets as the bytes hold."""
    if len(data) < 84:
        raise ContourError(
            "file-not-understood",
            "no mesh format that is known",
            where=Where(file=name),
            got=f"{len(data)} bytes of binary data",
            need="an STL, OBJ, PLY or 3MF mesh",
            remedy="export the scan as binary STL",
        )
    told = int.from_bytes(data[80:84], "little")
    held = (len(data) - 84) // 50
    log = NoteLog("facet")
    if told != held:
        log.add_file("wrong-count", f"the header tells {told:,} facets, the file holds {held:,}")
    count = held
    if told < held and 84 + 50 * told < len(data):
        # Trailing bytes may be a writer's comment: keep the told facets unless the rest reads as facets too.
        rest = np.frombuffer(data, _RECORD, held - told, 84 + 50 * told)["corners"]
        sane = np.isfinite(rest).all() and np.abs(rest).max(initial=0) < 1e7 and np.abs(rest).max(initial=0) > 1e-7
        count = held if sane or told == 0 else told
    spare = len(data) - 84 - 50 * count
    if spare:
        log.add_file("trailing-bytes", f"{spare:,} bytes after the last whole facet were dropped")
    check_facet_count(count, name)
    # Records of 50 bytes are unaligned: one copy first makes everything after it several times faster.
    raw = np.ascontiguousarray(np.frombuffer(data, _RECORD, count, 84)["corners"]).reshape(-1, 9)
    # NaN fails every comparison, so one pass over the largest coordinate sorts the facets.
    largest = np.maximum(raw.max(axis=1, initial=0), -raw.min(axis=1, initial=0))
    good = largest < 1e12
    if good.all():
        keep, corners = np.arange(count), raw.reshape(-1, 3, 3).astype(np.float64)
    else:
        finite = np.isfinite(largest)
        log.add("not-finite", "facets with NaN or infinite corners were dropped", np.flatnonzero(~finite))
        log.add("out-of-range", "facets with absurd coordinates were dropped", np.flatnonzero(finite & ~good))
        keep = np.flatnonzero(good)
        corners = raw[keep].reshape(-1, 3, 3).astype(np.float64)
    if len(keep) * 2 < count and told != held:
        # No facet count that fits and mostly rubbish inside: this is some other kind of file.
        raise ContourError(
            "file-not-understood",
            "no mesh format that is known",
            where=Where(file=name),
            got="binary data that is not facets",
            need="an STL, OBJ, PLY or 3MF mesh",
            remedy="export the scan as binary STL",
        )
    header = data[:80].split(b"\0")[0].decode("latin-1").strip()
    return RawScan(corners, keep, count, "stl", (header,) if header else (), log.notes())


def _number(token: str) -> float:
    try:
        return float(token)
    except ValueError:
        return float("nan")


def read_ascii_stl(text: str, name: str) -> RawScan:
    """ASCII STL by its lines: facets of 2 vertices are dropped, of more than 3 are split, each with its line."""
    log = NoteLog("line")
    corners: list[list[float]] = []
    ids: list[int] = []
    solids: list[str] = []
    facet: list[list[float]] = []
    opened = 0
    read = 0
    ended = True

    def close(line: int) -> None:
        nonlocal read, facet, opened
        if not opened and not facet:
            return
        if len(facet) < 3:
            log.add("few-vertices", "facets with fewer than 3 vertices were dropped", opened or line)
            read += 1
        else:
            if len(facet) > 3:
                log.add("many-vertices", "facets with more than 3 vertices were split into triangles", opened or line)
            for k in range(1, len(facet) - 1):
                tri = facet[0] + facet[k] + facet[k + 1]
                # sum of finite numbers is finite: one check for nine
                if abs(sum(map(abs, tri))) < 1e12:
                    corners.append(tri)
                    ids.append(read)
                else:
                    log.add(
                        "not-finite", "facets with NaN, infinite or unreadable corners were dropped", opened or line
                    )
                read += 1
        facet, opened = [], 0

    for number, raw in enumerate(text.splitlines(), 1):
        words = raw.split()
        if not words:
            continue
        head = words[0].lower()
        if head == "vertex":
            point = [_number(w) for w in words[1:4]]
            facet.append(point if len(point) == 3 else [float("nan")] * 3)
        elif head == "facet":
            if opened or facet:
                log.add("no-endfacet", "facets without 'endfacet' were closed at the next one", number)
                close(number)
            opened = number
        elif head == "endfacet":
            close(number)
        elif head == "solid":
            if not ended:
                log.add("no-endsolid", "solids without 'endsolid' were closed at the next one", number)
            solids.append(" ".join(words[1:]))
            ended = False
        elif head == "endsolid":
            close(number)
            ended = True
        elif head not in ("outer", "endloop"):
            log.add("unknown-line", "lines that are not STL were passed over", number)
    last = text.count("\n") + 1
    if opened or facet:
        log.add("truncated", "the last facet is incomplete and was closed where the file ends", last)
        close(last)
    if solids and not ended:
        log.add("no-endsolid", "solids without 'endsolid' were closed at the next one", last)
    if not solids and not corners and read == 0:
        raise ContourError(
            "file-not-understood",
            "no mesh format that is known",
            where=Where(file=name, line=1),
            got=repr(text[:40]),
            need="an STL, OBJ, PLY or 3MF mesh",
            remedy="export the scan as STL, OBJ, PLY or 3MF",
        )
    check_facet_count(read, name)
    array = np.array(corners, dtype=np.float64).reshape(-1, 3, 3)
    return RawScan(array, np.array(ids, dtype=np.int64), read, "stl", tuple(solids), log.notes())
