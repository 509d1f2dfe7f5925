"""An agreement: the relations that were accepted between regions, and what holding them costs."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from pydantic import BaseModel, ConfigDict, TypeAdapter

from contour.products.kind import ProductKind
from contour.products.region import SettledRegion
from contour.recipe.facts import Facts

__all__ = ["KIND", "AgreedRow", "IntentFacts", "IntentProduct"]


class AgreedRow(BaseModel):
    """One accepted relation: what was proposed in words, what was measured then (mm or degrees) with its standard uncertainty, and the
    largest cost to a region that it speaks of, in standard uncertainties."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    kind: str
    regions: tuple[str, ...]
    text: str
    measured: float | None = None
    u: float | None = None
    cost: float


class IntentFacts(Facts):
    """dearest: the largest cost of all, in standard uncertainties · largest_shift: mm · regions: what it has settled, by their ids."""

    of: Literal["intent"] = "intent"
    agreed: int
    dearest: float
    largest_shift: float
    rows: tuple[AgreedRow, ...]
    regions: dict[str, SettledRegion]

    def settled(self, slot: str) -> SettledRegion | None:
        return self.regions.get(slot)


@dataclass(frozen=True, slots=True)
class IntentProduct:
    """The accepted relations; the regions that they settle are products of their own."""

    rows: tuple[AgreedRow, ...]
    kind: str = "intent"


_ROWS = TypeAdapter(tuple[AgreedRow, ...])


def _save(product: IntentProduct, folder: Path) -> None:
    (folder / "agreed.json").write_bytes(_ROWS.dump_json(product.rows))


def _load(folder: Path) -> IntentProduct:
    return IntentProduct(_ROWS.validate_json((folder / "agreed.json").read_bytes()))


KIND = ProductKind("intent", IntentProduct, "agreed.json", _save, _load)
