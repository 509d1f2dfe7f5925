"""The one store of this installation."""

from __future__ import annotations

from functools import cache

from django.conf import settings

from contour.job.build.store import Store

__all__ = ["store"]


@cache
def store() -> Store:
    return Store(settings.STORE)
