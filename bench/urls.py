"""Addresses: the API, the demo's way in, and one page for everything else."""

from __future__ import annotations

import sys

from django.conf import settings
from django.contrib.auth import get_user_model, login
from django.http import FileResponse, HttpRequest, HttpResponse, HttpResponseRedirect
from django.urls import path, re_path
from django.views.decorators.csrf import ensure_csrf_cookie

from bench.api import answer_problem, api
from bench.demo_link import demo_link_opens
from bench.faults import reported
from contour.recipe.problem import Problem


def enter(request: HttpRequest, token: str) -> HttpResponse:
    """Signs the demo user in."""
    if demo_link_opens(token):
        user = get_user_model().objects.filter(username="demo").first()
        if user is not None:
            login(request, user, backend="django.contrib.auth.backends.ModelBackend")
    return HttpResponseRedirect("/")


@ensure_csrf_cookie
def page(request: HttpRequest) -> HttpResponse:
    index = settings.WEB_DIST / "index.html"
    if not index.exists():
        return HttpResponse(
            "The front end is not built yet: start with ./run demo", status=503, content_type="text/plain"
        )
    answer = FileResponse(index.open("rb"), content_type="text/html")
    answer["Cache-Control"] = "no-cache"
    return answer


def no_such_address(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    return answer_problem(
        Problem(code="not-found", message="there is nothing at this address", remedy="go back to the shelf")
    )


def fault(request: HttpRequest) -> HttpResponse:
    """What no operation has caught; its traceback is in the log under the report code."""
    error = sys.exc_info()[1]
    return answer_problem(reported(error or RuntimeError("unknown"), f"{request.method} {request.path}"))


handler404 = no_such_address
handler500 = fault

urlpatterns = [path("api/", api.urls), path("enter/<str:token>", enter), re_path(r"^(?!api/|assets/).*$", page)]
