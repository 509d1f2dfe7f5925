"""Proposals from the surfaces of a scan: one list of what its designer may have meant.

A proposal says what would change and what it costs: how far it lies from what was measured, in units of the standard
uncertainty. A coincidence is not proposed: a round value counts only where round values are much rarer than the uncertainty.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from contour.intent.directions import directions
from contour.intent.draft import draft
from contour.intent.features import Feature, Proposal
from contour.intent.mirror import mirrors
from contour.intent.patterns import patterns
from contour.intent.rounding import Rounding, rounding_of
from contour.intent.shared import coaxial, coplanar
from contour.intent.sizes import distances, equal_distances, radii, round_distances, size_of, sizes
from contour.intent.standards import standards

__all__ = ["proposals"]


def _with_round_value(p: Proposal, rounding: Rounding) -> Proposal:
    """A circle's diameter or a row's step, where it is round."""
    near = rounding.near(p.measured or 0.0, p.u or 1.0)
    if near is None or p.demand is None:
        return p
    value = near / 2 if p.kind == "bolt-circle" else near
    return replace(p, proposed=near, demand=replace(p.demand, value=value))


def proposals(features: Sequence[Feature]) -> tuple[list[Proposal], str]:
    """(proposals, "mm" or "inch": the system that the sizes look made in). Features that their points do not settle are left out."""
    features = [f for f in features if f.u.settled]
    groups = [*radii(features, blends=False), *radii(features, blends=True)]
    pairs = distances(features)
    stated = [size_of(members[0], mean, u) for members, mean, u, _ in groups]
    found = patterns(features)
    steps = [(p.measured, p.u) for p in found if p.measured is not None and p.u is not None]
    rounding = rounding_of([*stated, *((value, u) for _, _, value, u in pairs), *steps])
    return [
        *directions(features),
        *coplanar(features),
        *coaxial(features),
        *sizes(groups, rounding),
        *standards(groups, rounding.system),
        *(_with_round_value(p, rounding) for p in found),
        *draft(features),
        *round_distances(pairs, rounding),
        *equal_distances(pairs, rounding),
        *mirrors(features),
    ], rounding.system
