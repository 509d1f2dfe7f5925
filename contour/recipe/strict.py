"""What everything kept in a recipe is: nothing unknown in it, and never changed in place."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict

__all__ = ["Strict"]


class Strict(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)
