"""Sizes of bores that standards know: tapping and clearance holes of threads, drills.

Lists of standard sizes are dense: that a diameter is near one of them says little by itself. A list is proposed for a bore only
where its sizes lie so far apart, beside what is known of the diameter, that nearness is rare.
"""

from __future__ import annotations

from collections.abc import Sequence

from contour.intent.features import FAR, Proposal
from contour.intent.relation import Relation
from contour.intent.rounding import BY_CHANCE
from contour.intent.sizes import RadiusGroup, size_of
from contour.metrology.standards.drills import drills
from contour.metrology.standards.threads import threads

__all__ = ["standards"]

Entry = tuple[float, str]


def _lists(system: str) -> list[list[Entry]]:
    """The usual ones first."""
    series = ("ISO coarse",) if system == "mm" else ("UNC",)
    own = [t for t in threads() if t.series in series]
    tapping = [(t.tap_drill.diameter, f"tapping hole of {t.designation}") for t in own]
    words = ("close", "medium", "free") if system == "mm" else ("close", "free")
    clearance = {
        w: [(t.clearance[k], f"{w} clearance hole of {t.designation}") for t in own if len(t.clearance) > k]
        for k, w in enumerate(words)
    }
    bits = [(d.diameter, f"drill {d.name}") for d in drills("metric" if system == "mm" else "inch")]
    usual = words[1]
    rest = [e for w in words if w != usual for e in clearance[w]]
    return [tapping, clearance[usual], rest, bits]


def _rare(entries: Sequence[Entry], value: float, u: float, chance: float) -> Entry | None:
    """The nearest entry, when one so near is rare among those of about this size."""
    near = min(entries, key=lambda e: abs(e[0] - value), default=None)
    if near is None or abs(near[0] - value) > FAR * u:
        return None
    around = [e[0] for e in entries if 0.6 * value < e[0] < 1.6 * value]
    if near[0] not in around:  # a diameter that is hardly known is near everything
        return None
    covered = len(set(around)) * 2 * FAR * u / value
    return near if covered <= chance else None


def standards(groups: Sequence[RadiusGroup], system: str) -> list[Proposal]:
    """At most one proposal for each group of equal bores: the list that is the least likely to agree by chance."""
    out = []
    lists = _lists(system)
    for members, mean, u, _ in groups:
        if members[0].blend or members[0].surface.kind != "cylinder" or members[0].surface.outward > 0:
            continue
        value, u_value = size_of(members[0], mean, u)
        # Several alike holes were made for something; a single one is more often just a hole.
        chance = 3 * BY_CHANCE if len(members) > 1 else BY_CHANCE
        for entries in lists:
            found = _rare(entries, value, u_value, chance)
            if found is None:
                continue
            ids = tuple(f.id for f in members)
            text = f"Ø {value:.3f} mm is Ø {found[0]:g} mm: {found[1]}"
            cost = abs(found[0] - value) / u_value
            demand = Relation("size", ids, found[0] / 2)
            out.append(Proposal("standard", ids, text, cost, demand, "Ø", measured=value, proposed=found[0], u=u_value))
            break
    return out
