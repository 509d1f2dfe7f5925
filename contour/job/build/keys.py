"""Keys of products: the same inputs give the same key in any process, and anything that matters changes it."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping
from functools import cache
from importlib.metadata import version
from typing import Any

from pydantic import BaseModel

from contour.check.exact_solid import EXACT_VERSION
from contour.mesh.prepare import PREPARE_VERSION
from contour.products import PRODUCTS
from contour.recipe.evidence.scan import ScanEvidence
from contour.recipe.evidence.solid import SolidEvidence
from contour.recipe.params import put_at, walk
from contour.recipe.reference import PartRef, Ref
from contour.recipe.registry import StepKind
from contour.recipe.values import Value

__all__ = [
    "blob_hash",
    "fit_key",
    "health_key",
    "keys_in_result",
    "picture_key",
    "rules_key",
    "scan_key",
    "solid_key",
    "step_key",
]


SOLIDS_VERSION = 1  # of how files of solids are read
FACTS_VERSION = 1  # of how facts of steps are kept
FIT_VERSION = 2  # of what of a scan is measured


def blob_hash(data: bytes) -> str:
    """SHA-256 of a file's bytes; what evidence is kept under."""
    return hashlib.sha256(data).hexdigest()


def _key(*parts: Any) -> str:
    text = json.dumps(parts, sort_keys=True, separators=(",", ":"), ensure_ascii=True)
    return hashlib.sha256(text.encode()).hexdigest()[:40]


@cache
def _kernel_version() -> str:
    return version("cadquery-ocp-novtk")


def scan_key(evidence: ScanEvidence) -> str:
    """The key of a scan as it came: of its bytes and its unit."""
    return _key("scan", PREPARE_VERSION, evidence.blob, evidence.unit)


def solid_key(evidence: SolidEvidence) -> str:
    """The key of a file of solids as it was read: of its bytes and its unit."""
    return _key("solid", SOLIDS_VERSION, _kernel_version(), evidence.blob, evidence.unit, evidence.earlier)


def _plain(params: BaseModel) -> dict[str, Any]:
    """Parameters without what is said elsewhere: references by the keys of what they mean, formulas by their value."""
    plain = params.model_dump(mode="json")
    for leaf in walk(params):
        if isinstance(leaf.value, Value | Ref | PartRef):
            put_at(plain, leaf.place, None)
    return plain


def step_key(
    kind: StepKind[Any], step_id: str, params: BaseModel, values: Mapping[str, float], inputs: Mapping[str, str]
) -> str:
    """Key of a step's product. `inputs` says, by place, what each reference means: a product's key, a face's name."""
    plain = _plain(params)
    kept_as = 1000 * FACTS_VERSION + PRODUCTS[kind.makes].version
    return _key(kind.id, kind.version, kept_as, _kernel_version(), step_id, plain, dict(values), dict(inputs))


def picture_key(what: str, *parts: Any) -> str:
    """Of what is worked out from a picture: its brightness, or how it looks flat."""
    return _key("picture", what, 1, *parts)


def health_key(scan: str, unit: str) -> str:
    """The key of a scan's health, with sizes told in `unit`."""
    return _key("health", 1, scan, unit)


def fit_key(scan: str, bodies: list[str], acceptance_mm: float, zone: str | None = None) -> str:
    """The key of a fit: of the scan, the bodies, the acceptance and the zone it is counted in."""
    return _key("fit", FIT_VERSION, EXACT_VERSION, scan, bodies, acceptance_mm, zone)


@cache
def rules_key() -> str:
    """Of everything that a build goes by beside the recipe: a result that was worked out by other rules may say something else today."""
    from contour.steps import KINDS

    kinds = {k.id: k.version for k in KINDS.values()}
    kept = {name: product.version for name, product in PRODUCTS.items()}
    return _key(
        "rules",
        PREPARE_VERSION,
        SOLIDS_VERSION,
        FIT_VERSION,
        FACTS_VERSION,
        EXACT_VERSION,
        _kernel_version(),
        kinds,
        kept,
    )


def keys_in_result(result: Mapping[str, Any]) -> list[str]:
    """Keys of all products that a build's result speaks of: never a text that somebody typed."""
    steps = result.get("steps", [])
    keys = [s["key"] for s in steps if s.get("key")]
    keys += [key for part in ("scans", "raw", "health", "solids") for key in result.get(part, {}).values()]
    keys += [key for s in steps for part in ("after", "scans") for key in s.get(part, {}).values()]
    return keys + ([result["fit"]["key"]] if result.get("fit") else [])
