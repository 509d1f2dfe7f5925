"""Materials that parts are made of, with their usual densities. g/cm³; what an alloy or a print really has differs by a few per cent."""

from __future__ import annotations

from dataclasses import dataclass

__all__ = ["MATERIALS", "Material", "mass_g"]


@dataclass(frozen=True, slots=True)
class Material:
    """density: g/cm³."""

    name: str
    density: float


MATERIALS = (
    Material("steel", 7.85),
    Material("stainless steel", 7.95),
    Material("grey cast iron", 7.20),
    Material("aluminium", 2.70),
    Material("brass", 8.50),
    Material("bronze", 8.80),
    Material("copper", 8.96),
    Material("zinc die casting", 6.60),
    Material("titanium", 4.43),
    Material("PLA", 1.24),
    Material("PETG", 1.27),
    Material("ABS", 1.04),
    Material("polyamide (PA 12)", 1.01),
    Material("polyamide (PA 6)", 1.14),
    Material("POM", 1.41),
    Material("polycarbonate", 1.20),
    Material("oak", 0.70),
)


def mass_g(volume_mm3: float, density: float) -> float:
    """Mass in g of a volume in mm³, at g/cm³.

    >>> mass_g(1000.0, 7.85)
    7.85
    """
    return volume_mm3 / 1000.0 * density
