"""The API: thin views, one table from problems to HTTP codes."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from ninja.errors import AuthenticationError, HttpError, ValidationError
from ninja.security import django_auth

from bench.api import (
    declarations,
    deliveries,
    desk,
    drawings,
    fits,
    flat_files,
    history,
    jobs,
    laid,
    linkable,
    outlines,
    pictures,
    products,
    proposals,
    queries,
    regions,
    scans,
    sections,
    session,
    uploads,
    work,
)
from bench.api.answers import ContourAPI, answer_problem, status_of
from bench.blobs import named_files_are_own
from bench.faults import reported
from contour.recipe.problem import ContourError, Problem, Where

__all__ = ["answer_problem", "api", "locked_out", "no_cross_site"]

api = ContourAPI(title="Usable Contour", version="1", auth=django_auth, docs_url=None, urls_namespace="api")
api.add_decorator(named_files_are_own, mode="operation")
api.add_router("/session", session.router)
api.add_router("/declarations", declarations.router)
api.add_router("/jobs", jobs.router)
api.add_router("/uploads", uploads.router)
api.add_router("/work", work.router)
api.add_router("/jobs", products.router)
api.add_router("/jobs", queries.router)
api.add_router("/jobs", deliveries.router)
api.add_router("/jobs", history.router)
api.add_router("/jobs", proposals.router)
api.add_router("/jobs", scans.router)
api.add_router("/jobs", desk.router)
api.add_router("/jobs", regions.router)
api.add_router("/jobs", sections.router)
api.add_router("/jobs", outlines.router)
api.add_router("/jobs", drawings.router)
api.add_router("/jobs", linkable.router)
api.add_router("/jobs", flat_files.router)
api.add_router("/jobs", fits.router)
api.add_router("/jobs", laid.router)
api.add_router("/jobs", pictures.router)
api.add_router("/caliper", desk.lines)


@api.exception_handler(ContourError)
def _problem(request: HttpRequest, error: ContourError) -> HttpResponse:
    return answer_problem(error.problem, status_of(error.problem.code), error.also)


@api.exception_handler(ValidationError)
def _invalid(request: HttpRequest, error: ValidationError) -> HttpResponse:
    first: dict[str, Any] = error.errors[0]
    place = ".".join(str(p) for p in first["loc"])
    return answer_problem(Problem(code="bad-params", message=first["msg"], where=Where(param=place)))


@api.exception_handler(AuthenticationError)
def _stranger(request: HttpRequest, error: AuthenticationError) -> HttpResponse:
    return answer_problem(Problem(code="not-signed-in", message="please sign in", remedy="sign in again"))


@api.exception_handler(HttpError)
def _refused(request: HttpRequest, error: HttpError) -> HttpResponse:
    cause = error.__cause__ or error.__context__
    if isinstance(cause, ContourError):  # a body that our own parser has refused
        return answer_problem(cause.problem)
    return answer_problem(Problem(code="bad-params", message=str(error)), error.status_code)


@api.exception_handler(Exception)
def _fault(request: HttpRequest, error: Exception) -> HttpResponse:
    return answer_problem(reported(error, f"{request.method} {request.path}"))


def no_cross_site(request: HttpRequest, reason: str = "") -> HttpResponse:
    """A change that did not come from our own page."""
    return answer_problem(
        Problem(
            code="not-allowed",
            message="this change did not come from the application's own page",
            remedy="load the page again",
        )
    )


def locked_out(request: HttpRequest, *_: Any) -> HttpResponse:
    """Too many wrong tries to sign in: whatever the last one's answer was, this is given."""
    return answer_problem(
        Problem(
            code="too-many-tries",
            message="too many wrong tries for this name",
            need="ten minutes without one",
            remedy="wait, then sign in with the right password",
        )
    )
