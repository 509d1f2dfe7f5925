"""What the machine under the application does to it, in sentences: a full disk, a locked database, a folder that cannot be written."""

from __future__ import annotations

import errno
import logging
import secrets
from pathlib import Path

from django.db import DatabaseError

from contour.recipe.problem import ContourError, Problem

__all__ = ["fault_of", "reported"]

log = logging.getLogger("contour.faults")

_FULL = Problem(
    code="no-space",
    message="the disk is full, so nothing could be kept",
    need="room in the folder that holds the jobs",
    remedy="make room, then do it again; what was kept before is there",
)
_BUSY = Problem(
    code="busy",
    message="the database is held by another program",
    need="the database to itself",
    remedy="wait a moment, then do it again",
)
_READ_ONLY = Problem(
    code="read-only",
    message="the folder that holds the jobs cannot be written",
    need="the right to write there",
    remedy="give the user who runs the server that right, then do it again",
)


def fault_of(error: BaseException) -> Problem | None:
    """The sentence for what the system says; none for anything else."""
    if isinstance(error, OSError):
        known = {
            errno.ENOSPC: _FULL,
            errno.EDQUOT: _FULL,
            errno.EROFS: _READ_ONLY,
            errno.EACCES: _READ_ONLY,
            errno.EPERM: _READ_ONLY,
            errno.ENOTDIR: _READ_ONLY,
        }
        found = known.get(error.errno or 0)
        return found and found.model_copy(update={"got": Path(str(error.filename)).name if error.filename else None})
    if isinstance(error, DatabaseError):
        text = str(error).lower()
        if "full" in text:
            return _FULL
        if "locked" in text or "busy" in text:
            return _BUSY
        if "readonly" in text or "read-only" in text or "unable to open" in text:
            return _READ_ONLY
    return None


def reported(error: BaseException, doing: str) -> Problem:
    """The problem that a person is told for an error nobody foresaw; its report code finds the traceback in the log."""
    if isinstance(error, ContourError):
        return error.problem
    known = fault_of(error)
    if known is not None:
        log.warning("%s: %s", doing, error)
        return known
    code = secrets.token_hex(4)
    log.error("report %s, %s", code, doing, exc_info=error)
    return Problem(
        code="crashed",
        message="a fault of the application: it is in the server's log",
        got=f"report {code}",
        remedy="do it again; if it stays, tell whoever runs the server this report code",
    )
