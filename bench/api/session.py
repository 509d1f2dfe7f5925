"""Signing in and out."""

from __future__ import annotations

from django.contrib.auth import authenticate, login, logout
from django.http import HttpRequest
from django.middleware.csrf import get_token
from ninja import Router, Schema

from contour.recipe.problem import ContourError

router = Router(tags=["session"])


class Who(Schema):
    """user is empty for a stranger; csrf goes into the X-CSRFToken header of every change."""

    user: str
    csrf: str


class Credentials(Schema):
    username: str
    password: str


@router.get("", response=Who, auth=None)
def who(request: HttpRequest) -> Who:
    return Who(user=request.user.get_username() if request.user.is_authenticated else "", csrf=get_token(request))


@router.post("", response=Who, auth=None)
def sign_in(request: HttpRequest, body: Credentials) -> Who:
    user = authenticate(request, username=body.username, password=body.password)
    if user is None:
        raise ContourError("bad-params", "name and password do not belong together", remedy="check both")
    login(request, user)
    return Who(user=user.get_username(), csrf=get_token(request))


@router.delete("", response=Who)
def sign_out(request: HttpRequest) -> Who:
    logout(request)
    return Who(user="", csrf=get_token(request))
