"""The API: thin views, one table from problems to HTTP codes."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from ninja import NinjaAPI
from ninja.errors import AuthenticationError, ValidationError
from ninja.security import django_auth

from bench.api import (
    deliveries,
    desk,
    history,
    jobs,
    pictures,
    products,
    proposals,
    queries,
    regions,
    scans,
    sections,
    session,
    uploads,
)
from bench.blobs import named_files_are_own
from contour.recipe.problem import ContourError, Problem, Where

__all__ = ["api"]

_STATUS = {
    "not-found": 404,
    "file-missing": 404,
    "stale-revision": 409,
    "unchanged": 409,
    "cancelled": 409,
    "file-too-large": 413,
    "fit-failed": 422,
    "far-from-scan": 422,
    "degenerate": 422,
    "no-section": 422,
    "outline-changed": 422,
    "nothing-found": 422,
    "no-facets": 422,
    "no-profile": 422,
    "no-body": 422,
    "file-empty": 422,
    "file-not-understood": 422,
    "body-broken": 422,
    "ref-lost": 422,
    "ref-ambiguous": 422,
    "too-few-facets": 422,
    "too-few-points": 422,
    "bad-line": 422,
    "flood": 413,
    "wrong-kind": 422,
    "wrong-ending": 422,
    "not-mended": 422,
    "no-symmetry": 422,
    "no-overlap": 422,
    "not-aligned": 422,
}

api = NinjaAPI(title="Usable Contour", version="1", auth=django_auth, docs_url=None, urls_namespace="api")
api.add_decorator(named_files_are_own, mode="operation")
api.add_router("/session", session.router)
api.add_router("/jobs", jobs.router)
api.add_router("/uploads", uploads.router)
api.add_router("/jobs", products.router)
api.add_router("/jobs", queries.router)
api.add_router("/jobs", deliveries.router)
api.add_router("/jobs", history.router)
api.add_router("/jobs", proposals.router)
api.add_router("/jobs", scans.router)
api.add_router("/jobs", desk.router)
api.add_router("/jobs", regions.router)
api.add_router("/jobs", sections.router)
api.add_router("/jobs", pictures.router)
api.add_router("/caliper", desk.lines)


def _answer(request: HttpRequest, problem: Problem, status: int) -> HttpResponse:
    return api.create_response(request, {"problem": problem.model_dump(mode="json")}, status=status)


@api.exception_handler(ContourError)
def _problem(request: HttpRequest, error: ContourError) -> HttpResponse:
    return _answer(request, error.problem, _STATUS.get(error.problem.code, 400))


@api.exception_handler(ValidationError)
def _invalid(request: HttpRequest, error: ValidationError) -> HttpResponse:
    first: dict[str, Any] = error.errors[0]
    place = ".".join(str(p) for p in first["loc"])
    return _answer(request, Problem(code="bad-params", message=first["msg"], where=Where(param=place)), 400)


@api.exception_handler(AuthenticationError)
def _stranger(request: HttpRequest, error: AuthenticationError) -> HttpResponse:
    return _answer(request, Problem(code="not-found", message="please sign in", remedy="sign in again"), 401)
