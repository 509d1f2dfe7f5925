"""Products of steps, one file per kind, found by themselves. None of them loads the kernel before it is needed."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import Any

from contour.products.kind import Extras, ProductKind
from contour.recipe.reference import PartRef
from contour.recipe.registry import found_in

__all__ = [
    "PRODUCTS",
    "Extras",
    "ProductKind",
    "keep_product",
    "load_product",
    "product_kind",
    "product_kind_of",
    "save_product",
]

PRODUCTS: dict[str, ProductKind[Any]] = found_in(__name__, list(__path__), ProductKind)


def product_kind(product: Any) -> ProductKind[Any]:
    """The kind of a product; raises TypeError for what is none."""
    kind = PRODUCTS.get(getattr(product, "kind", ""))
    if kind is None:
        raise TypeError(f"no way to keep a {type(product).__name__}")
    return kind


def save_product(product: Any, folder: Path) -> None:
    """Write one product into an empty folder."""
    product_kind(product).save(product, folder)


def keep_product(product: Any, folder: Path, extras: Extras) -> dict[str, Any]:
    """Write one product into an empty folder with what is wanted beside it; gives what is known of it, nothing of most."""
    kind = product_kind(product)
    kind.save(product, folder)
    return kind.beside(product, folder, extras) if kind.beside is not None else {}


def product_kind_of(folder: Path) -> ProductKind[Any]:
    """The kind of a kept product; raises FileNotFoundError when it is none."""
    for kind in PRODUCTS.values():
        if (folder / kind.file).exists():
            return kind
    raise FileNotFoundError(folder)


def part_label(ref: PartRef, steps: Mapping[str, str] | None = None) -> str:
    """The part that a reference means, as a person reads it; `steps` maps the first eight characters of steps' ids to names."""
    return PRODUCTS[ref.whole].parts[ref.part].label(ref.called, steps)


def load_product(folder: Path) -> Any:
    """Read back whatever :func:`save_product` wrote (scans map their arrays). Raises FileNotFoundError when it is no product."""
    return product_kind_of(folder).load(folder)
