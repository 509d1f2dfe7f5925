"""Fair turns between people in the web process: whoever asks without a pause waits a little while others ask too."""

from __future__ import annotations

import math
import threading
import time
from collections.abc import Callable
from typing import Any

from django.http import HttpRequest, HttpResponse

__all__ = ["Turns", "fair_turns"]

WINDOW_S = 5.0  # how long a question counts
SHARE = 0.1  # of the time that one person may take before his questions wait for others'
OTHERS = 0.05  # of the time that the others take together; while it is less, there is room for everybody
MOST_S = 0.4  # no question waits longer
AT_ONCE = 3  # of them wait together: each holds a thread meanwhile


class Turns:
    """Seconds that each person's questions took of late, older ones counting less and less. One for all threads."""

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self._clock, self._lock = clock, threading.Lock()
        self._spent: dict[Any, tuple[float, float]] = {}
        self._waiting = 0

    def _of(self, person: Any, now: float) -> float:
        spent, at = self._spent.get(person, (0.0, now))
        return spent * math.exp((at - now) / WINDOW_S)

    def pause(self, person: Any) -> float:
        """How many seconds this person's next question waits: none while nobody else asks."""
        with self._lock:
            now = self._clock()
            self._spent = {k: v for k, v in self._spent.items() if now - v[1] < 6 * WINDOW_S}
            mine = self._of(person, now)
            others = sum(self._of(k, now) for k in self._spent if k != person)
        if mine <= SHARE * WINDOW_S or others < OTHERS * WINDOW_S:
            return 0.0
        return min(WINDOW_S * math.log(mine / (SHARE * WINDOW_S)), MOST_S)

    def wait(self, person: Any) -> None:
        seconds = self.pause(person)
        with self._lock:
            if seconds == 0.0 or self._waiting >= AT_ONCE:
                return
            self._waiting += 1
        try:
            time.sleep(seconds)
        finally:
            with self._lock:
                self._waiting -= 1

    def took(self, person: Any, seconds: float) -> None:
        with self._lock:
            now = self._clock()
            self._spent[person] = (self._of(person, now) + seconds, now)


def fair_turns(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """Middleware: everything that signed-in people ask of their jobs counts; what is only looked up does not wait for it."""
    turns = Turns()

    def answer(request: HttpRequest) -> HttpResponse:
        if not request.path.startswith("/api/jobs/") or not request.user.is_authenticated:
            return get_response(request)
        person = request.user.pk
        if request.method != "GET":
            turns.wait(person)
        begun = time.monotonic()
        try:
            return get_response(request)
        finally:
            turns.took(person, time.monotonic() - begun)

    return answer
