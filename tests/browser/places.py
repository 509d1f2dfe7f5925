"""Where a place in space is on the page, once the view has come to rest."""

from __future__ import annotations

from collections.abc import Sequence

from playwright.sync_api import Page

__all__ = ["pixel"]

# Sheets that open and strips that fill make the view smaller a frame or more after the page says that it is done: what a place was seen
# at before is beside it then. Nothing is in its way for as many frames as the view takes to follow.
_AT_REST = """place => new Promise(done => {
  let last = null, same = 0;
  const look = () => {
    const now = window.contourView.project(place);
    same = last && now.x === last.x && now.y === last.y ? same + 1 : 0;
    last = now;
    if (same >= 4) done(now);
    else requestAnimationFrame(look);
  };
  look();
})"""


def pixel(page: Page, place: Sequence[float]) -> tuple[float, float]:
    """The pixel that shows a place, once that has stayed the same for some frames. The place must lie within the view."""
    at = page.evaluate(_AT_REST, [float(x) for x in place])
    assert at["visible"], f"{list(place)} lies outside the view"
    return at["x"], at["y"]
