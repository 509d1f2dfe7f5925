"""Whose a kept file is. A hash alone opens nothing: whoever names a file must have brought it in, or made it here."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from functools import wraps
from typing import Any

from django.contrib.auth.models import AbstractBaseUser
from django.db.models import Q
from django.http import HttpRequest

from bench.models import KeptFile
from bench.store import store
from contour.recipe.params import blobs_in
from contour.recipe.problem import ContourError

__all__ = ["claim", "keep", "named_files_are_own", "require_own"]


def claim(owner: AbstractBaseUser | None, digest: str) -> None:
    """Say that a kept file is theirs; without an owner it came with the application and is everybody's."""
    KeptFile.objects.get_or_create(owner=owner, digest=digest)


def keep(owner: AbstractBaseUser | None, data: bytes) -> str:
    """Keep bytes as a file of `owner`'s; its hash."""
    digest = store().put_blob(data)
    claim(owner, digest)
    return digest


def require_own(owner: AbstractBaseUser, digests: Iterable[str]) -> None:
    """Raises ContourError (not-found) for a file that is not theirs, in the same words whether anybody else has it or not."""
    wanted = set(digests)
    if not wanted:
        return
    theirs = KeptFile.objects.filter(Q(owner=owner) | Q(owner=None), digest__in=wanted)
    foreign = wanted - set(theirs.values_list("digest", flat=True))
    if foreign:
        raise ContourError(
            "not-found", "you have no file with this hash", got=min(foreign)[:12], remedy="bring the file in again"
        )


def named_files_are_own(view: Callable[..., Any]) -> Callable[..., Any]:
    """Around every operation of the API: whatever file its parameters name, by their declared type, must be the asker's own."""

    @wraps(view)
    def checked(request: HttpRequest, *args: Any, **kwargs: Any) -> Any:
        if request.user.is_authenticated:
            require_own(request.user, blobs_in(list(kwargs.values())))
        return view(request, *args, **kwargs)

    return checked
