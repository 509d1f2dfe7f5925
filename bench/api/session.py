"""Signing in and out."""

from __future__ import annotations

from django.contrib.auth import authenticate, login, logout
from django.http import HttpRequest
from django.middleware.csrf import get_token
from ninja import Router, Schema
from ninja.utils import check_csrf
from pydantic import Field

from contour.recipe.problem import ContourError

router = Router(tags=["session"])


class Who(Schema):
    """user is empty for a stranger; csrf goes into the X-CSRFToken header of every change."""

    user: str
    csrf: str


class Credentials(Schema):
    username: str = Field(max_length=150)
    password: str = Field(max_length=4096)


@router.get("", response=Who, auth=None)
def who(request: HttpRequest) -> Who:
    return Who(user=request.user.get_username() if request.user.is_authenticated else "", csrf=get_token(request))


@router.post("", response=Who, auth=None)
def sign_in(request: HttpRequest, body: Credentials) -> Who:
    """Only from our own page: another one could sign somebody in as somebody else. Guessing is slowed down."""
    if check_csrf(request) is not None:
        raise ContourError(
            "not-allowed", "this did not come from the application's own page", remedy="load the page again"
        )
    user = authenticate(request, username=body.username, password=body.password)
    if user is None:
        raise ContourError("bad-params", "name and password do not belong together", remedy="check both")
    login(request, user)
    return Who(user=user.get_username(), csrf=get_token(request))


@router.delete("", response=Who)
def sign_out(request: HttpRequest) -> Who:
    logout(request)
    return Who(user="", csrf=get_token(request))
