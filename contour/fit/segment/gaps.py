"""Pieces of one surface that the scan's holes have parted altogether: no rim leads from one to the other, or others lie along it.

Open sides of two pieces that look at each other over nothing were one side of one face each. Where enough of them do, and one surface
explains both pieces, the face is one again. Where the pieces end and look at each other over what was seen (a groove, say), that speaks
against it.
"""

from __future__ import annotations

import numpy as np

from contour.fit.segment.merging import Draft, merge_meeting
from contour.fit.segment.opposite import across_borders

__all__ = ["merge_across_gaps"]

_VOTES = 3
_BEYOND_DOUBT = 5  # so many places over nothing for each over something seen


def merge_across_gaps(draft: Draft) -> int:
    """Joins regions that look at each other over what the scanner did not see, where one surface explains both; returns how many went.
    Gaps of up to 22 facet sides, in mm."""
    across = across_borders(draft)
    enough = (across.over_nothing >= _VOTES) & (across.over_nothing > _BEYOND_DOUBT * across.over_seen)
    taken = across.free & enough[across.pair]
    a, b = across.a[taken], across.b[taken]
    both = np.concatenate([a, b]), np.concatenate([b, a])
    return merge_meeting(draft, lambda: both)
