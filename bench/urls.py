"""Addresses: the API, the demo's way in, and one page for everything else."""

from __future__ import annotations

from django.conf import settings
from django.contrib.auth import get_user_model, login
from django.http import FileResponse, HttpRequest, HttpResponse, HttpResponseRedirect
from django.urls import path, re_path
from django.utils.crypto import constant_time_compare
from django.views.decorators.csrf import ensure_csrf_cookie

from bench.api import api


def enter(request: HttpRequest, token: str) -> HttpResponse:
    """Signs the demo user in; the token is made anew at every start of the demo and lies in its folder."""
    path_ = settings.VAR / "demo-token"
    if settings.DEMO and path_.exists() and constant_time_compare(path_.read_text(), token):
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


urlpatterns = [
    path("api/", api.urls),
    path("enter/<str:token>", enter),
    re_path(r"^(?!api/|assets/).*$", page),
]
