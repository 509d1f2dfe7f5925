"""Building jobs: keys, the product cache, rebuilding, and the runner of killable children.

As a library: ``from contour import job``, then :func:`load`, :func:`change`, :func:`run`; see docs/library.md.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from contour.job.work.library import BuiltJob, change, load, run

__all__ = ["BuiltJob", "change", "load", "run"]


def __getattr__(name: str) -> Any:
    # Whoever imports a room of this house does not pay for the whole of it.
    if name in __all__:
        from contour.job.work import library

        return getattr(library, name)
    raise AttributeError(name)
