"""The demo's way in: a link that signs the demo user in, good until ten minutes after it was first opened."""

from __future__ import annotations

import json
import secrets
import time
from pathlib import Path

from django.conf import settings
from django.utils.crypto import constant_time_compare

__all__ = ["demo_link_opens", "new_demo_link"]

_GOOD_FOR_S = 600.0


def _path() -> Path:
    return Path(settings.VAR) / "demo-link.json"


def new_demo_link() -> str:
    """A new link; older ones open nothing any more."""
    token = secrets.token_urlsafe(18)
    _path().write_text(json.dumps({"token": token, "opened": None}))
    return f"enter/{token}"


def demo_link_opens(token: str) -> bool:
    """Whether the link with that token signs in now; the first time it does, its ten minutes begin."""
    if not settings.DEMO or not _path().exists():
        return False
    kept = json.loads(_path().read_text())
    if not constant_time_compare(kept["token"], token):
        return False
    if kept["opened"] is None:
        _path().write_text(json.dumps({**kept, "opened": time.time()}))
        return True
    return bool(0 <= time.time() - kept["opened"] < _GOOD_FOR_S)
