"""Edits of the caliper desk: takes that arrive, takes struck out, instruments and sessions."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field

from contour.job.edits.checked import Known
from contour.recipe.evidence.reading import Instrument, Reading, Session, Take
from contour.recipe.problem import ContourError, Where
from contour.recipe.recipe import Recipe
from contour.recipe.strict import Strict

__all__ = [
    "AddTake",
    "DropInstrument",
    "ReadingEdit",
    "SetInstrument",
    "SetSession",
    "StrikeTake",
    "apply_reading_edit",
]


class AddTake(Strict):
    """One more take of a reading, from the keyboard or from the caliper's line."""

    op: Literal["add-take"]
    id: str
    take: Take


class StrikeTake(Strict):
    """Strikes a take out with a reason, or counts it again (an empty reason)."""

    op: Literal["strike-take"]
    id: str
    take: int = Field(ge=0)
    reason: str = Field(max_length=300)


class SetInstrument(Strict):
    """Makes an instrument, or changes the one with that id."""

    op: Literal["set-instrument"]
    instrument: Instrument


class SetSession(Strict):
    """Makes a session with an instrument, or changes it: a zero found later is put right for all its takes."""

    op: Literal["set-session"]
    session: Session


class DropInstrument(Strict):
    """Takes an instrument or a session away that no take uses."""

    op: Literal["drop-instrument"]
    id: str


class PutReadings(Strict):
    """Several readings at once, as a table brings them; those of a known id are replaced."""

    op: Literal["put-readings"]
    readings: tuple[Reading, ...] = Field(max_length=1000)


ReadingEdit = AddTake | StrikeTake | SetInstrument | SetSession | DropInstrument | PutReadings


def _reading(recipe: Recipe, id: str) -> Reading:
    for r in recipe.readings:
        if r.id == id:
            return r
    raise ContourError(
        "not-found",
        "the job has no such reading",
        got=id[:8],
        need="one of the job's readings",
        where=Where(param="id"),
        remedy="choose another reading",
    )


def _replaced(recipe: Recipe, reading: Reading, takes: tuple[Take, ...]) -> Recipe:
    try:
        new = Reading.model_validate({**reading.model_dump(), "takes": takes})
    except ValueError as error:
        raise ContourError(
            "mixed-dimensions",
            f"'{reading.name}' holds takes of another kind: {str(error).splitlines()[-2].strip()}",
            where=Where(value=reading.name),
            got=takes[-1].unit,
            need="takes of one kind",
            remedy="make a reading of its own for it",
        ) from None
    return recipe.model_copy(update={"evidence": tuple(new if e.id == reading.id else e for e in recipe.evidence)})


def _put(rows: tuple[Any, ...], row: Any) -> tuple[Any, ...]:
    if any(r.id == row.id for r in rows):
        return tuple(row if r.id == row.id else r for r in rows)
    return (*rows, row)


def apply_reading_edit(recipe: Recipe, edit: ReadingEdit, known: Known) -> tuple[Recipe, str]:
    """The next recipe and what the edit is called. Raises ContourError (not-found, bad-params, mixed-dimensions)."""
    if isinstance(edit, AddTake):
        reading = _reading(recipe, edit.id)
        if edit.take.session is not None and all(s.id != edit.take.session for s in recipe.sessions):
            raise ContourError(
                "not-found",
                "the job has no such session",
                got=edit.take.session[:8],
                need="one of the job's sessions",
                where=Where(param="take.session"),
                remedy="begin a session first",
            )
        if len(reading.takes) >= 200:
            raise ContourError(
                "flood",
                "a reading holds up to 200 takes",
                where=Where(value=reading.name),
                got=f"{len(reading.takes)} takes",
                need="up to 200",
                remedy="begin another reading",
            )
        text = f"{edit.take.value:g} {edit.take.unit}"
        return _replaced(recipe, reading, (*reading.takes, edit.take)), f"take {text} of {reading.name}"
    if isinstance(edit, StrikeTake):
        reading = _reading(recipe, edit.id)
        if edit.take >= len(reading.takes):
            raise ContourError(
                "not-found",
                "the reading has no such take",
                where=Where(value=reading.name),
                got=edit.take + 1,
                need=f"1 to {len(reading.takes)}",
                remedy="look at the reading again: it has changed",
            )
        takes = tuple(
            t.model_copy(update={"struck": edit.reason.strip()}) if k == edit.take else t
            for k, t in enumerate(reading.takes)
        )
        word = "strike out" if edit.reason.strip() else "count again"
        return _replaced(recipe, reading, takes), f"{word} a take of {reading.name}"
    if isinstance(edit, PutReadings):
        taken = {n.name: n.id for n in recipe.named}
        for r in edit.readings:
            if taken.setdefault(r.name, r.id) != r.id:
                raise ContourError(
                    "name-taken",
                    f"'{r.name}' is the name of another value",
                    where=Where(value=r.name),
                    got=r.name,
                    need="a name of its own",
                    remedy="choose another name",
                )
        evidence = recipe.evidence
        for r in edit.readings:
            evidence = _put(evidence, r)
        return recipe.model_copy(update={"evidence": evidence}), f"bring in {len(edit.readings)} readings"
    if isinstance(edit, SetInstrument):
        return recipe.model_copy(
            update={"instruments": _put(recipe.instruments, edit.instrument)}
        ), f"change {edit.instrument.name}"
    if isinstance(edit, SetSession):
        if all(i.id != edit.session.instrument for i in recipe.instruments):
            raise ContourError(
                "not-found",
                "the job has no such instrument",
                got=edit.session.instrument[:8],
                need="one of the job's instruments",
                where=Where(param="session.instrument"),
                remedy="add the instrument first",
            )
        return recipe.model_copy(
            update={"sessions": _put(recipe.sessions, edit.session)}
        ), f"change {edit.session.name}"
    used = {t.session for r in recipe.readings for t in r.takes} | {
        s.instrument for s in recipe.sessions if s.id != edit.id
    }
    if edit.id in used:
        raise ContourError(
            "bad-params",
            "takes were made with it",
            got=edit.id[:8],
            need="an instrument or session without takes",
            where=Where(param="id"),
            remedy="move or strike those takes first",
        )
    return recipe.model_copy(
        update={
            "instruments": tuple(i for i in recipe.instruments if i.id != edit.id),
            "sessions": tuple(s for s in recipe.sessions if s.id != edit.id),
        }
    ), "take an instrument away"
