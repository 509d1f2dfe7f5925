"""What an operation can answer beside what it declares itself: one table of problems and their statuses, one of files."""

from __future__ import annotations

import json
import math
from collections.abc import Sequence
from typing import Any

from django.http import HttpRequest, HttpResponse, JsonResponse
from ninja import NinjaAPI, Schema
from ninja.openapi.schema import OpenAPISchema
from ninja.parser import Parser
from ninja.renderers import JSONRenderer
from ninja.responses import NinjaJSONEncoder

from contour.recipe.problem import Code, ContourError, Problem

__all__ = ["FILES", "STATUS", "ContourAPI", "ProblemOut", "answer_problem", "status_of"]

STATUS: dict[Code, int] = {
    "not-signed-in": 401,
    "not-allowed": 403,
    "not-found": 404,
    "file-missing": 404,
    "stale-revision": 409,
    "unchanged": 409,
    "cancelled": 409,
    "file-too-large": 413,
    "flood": 413,
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
    "wrong-kind": 422,
    "wrong-ending": 422,
    "not-mended": 422,
    "no-symmetry": 422,
    "no-overlap": 422,
    "not-aligned": 422,
    "crashed": 422,
    "time-limit": 422,
    "out-of-memory": 422,
    "too-many-tries": 429,
    "busy": 503,
    "read-only": 503,
    "no-space": 507,
}
_OTHER = 400
_MOST = 1e12
_FAULT = 500  # of the application: never meant, and never without a report code

# What is no JSON, by the end of its address.
FILES: dict[str, tuple[str, ...]] = {
    "/picture": ("image/png",),
    "/view": ("application/octet-stream",),
    "/deviation": ("application/octet-stream",),
    "/facets": ("application/octet-stream",),
    "/labels": ("application/octet-stream",),
    "/photo": ("image/png", "image/jpeg"),
    "/flat": ("image/jpeg",),
    "/file": ("application/octet-stream", "model/stl", "application/step", "model/obj", "model/3mf"),
    "/readings.csv": ("text/csv",),
}


class ProblemOut(Schema):
    """Every refusal, whatever its status. also: what else is wrong in the same form."""

    problem: Problem
    also: list[Problem] = []


def status_of(code: Code) -> int:
    return STATUS.get(code, _OTHER)


def answer_problem(problem: Problem, status: int | None = None, also: Sequence[Problem] = ()) -> HttpResponse:
    return JsonResponse(
        {"problem": problem.model_dump(mode="json"), "also": [p.model_dump(mode="json") for p in also]},
        status=status or (_FAULT if problem.code == "crashed" else status_of(problem.code)),
    )


def _finite(value: Any) -> Any:
    if isinstance(value, float) and not math.isfinite(value):
        return None
    if isinstance(value, dict):
        return {k: _finite(v) for k, v in value.items()}
    if isinstance(value, list | tuple):
        return [_finite(v) for v in value]
    return value


class _Renderer(JSONRenderer):
    """JSON has no NaN and no infinity: what is not known is null."""

    def render(self, request: HttpRequest, data: Any, *, response_status: int) -> Any:
        try:
            return json.dumps(data, cls=NinjaJSONEncoder, allow_nan=False)
        except ValueError:
            return json.dumps(_finite(data), cls=NinjaJSONEncoder, allow_nan=False)


def _no_number(text: str) -> float:
    raise ContourError("bad-params", "a number must be finite", got=text[:20], need="a number that JSON knows")


def _real(text: str) -> float:
    value = float(text)
    if not math.isfinite(value):
        return _no_number(text)
    if abs(value) > _MOST:  # nothing here is as far away, as heavy or as many
        raise ContourError("bad-params", "a number is too large", got=text[:20], need=f"at most {_MOST:g}")
    return value


def _whole(text: str) -> int:
    if len(text) > 16:
        raise ContourError("bad-params", "a whole number is too large", got=text[:20] + "…", need="at most 15 digits")
    return int(text)


class _Parser(Parser):
    """Bodies as JSON is defined: no NaN, no infinity by way of 1e999, no halves of characters that no text can hold."""

    def parse_body(self, request: HttpRequest) -> Any:
        try:
            found = json.loads(request.body, parse_constant=_no_number, parse_float=_real, parse_int=_whole)
            if b"\\ud" in request.body or b"\\uD" in request.body:
                json.dumps(found, ensure_ascii=False).encode()
        except UnicodeEncodeError:
            raise ContourError(
                "bad-params", "a text holds half a character", need="text that is valid Unicode"
            ) from None
        except (ValueError, RecursionError):
            raise ContourError(
                "bad-params", "the request's body is no JSON that can be read", remedy="send it again"
            ) from None
        return found


class ContourAPI(NinjaAPI):
    """Every operation declares the problems it can answer with, and the files among them their types."""

    def __init__(self, **options: Any) -> None:
        super().__init__(parser=_Parser(), renderer=_Renderer(), **options)

    def get_openapi_schema(self, **options: Any) -> OpenAPISchema:
        schema = super().get_openapi_schema(**options)
        models = ProblemOut.model_json_schema(ref_template="#/components/schemas/{model}")
        schema["components"]["schemas"].update({**models.pop("$defs", {}), "ProblemOut": models})
        schema["components"]["responses"] = {
            "Problem": {
                "description": "Refused: what, where, why and what to try",
                "content": {"application/json": {"schema": {"$ref": "#/components/schemas/ProblemOut"}}},
            }
        }
        refused = {"$ref": "#/components/responses/Problem"}
        statuses = sorted({*STATUS.values(), _OTHER, _FAULT})
        for path, item in schema["paths"].items():
            for operation in item.values():
                responses = operation["responses"]
                types = next((t for end, t in FILES.items() if path.endswith(end)), None)
                if types and 200 in responses and "content" not in responses[200]:
                    binary = {"type": "string", "format": "binary"}
                    responses[200]["content"] = {t: {"schema": binary} for t in types}
                responses.update(dict.fromkeys(statuses, refused))
        return schema
