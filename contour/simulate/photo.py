"""Rendered photos of flat truths: a card with a part's outline on it, seen from aside by a lens that bends, softly and with grain."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw
from scipy.ndimage import gaussian_filter, map_coordinates
from scipy.spatial.transform import Rotation
from shapely import Polygon

__all__ = ["Camera", "Photo", "photograph", "thread_outline"]

Array = NDArray[np.float64]
_SPARE = 12  # pixels of the drawn plane per mm: three to four times finer than any photo of it
_DARK = {"part": 0.16, "rim": 0.35, "card": 0.93, "table": 0.62}


@dataclass(frozen=True, slots=True)
class Camera:
    """tilt: the optical axis against the plane's normal, degrees, leaning towards `towards` · spin: about the axis ·
    bend: the lens's radial term · blur: sigma, pixels · grain: sigma of brightness · size: pixels · seed: of the grain."""

    tilt_deg: float = 10.0
    towards_deg: float = 30.0
    spin_deg: float = 2.0
    bend: float = 0.03
    blur_px: float = 1.0
    grain: float = 0.02
    size: tuple[int, int] = (1600, 1200)
    fill: float = 0.8
    seed: int = 1


@dataclass(frozen=True, slots=True)
class Photo:
    """pixels (h, w) brightness 0 to 1; `place` takes mm on the plane (n, 2) to photo pixels; `card`: its corners there, top
    left and then clockwise."""

    pixels: NDArray[np.float32]
    card: Array
    camera: Camera
    h: Array

    @property
    def grey(self) -> NDArray[np.uint8]:
        """Brightness (h, w) 0 to 255, as a picture file has it."""
        return np.asarray((255 * self.pixels + 0.5).clip(0, 255), np.uint8)

    def place(self, mm: Array) -> Array:
        q = np.column_stack([mm, np.ones(len(mm))]) @ self.h.T
        straight = q[:, :2] / q[:, 2:]
        middle, reach = (np.array(self.camera.size) - 1) / 2, math.hypot(*self.camera.size) / 2
        d = (straight - middle) / reach
        return np.asarray(middle + d * (1 + self.camera.bend * (d**2).sum(axis=1, keepdims=True)) * reach)


def thread_outline(*, major: float, pitch: float, core: float, turns: int, shank: float = 8.0) -> Array:
    """A bolt's outline (n, 2), mm, seen from the side: axis along x, the thread's first crest at x = 0, y up to major / 2."""
    depth = (major - core) / 2
    crest, root = pitch / 8, pitch / 4
    flank = (pitch - crest - root) / 2
    upper: list[tuple[float, float]] = [(-shank - pitch, major / 2 - depth), (-crest / 2 - flank, major / 2 - depth)]
    for k in range(turns):
        x = k * pitch
        upper += [
            (x - crest / 2, major / 2),
            (x + crest / 2, major / 2),
            (x + crest / 2 + flank, major / 2 - depth),
            (x + crest / 2 + flank + root, major / 2 - depth),
        ]
    # The far side is half a pitch further round: a thread's two silhouettes do not face each other.
    lower = [(x + (pitch / 2 if k > 0 else 0.0), -y) for k, (x, y) in enumerate(upper)]
    return np.array([*upper, *reversed(lower)])


def _view(camera: Camera, card: tuple[float, float]) -> Array:
    """(3, 3) from mm on the plane to straight pixels: a pinhole of 1.3 widths focal length, the card in its middle."""
    wide, high = camera.size
    focal = 1.3 * wide
    lean = Rotation.from_rotvec(
        math.radians(camera.tilt_deg)
        * np.array([math.cos(math.radians(camera.towards_deg)), math.sin(math.radians(camera.towards_deg)), 0])
    )
    r = (lean * Rotation.from_euler("z", camera.spin_deg, degrees=True)).as_matrix()
    distance = focal * card[0] / (camera.fill * wide)
    distance = max(distance, focal * card[1] / (camera.fill * high))
    # y of the plane points up, of the picture down.
    flip = np.diag([1.0, -1.0, -1.0])
    m = flip @ r
    k = np.array([[focal, 0, (wide - 1) / 2], [0, focal, (high - 1) / 2], [0, 0, 1]])
    outer = np.column_stack([m[:, 0], m[:, 1], np.array([0, 0, distance])])
    return np.asarray(k @ outer)


def photograph(
    parts: Sequence[Array],
    camera: Camera,
    *,
    card: tuple[float, float] = (120.0, 80.0),
    holes: Sequence[tuple[float, float, float]] = (),
) -> Photo:
    """Outlines (n, 2), mm, dark on a bright card of the given size about the origin; holes (x, y, radius) are bright again."""
    half = np.array(card) / 2
    margin = 0.35 * max(card)
    low = -half - margin
    count = np.ceil((2 * half + 2 * margin) * _SPARE).astype(int)

    def drawn(p: Array) -> list[tuple[float, float]]:
        # Pixels on the border are filled too: half a pixel less all round gives the outline its true size.
        q = np.array(Polygon((np.asarray(p) - low) * _SPARE).buffer(-0.5, join_style="mitre").exterior.coords)
        return [(float(x), float(y)) for x, y in q]

    plane = Image.new("F", (int(count[0]), int(count[1])), _DARK["table"])
    pen = ImageDraw.Draw(plane)
    corners = np.array([[-half[0], half[1]], [half[0], half[1]], [half[0], -half[1]], [-half[0], -half[1]]])
    pen.polygon(drawn(corners * (1 + 1.2 / half)), fill=_DARK["rim"])
    pen.polygon(drawn(corners), fill=_DARK["card"])
    for outline in parts:
        pen.polygon(drawn(outline), fill=_DARK["part"])
    for x, y, r in holes:
        a = np.linspace(0, 2 * np.pi, 720, endpoint=False)
        pen.polygon(drawn(np.column_stack([x + r * np.cos(a), y + r * np.sin(a)])), fill=_DARK["card"])
    h = _view(camera, card)
    wide, high = camera.size
    x, y = np.meshgrid(np.arange(wide, dtype=float), np.arange(high, dtype=float))
    middle, reach = (np.array(camera.size) - 1) / 2, math.hypot(*camera.size) / 2
    d = (np.column_stack([x.ravel(), y.ravel()]) - middle) / reach
    u = d.copy()
    for _ in range(12):
        u = d / (1 + camera.bend * (u**2).sum(axis=1, keepdims=True))
    rays = np.column_stack([middle + u * reach, np.ones(len(u))]) @ np.linalg.inv(h).T
    mm = rays[:, :2] / rays[:, 2:]
    at = (mm - low) * _SPARE
    # The plane is drawn finer than it is seen; softening it first keeps the edges where they are.
    soft = gaussian_filter(np.asarray(plane, np.float32), 0.5 * _SPARE / 10)
    seen = map_coordinates(soft, [at[:, 1], at[:, 0]], order=1, cval=_DARK["table"]).reshape(high, wide)
    # Light falls off towards one side, as on every bench.
    seen = gaussian_filter(seen, camera.blur_px) * (1 - 0.15 * x / wide)
    noisy = seen + np.random.default_rng(camera.seed).normal(0, camera.grain, seen.shape)
    made = Photo(np.clip(noisy, 0, 1).astype(np.float32), np.zeros((4, 2)), camera, h)
    return Photo(made.pixels, made.place(corners), camera, h)
