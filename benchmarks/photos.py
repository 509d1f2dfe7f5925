"""Rendered photos of truths: pitch, widths and bores inside their U95; a drift that tells a wrong scale."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from contour.metrology.photo.edges import snap_circle, snap_line
from contour.metrology.photo.flat import FlatPixels, flat_of
from contour.metrology.photo.repeats import repeats_along
from contour.metrology.photo.scale import length_mm, scale_check, scale_of
from contour.metrology.photo.squared import squared_up
from contour.simulate.photo import Camera, photograph, thread_outline

__all__ = ["run"]

PHOTOS = 50
CARD = (120.0, 80.0)


def run() -> Iterator[tuple[str, str]]:
    inside = {"pitch": 0, "shank": 0, "bore": 0}
    error = {k: [] for k in inside}
    drifted = quiet = checked = 0
    for seed in range(PHOTOS):
        rng = np.random.default_rng(seed)
        pitch, major, bore = rng.uniform(1.5, 4), rng.uniform(16, 40), rng.uniform(3, 9)
        core = major - 1.2269 * pitch
        turns = int(rng.integers(7, 12))
        camera = Camera(
            tilt_deg=rng.uniform(0, 25),
            towards_deg=rng.uniform(0, 360),
            spin_deg=rng.uniform(-6, 6),
            bend=rng.uniform(-0.06, 0.06),
            blur_px=rng.uniform(0.7, 2.0),
            grain=rng.uniform(0.01, 0.03),
            seed=seed,
        )
        at = np.array([rng.uniform(-25, -10), rng.uniform(-8, 8)])
        shot = photograph(
            [thread_outline(major=major, pitch=pitch, core=core, turns=turns, shank=14) + at],
            camera,
            card=CARD,
            holes=[(at[0] + 2 * pitch, at[1], bore / 2)],
        )
        found = squared_up(shot.grey, shot.card + rng.normal(0, 1.5, (4, 2)))
        flat = flat_of(camera.size, corners=found.corners, bend=found.bend, aspect=CARD[0] / CARD[1])
        picture = FlatPixels(shot.grey, flat)

        def seen(mm: list[list[float]], flat=flat, shot=shot, rng=rng) -> np.ndarray:
            """Where a hand would click for these places of the truth."""
            return flat.to_flat(shot.place(np.array(mm))) + rng.normal(0, 1.2, (len(mm), 2))

        card = flat.to_flat(found.corners)
        u_corner = 0.5
        scale = scale_of(float(np.linalg.norm(card[1] - card[0])), u_corner, CARD[0], 0.05, squared=True)
        x, y = at
        crest = y + core / 2 + 0.3 * pitch
        first, last = seen([[x, crest], [x + (turns - 1) * pitch, crest]])
        rows = repeats_along(picture, first, last, turns)
        made = length_mm(scale, rows.pitch, rows.u_pitch)
        values = {"pitch": (made.mm - pitch, made.u)}
        upper = snap_line(picture, *seen([[x - 12, y + core / 2], [x - pitch - 1, y + core / 2]]), reach=6)
        lower = snap_line(picture, *seen([[x - 12, y - core / 2], [x - pitch - 1, y - core / 2]]), reach=6)
        way = (upper.b - upper.a) / np.linalg.norm(upper.b - upper.a)
        across = np.array([-way[1], way[0]])
        px = abs(float(((lower.a + lower.b) / 2 - (upper.a + upper.b) / 2) @ across))
        u_edge = 0.25
        wide = length_mm(scale, px, float(np.hypot(u_edge, u_edge)))
        values["shank"] = (wide.mm - core, wide.u)
        centre = seen([[x + 2 * pitch, y]])[0]
        round_one = snap_circle(picture, centre, bore / 2 / scale.mm_per_px * rng.uniform(0.95, 1.05))
        d = length_mm(scale, 2 * round_one.radius, 2 * float(np.hypot(round_one.u_radius, u_edge / 2)))
        values["bore"] = (d.mm - bore, d.u)
        for name, (off, u) in values.items():
            inside[name] += abs(off) <= 2 * u
            error[name].append(abs(off))
        # The same pitch stepped off with the right scale, and with one that is 1 % wrong.
        relative = float(np.hypot(scale.relative_u, scale.uneven))
        for wrong in (0.0, 0.01):
            step = pitch / (scale.mm_per_px * (1 + wrong))
            drift, u = rows.drift(step, relative)
            if wrong:
                drifted += abs(drift) > 2 * u
            else:
                quiet += abs(drift) <= 2 * u
        off, away = scale_check(
            scale_of(float(np.linalg.norm(card[1] - card[0])), u_corner, CARD[0] * 1.01, 0.05, squared=True),
            float(np.linalg.norm(card[2] - card[1])),
            u_corner,
            CARD[1],
            0.05,
        )
        checked += abs(away) > 2 and abs(off - 0.01) < 0.005
    for name, count in inside.items():
        yield (
            f"{PHOTOS} photos, {name}: truth inside U95 (wanted: at least 95 %)",
            f"{100 * count / PHOTOS:.0f} %, error median {1000 * np.median(error[name]):.0f} µm, worst {1000 * max(error[name]):.0f} µm",
        )
    total = sum(inside.values()) / (3 * PHOTOS)
    yield "  all together", f"{100 * total:.1f} %"
    yield (
        "scale wrong by 1 %: drift at the last repeat found; with the right scale none",
        f"{drifted} and {quiet} of {PHOTOS}",
    )
    yield "  and found by a second known length", f"{checked} of {PHOTOS}"
