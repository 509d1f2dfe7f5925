"""How long an answer may take. Whoever asks while somebody waits gives a budget; what is not done by then is left, and said."""

from __future__ import annotations

import math
import time

__all__ = ["UNLIMITED", "Budget"]


class Budget:
    """So many seconds from now, by a clock that nobody sets."""

    __slots__ = ("until",)

    def __init__(self, seconds: float) -> None:
        self.until = time.monotonic() + seconds

    @property
    def spent(self) -> bool:
        return time.monotonic() > self.until


UNLIMITED = Budget(math.inf)
