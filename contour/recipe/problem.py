"""One way to say what went wrong: where, what was met, what is needed, what to try next."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal, get_args

from pydantic import BaseModel, ConfigDict, Field

__all__ = ["CODES", "Code", "ContourError", "Offer", "Problem", "Where"]

Code = Literal[
    "bad-formula",
    "bad-params",
    "bad-recipe",
    "body-broken",
    "cancelled",
    "crashed",
    "degenerate",
    "file-empty",
    "file-missing",
    "file-not-understood",
    "file-too-large",
    "far-from-scan",
    "fit-failed",
    "mixed-dimensions",
    "no-body",
    "no-facets",
    "no-profile",
    "no-section",
    "no-solution",
    "not-found",
    "open-end",
    "out-of-memory",
    "overhang",
    "outline-changed",
    "ref-lost",
    "self-crossing",
    "swallowed",
    "stale-revision",
    "step-blocked",
    "time-limit",
    "unchanged",
    "unit-unknown",
    "bad-order",
    "name-taken",
    "not-above",
    "ref-ambiguous",
    "too-few-facets",
    "too-few-points",
    "bad-line",
    "flood",
    "too-tilted",
    "unknown-name",
    "value-cycle",
    "no-match",
    "wrong-kind",
    "wrong-ending",
    "not-mended",
    "no-symmetry",
    "no-overlap",
    "not-aligned",
    "too-many-facets",
    "nothing-found",
    "no-space",
    "busy",
    "read-only",
    "too-many-tries",
    "not-signed-in",
    "not-allowed",
]
CODES: frozenset[str] = frozenset(get_args(Code))


class Where(BaseModel):
    """A place a person can go to. Every field is optional; points are mm in the scan frame."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    step: str | None = None
    param: str | None = None
    value: str | None = None
    entity: str | None = None
    facets: tuple[int, ...] = ()
    point: tuple[float, float, float] | None = None
    file: str | None = None
    line: int | None = None

    def text(self) -> str:
        """The place in plain words, empty when there is none."""
        parts = []
        if self.file:
            parts.append(self.file + (f", line {self.line}" if self.line else ""))
        if self.step:
            parts.append(f"step {self.step[:8]}" + (f", {self.param}" if self.param else ""))
        elif self.param:
            parts.append(self.param)
        if self.value:
            parts.append(f"value {self.value}")
        if self.entity:
            parts.append(self.entity)
        if self.facets:
            parts.append(f"facet {self.facets[0]}" + (" and more" if len(self.facets) > 1 else ""))
        if self.point:
            parts.append("at ({:.2f}, {:.2f}, {:.2f}) mm".format(*self.point))
        return "; ".join(parts)


class Offer(BaseModel):
    """Other choices of the step's own parameters that would do. text: what that would be, as a button says it."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    text: str
    choices: dict[str, Any]


class Problem(BaseModel):
    """What stops or threatens a step, in a form that every border can show. offer: what can be taken in its place with a click."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    code: Code
    message: str
    where: Where = Field(default_factory=Where)
    got: str | None = None
    need: str | None = None
    remedy: str | None = None
    offer: Offer | None = Field(default=None, exclude_if=lambda v: v is None)

    def line(self) -> str:
        """The whole problem as one readable line."""
        place = self.where.text()
        text = f"{self.message}" + (f" [{place}]" if place else "")
        if self.got is not None:
            text += f"; got {self.got}"
        if self.need is not None:
            text += f"; needs {self.need}"
        if self.remedy:
            text += f". Try: {self.remedy}"
        return " ".join(text.split())


class ContourError(Exception):
    """Carries one :class:`Problem`; the base of every error the core raises on purpose. `also`: what else is wrong in the same form,
    so that nobody mends one fault to be told the next."""

    also: tuple[Problem, ...] = ()

    def __init__(
        self,
        code: Code,
        message: str,
        *,
        where: Where | None = None,
        got: object = None,
        need: str | None = None,
        remedy: str | None = None,
    ) -> None:
        self.problem = Problem(
            code=code,
            message=message,
            where=where or Where(),
            got=None if got is None else str(got),
            need=need,
            remedy=remedy,
        )
        super().__init__(self.problem.line())

    @classmethod
    def of(cls, problem: Problem) -> ContourError:
        """The error that carries a problem that is known already."""
        error = ContourError(problem.code, problem.message)
        error.problem = problem
        error.args = (problem.line(),)
        return error

    @classmethod
    def several(cls, problems: Sequence[Problem]) -> ContourError:
        """The error that carries all of these, at least one."""
        error = cls.of(problems[0])
        error.also = tuple(problems[1:])
        return error

    def offering(self, text: str, **choices: Any) -> ContourError:
        """The same error with what can be taken in its place."""
        self.problem = self.problem.model_copy(update={"offer": Offer(text=text, choices=choices)})
        return self

    def at(
        self, *, step: str | None = None, param: str | None = None, entity: str | None = None, file: str | None = None
    ) -> ContourError:
        """The same error with the place it happened in filled in, where it is not said yet."""
        given = {"step": step, "param": param, "entity": entity, "file": file}

        def placed(problem: Problem) -> Problem:
            where = problem.where
            update = {name: getattr(where, name) or value for name, value in given.items()}
            return problem.model_copy(update={"where": where.model_copy(update=update)})

        self.problem, self.also = placed(self.problem), tuple(map(placed, self.also))
        return self
