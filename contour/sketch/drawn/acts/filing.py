"""What a file brings into a drawing: entities, and a sheet that lies under them."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from contour.recipe.problem import ContourError
from contour.sketch.drawn.acts.copies import Paste, paste
from contour.sketch.drawn.acts.pen import Act, Pen
from contour.sketch.drawn.acts.relating import relate
from contour.sketch.drawn.text import MOST_ENTITIES, Entity
from contour.sketch.drawn.under import UnderSheet

__all__ = ["Filing", "file_in"]


class PutIn(Act):
    """entities: as they were read, with all points that they are drawn by · under: what lies under them; one of the same name gives way to it ·
    within: mm that relations may be off by that are looked for; none: none are."""

    act: Literal["put-in"]
    entities: dict[str, Entity] = Field(default_factory=dict, max_length=MOST_ENTITIES)
    under: UnderSheet | None = None
    within: float | None = Field(default=None, gt=0, le=100)


class Lift(Act):
    """The sheet of that name lies under the drawing no longer."""

    act: Literal["lift"]
    name: str


Filing = Annotated[PutIn | Lift, Field(discriminator="act")]


def file_in(pen: Pen, filing: Filing) -> None:
    """Raises ContourError (not-found, bad-params, ref-lost)."""
    if isinstance(filing, Lift):
        left = [sheet for sheet in pen.under if sheet.name != filing.name]
        if len(left) == len(pen.under):
            raise ContourError(
                "not-found",
                "no such sheet lies under the drawing",
                got=filing.name[:80],
                need="one of those that lie there",
                remedy="look again: it may have been lifted already",
            )
        pen.under = left
        return
    if not filing.entities and filing.under is None:
        raise ContourError(
            "bad-params",
            "nothing is put in",
            got="no entities, and nothing to lie under them",
            need="something that was read",
            remedy="choose other layers of the file",
        )
    if filing.under is not None:
        pen.under = [*(sheet for sheet in pen.under if sheet.name != filing.under.name), filing.under]
    pen.chosen = []
    if filing.entities:
        paste(pen, Paste(act="paste", entities=filing.entities))
        if filing.within is not None:
            relate(pen, pen.chosen, filing.within)
