"""What earlier versions called faces and profiles. Frozen: names are never given this way again, only read.

Until version 5 of recipes a profile was called by the lowest of its entities, and the caps of an extrusion by the profile
(``3f2a91bc.end[e4]``), so that deleting that entity renamed them. Profiles have names of their own since; one that was known
by ``e4`` is ``p4`` for good.
"""

from __future__ import annotations

import re

__all__ = ["present_name", "present_profile", "profile_of_first"]

_CAP = re.compile(r"\.(start|end)\[e(\d+)\]")
_FIRST = re.compile(r"e(\d+)")


def present_name(name: str) -> str:
    """A face's or edge's name as it is written today.

    >>> present_name("3f2a91bc.end[e4]~(3f2a91bc.side[e1])|aa.start[p2]")
    '3f2a91bc.end[p4]~(3f2a91bc.side[e1])|aa.start[p2]'
    """
    return _CAP.sub(r".\1[p\2]", name)


def profile_of_first(entity: str) -> str:
    """The profile that was known by its lowest entity.

    >>> profile_of_first("e4"), profile_of_first("rim")
    ('p4', 'p-rim')
    """
    known = _FIRST.fullmatch(entity)
    return f"p{known[1]}" if known else f"p-{entity}"


def present_profile(name: str) -> str:
    """A profile's name as it is written today.

    >>> present_profile("e4"), present_profile("p4")
    ('p4', 'p4')
    """
    return profile_of_first(name) if _FIRST.fullmatch(name) else name
