"""Keeping what a step has made: each product under a key of its own."""

from __future__ import annotations

from dataclasses import asdict
from pathlib import Path
from typing import Any

from contour.job.build.store import Store
from contour.products import Extras, keep_product
from contour.recipe.registry import OWN, Outcome
from contour.solid.topology.parts import faces_with_neighbours, read_topology

__all__ = ["faces_of", "is_kept", "keep"]


def keep(key: str, step: str, outcome: Outcome, store: Store, extras: Extras, *, took_s: float = 0.0) -> None:
    """Each product under a key of its own; what the step is known by under the step's and last: it promises the others. took_s: how long it
    was worked on."""
    in_order = sorted(outcome.puts, key=lambda slot: slot != OWN)
    made = {slot or step: (f"{key}p{i}" if i else key) for i, slot in enumerate(in_order)}
    puts = {slot or step: {"key": made[slot or step], "kind": p.kind} for slot, p in outcome.puts.items()}
    head = {
        "facts": outcome.facts.model_dump(mode="json", exclude_none=True),
        "problems": [p.model_dump(mode="json") for p in outcome.problems],
        "puts": puts,
        "gone": list(outcome.gone),
        "handles": [asdict(h) for h in outcome.handles],
        "took": round(took_s, 3),
    }
    for slot in reversed(in_order):
        product = outcome.puts[slot]
        about: dict[str, Any] = head if made[slot or step] == key else {}

        def write(folder: Path, product: Any = product, about: dict[str, Any] = about) -> None:
            about["about"] = keep_product(product, folder, extras)

        store.put(made[slot or step], about, write)


def is_kept(store: Store, key: str) -> bool:
    """Whether all that a step has made is there."""
    if not store.has(key):
        return False
    kept = store.outcome(key)
    return "puts" in kept and all(store.has(put["key"]) for put in kept["puts"].values())


def faces_of(store: Store, key: str) -> list[dict[str, Any]]:
    """Faces of a kept body, the neighbours of each by name."""
    return faces_with_neighbours(read_topology(store.folder(key))["faces"])
