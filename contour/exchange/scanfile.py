"""Reading a scan file of any format: its content decides, not its name."""

from __future__ import annotations

from pathlib import Path
from typing import get_args

from contour.exchange.obj import looks_like_obj, read_obj
from contour.exchange.ply import looks_like_ply, read_ply
from contour.exchange.raw import RawScan, ScanFormat
from contour.exchange.stl import looks_like_binary_stl, read_ascii_stl, read_binary_stl
from contour.exchange.threemf import model_parts, read_3mf
from contour.exchange.unpack import MAX_BYTES, gunzipped, is_gzip, is_zip, member, members, open_zip
from contour.exchange.vrml import looks_like_vrml, read_vrml
from contour.recipe.problem import ContourError, Where

__all__ = ["decode_text", "read_scan"]

_ENDINGS = get_args(ScanFormat)


def decode_text(data: bytes) -> str | None:
    """Text of a file in UTF-8, UTF-16 (with or without mark) or Latin-1; None when it is binary."""
    if data[:2] in (b"\xff\xfe", b"\xfe\xff"):
        return data.decode("utf-16", errors="replace")
    head = data[:4096]
    if len(head) >= 8 and head.count(0) > 0:
        for start, codec in ((1, "utf-16-le"), (0, "utf-16-be")):
            nulls = head[start::2]
            if nulls.count(0) > 0.9 * len(nulls):
                return data.decode(codec, errors="replace")
        return None
    if any(byte < 9 for byte in head):
        return None
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        return data.decode("latin-1")


def read_scan(path: Path, *, name: str | None = None) -> RawScan:
    """Read an STL, OBJ, PLY, 3MF or VRML 2 file, gzip'd or the only mesh in a zip too; the content decides which.

    Raises ContourError (file-missing, file-empty, file-too-large, file-not-understood, wrong-ending, no-facets) naming
    the file.
    """
    name = name or path.name
    where = Where(file=name)
    if not path.is_file():
        raise ContourError(
            "file-missing",
            "there is no such file",
            where=where,
            got="no file",
            need="a file that is there",
            remedy="check the path",
        )
    size = path.stat().st_size
    if size == 0:
        raise ContourError(
            "file-empty",
            "the file has no bytes",
            where=where,
            got="0 bytes",
            need="a mesh",
            remedy="export the scan again",
        )
    if size > MAX_BYTES:
        raise ContourError(
            "file-too-large",
            "the file is too large",
            where=where,
            got=f"{size / 2**20:.0f} MB",
            need=f"at most {MAX_BYTES // 2**20} MB",
            remedy="thin the scan out, or save it as binary STL",
        )
    raw = _read(path.read_bytes(), name)
    if len(raw.corners) == 0:
        dropped = "; ".join(n.text() for n in raw.notes) or "nothing but points or headers"
        raise ContourError(
            "no-facets",
            "the file holds no usable facet",
            where=where,
            got=dropped[:300],
            need="a mesh of triangles",
            remedy="export a mesh, not points, from the scanner's software",
        )
    return raw


def _read(data: bytes, name: str, depth: int = 0, said: str | None = None) -> RawScan:
    """`said` is the name without the endings of what it was packed in."""
    said = said or name
    ending = _ending(said)
    text = None
    if depth > 2:
        raise ContourError(
            "file-not-understood",
            "packed files inside packed files",
            where=Where(file=name),
            got=f"{depth} layers of packing",
            need="at most two",
            remedy="unpack it and bring the mesh in by itself",
        )
    if is_gzip(data) and not looks_like_binary_stl(data):
        return _read(gunzipped(data, name), name, depth + 1, _without(said, "gz"))
    if is_zip(data) and not looks_like_binary_stl(data):
        return _read_zip(data, name, depth, ending)
    if looks_like_ply(data):
        raw = read_ply(data, name)
    elif looks_like_binary_stl(data) or (text := decode_text(data)) is None:
        raw = read_binary_stl(data, name)
    elif looks_like_vrml(text):
        raw = read_vrml(text, name)
    elif looks_like_obj(text, f".{ending}"):
        raw = read_obj(text, name)
    else:
        raw = read_ascii_stl(text, name)
    _require_ending(raw.format, ending, name)
    return raw


def _read_zip(data: bytes, name: str, depth: int, ending: str) -> RawScan:
    archive = open_zip(data, name)
    if model_parts(archive):
        _require_ending("3mf", ending, name)
        return read_3mf(archive, name)
    meshes = [n for n in members(archive) if _ending(n) in (*_ENDINGS, "gz")]
    if len(meshes) != 1:
        raise ContourError(
            "file-not-understood",
            "the zip file is no 3MF package and holds not exactly one mesh",
            where=Where(file=name),
            got=", ".join(meshes[:5]) or "no mesh",
            need="one STL, OBJ, PLY or 3MF file",
            remedy="unpack it and bring the mesh in by itself",
        )
    return _read(member(archive, meshes[0], name), f"{name}: {meshes[0]}", depth + 1, meshes[0])


def _ending(name: str) -> str:
    return name.lower().rpartition(".")[2]


def _without(name: str, ending: str) -> str:
    return name[: -len(ending) - 1] if _ending(name) == ending else name


def _require_ending(found: str, ending: str, name: str) -> None:
    """A file that says it is another format than it is has been mixed up by somebody: better asked than guessed."""
    if ending in _ENDINGS and ending != found:
        raise ContourError(
            "wrong-ending",
            f"the file is called .{ending} but holds {found.upper()}",
            where=Where(file=name),
            got=found.upper(),
            need=ending.upper(),
            remedy=f"rename it to .{found}, or choose the file that was meant",
        )
