"""Requests made from the API's own schema, by somebody who is signed in and has a job: no fault of the application, and every
answer as its operation declares it. A fixed number of cases and a fixed seed a run."""

from __future__ import annotations

import itertools
from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from typing import Any

import requests
import schemathesis
from django.test import Client
from hypothesis import HealthCheck, Phase, given, seed, settings
from schemathesis.checks import not_a_server_error
from schemathesis.core.transport import Response
from schemathesis.specs.openapi.checks import (
    content_type_conformance,
    response_schema_conformance,
    status_code_conformance,
)

__all__ = ["Outcome", "fuzz", "through"]

CHECKS = [not_a_server_error, status_code_conformance, content_type_conformance, response_schema_conformance]


@dataclass(slots=True)
class Outcome:
    """How many cases were answered with which status, and what was wrong."""

    cases: int = 0
    statuses: Counter[int] = field(default_factory=Counter)
    faults: list[str] = field(default_factory=list)


def _with_real(value: Any, real: dict[str, Callable[[], Any]], turn: Iterator[int]) -> Any:
    """A made-up value with what exists put in its places five times in six: made-up ids alone would get no further than 404."""
    if isinstance(value, dict):
        return {
            k: real[k]()
            if k in real and not isinstance(v, dict | list) and next(turn) % 4
            else _with_real(v, real, turn)
            for k, v in value.items()
        }
    if isinstance(value, list):
        return [_with_real(v, real, turn) for v in value]
    return value


def _even_tuples(schema: Any) -> Any:
    """Tuples of one type as lists of a length: the fuzzer rewrites `prefixItems` to an older form and then takes it for wrong."""
    if isinstance(schema, list):
        return [_even_tuples(s) for s in schema]
    if not isinstance(schema, dict):
        return schema
    items = schema.get("prefixItems")
    if isinstance(items, list) and items and all(item == items[0] for item in items):
        schema = {**{k: v for k, v in schema.items() if k != "prefixItems"}, "items": items[0]}
    return {k: _even_tuples(v) for k, v in schema.items()}


def fuzz(
    document: dict[str, Any],
    send: Callable[[Any], Any],
    real: dict[str, Callable[[], Any]],
    *,
    cases: int,
    seed_: int,
    skip: tuple[str, ...] = (),
) -> Outcome:
    """`cases` requests to each operation of the schema. `real`: what to put where, by the name of the field or parameter."""
    schema = schemathesis.openapi.from_dict(_even_tuples(document))
    out = Outcome()
    turn = itertools.count()
    for result in schema.get_all_operations():
        operation = result.ok()
        if f"{operation.method.upper()} {operation.path}" in skip:
            continue

        @seed(seed_)
        @settings(
            max_examples=cases,
            deadline=None,
            database=None,
            phases=[Phase.generate],
            suppress_health_check=list(HealthCheck),
            derandomize=False,
        )
        @given(case=operation.as_strategy())
        def one(case: Any) -> None:
            for place in ("path_parameters", "query", "body"):
                given_ = getattr(case, place)
                if isinstance(given_, dict | list):
                    setattr(case, place, _with_real(given_, real, turn))
            out.cases += 1
            response = send(case)
            out.statuses[response.status_code] += 1
            for check in CHECKS:
                try:
                    case.validate_response(response, checks=[check])
                except (Exception, BaseExceptionGroup) as wrong:
                    text = " ".join(str(wrong).split())[:600]
                    out.faults.append(
                        f"{case.method} {case.path} {response.status_code} {check.__name__}: {text}\n   body {str(case.body)[:400]} query {case.query}"
                    )
                    break

        one()
    return out


def through(client: Client) -> Callable[[Any], Response]:
    """Sends cases to the application in this process, as the person the client has signed in."""
    client.raise_request_exception = False

    def send(case: Any) -> Response:
        asked = requests.Request(**case.as_transport_kwargs(base_url="http://testserver")).prepare()
        head = {k: v for k, v in asked.headers.items() if k.lower() not in ("content-type", "content-length", "cookie")}
        body = asked.body.encode() if isinstance(asked.body, str) else asked.body or b""
        answer = client.generic(
            asked.method or "GET",
            asked.path_url,
            body,
            content_type=asked.headers.get("Content-Type", "application/json"),
            headers=head,
        )
        content = b"".join(answer.streaming_content) if answer.streaming else answer.content
        return Response(answer.status_code, {k: [v] for k, v in answer.headers.items()}, content, asked, 0.0, False)

    return send
