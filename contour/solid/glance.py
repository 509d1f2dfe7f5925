"""Whether solids are made for a picture that is looked at while a value is typed: then they are not searched for what is seldom wrong and takes long to find.

What is kept is always made anew, with all of it.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar

__all__ = ["at_a_glance", "for_a_picture"]

_glance = ContextVar("glance", default=False)


def at_a_glance() -> bool:
    """Whether what is made now is only looked at."""
    return _glance.get()


@contextmanager
def for_a_picture() -> Iterator[None]:
    """What is made within it is only looked at."""
    token = _glance.set(True)
    try:
        yield
    finally:
        _glance.reset(token)
