"""Unpacking gzip and zip with a limit: what a small file claims to hold is never trusted."""

from __future__ import annotations

import io
import zipfile
import zlib

from contour.recipe.problem import ContourError, Where

__all__ = ["MAX_BYTES", "gunzipped", "is_gzip", "is_zip", "member", "members", "open_zip"]

MAX_BYTES = 500 * 1024 * 1024
_CHUNK = 1 << 20


def is_gzip(data: bytes) -> bool:
    """Whether the bytes begin as gzip does."""
    return data[:2] == b"\x1f\x8b"


def is_zip(data: bytes) -> bool:
    """Whether the bytes begin as a ZIP archive does."""
    return data[:4] in (b"PK\x03\x04", b"PK\x05\x06")


def _bomb(name: str, limit: int) -> ContourError:
    return ContourError(
        "file-too-large",
        "the file unpacks to more than the limit",
        where=Where(file=name),
        got=f"more than {limit // 2**20} MB",
        need=f"at most {limit // 2**20} MB",
        remedy="thin the scan out, or save it as binary STL",
    )


def _damaged(name: str, why: object) -> ContourError:
    return ContourError(
        "file-not-understood",
        "the packed file is damaged",
        where=Where(file=name),
        got=str(why)[:120],
        need="a packed file that unpacks",
        remedy="copy or export the file again",
    )


def gunzipped(data: bytes, name: str, *, limit: int = MAX_BYTES) -> bytes:
    """All members of a gzip file; raises ContourError (file-too-large, file-not-understood)."""
    out: list[bytes] = []
    size = 0
    while data[:2] == b"\x1f\x8b":
        unpack = zlib.decompressobj(wbits=31)
        try:
            while not unpack.eof:
                piece = unpack.decompress(data, _CHUNK)
                data = unpack.unconsumed_tail
                size += len(piece)
                if size > limit:
                    raise _bomb(name, limit)
                out.append(piece)
                if not piece and not data and not unpack.eof:
                    raise _damaged(name, "it ends in the middle")
        except zlib.error as error:
            raise _damaged(name, error) from None
        data = unpack.unused_data.lstrip(b"\0")
    return b"".join(out)


def open_zip(data: bytes, name: str) -> zipfile.ZipFile:
    """Raises ContourError (file-not-understood) when the directory cannot be read."""
    try:
        return zipfile.ZipFile(io.BytesIO(data))
    except (zipfile.BadZipFile, ValueError, EOFError, NotImplementedError) as error:
        raise _damaged(name, error) from None


def members(archive: zipfile.ZipFile) -> list[str]:
    """Files in the archive, without folders and without the notes some systems add."""
    return [n for n in archive.namelist() if not n.endswith("/") and not n.startswith("__MACOSX/")]


def member(archive: zipfile.ZipFile, part: str, name: str, *, limit: int = MAX_BYTES) -> bytes:
    """One file of an archive, read in pieces so that a false size in the directory cannot hurt.

    Raises ContourError (file-too-large, file-not-understood).
    """
    out: list[bytes] = []
    size = 0
    try:
        with archive.open(part) as f:
            while piece := f.read(_CHUNK):
                size += len(piece)
                if size > limit:
                    raise _bomb(name, limit)
                out.append(piece)
    except (
        zipfile.BadZipFile,
        zlib.error,
        EOFError,
        RuntimeError,
        NotImplementedError,
        KeyError,
        ValueError,
        OSError,
    ) as error:
        raise _damaged(name, error) from None
    return b"".join(out)
