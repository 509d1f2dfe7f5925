"""Gland nut: a scan says nothing in its threads, so the job rests on readings. True sizes, and a morning's takes of them.

The nut's thread is M36x3 made to 6g; it has a hexagon, a bore for the shaft and a lip that presses on the packing. The takes
come from the simulated caliper, whose zero was forgotten that morning (it shows 0.04 mm when closed).
"""

from __future__ import annotations

import io
import math
import uuid

import numpy as np
from PIL import Image

from contour.metrology.photo.squared import squared_up
from contour.recipe.evidence.picture import Picture, PictureLength, PictureMark
from contour.recipe.evidence.reading import Instrument, Measures, Pin, Reading, Session, Take
from contour.recipe.recipe import NamedValue, Recipe
from contour.recipe.values import Value
from contour.simulate.caliper import Caliper, measured
from contour.simulate.photo import Camera, Photo, photograph, thread_outline
from demo.gland_nut_blank import blank_steps

__all__ = ["CARD", "SIZES", "gland_nut_job", "gland_nut_photo"]

CARD = (120.0, 80.0)

_SPACE = uuid.UUID("2f6f0c8e-2a0f-4f0e-8d0c-51f2a1c7b3de")
_PITCH = 3.0
_MAJOR = 35.76  # in the middle of 6g
_CORE = _MAJOR - 2 * 0.6134 * _PITCH  # ISO 724: twice the height of the bolt's thread
# name: (mm, what is measured, gaps, note)
SIZES: dict[str, tuple[float, Measures, int, str]] = {
    "major_d": (_MAJOR, "outside", 1, "over the crests, three places round"),
    "core_d": (_CORE, "outside", 1, "in the grooves, with the thin ends of the jaws"),
    "thread_span": (6 * _PITCH, "span", 6, "crest to crest over six threads"),
    "thread_len": (24.0, "depth", 1, "of the thread alone, from the end of the neck"),
    "hex_af": (46.0, "outside", 1, "across the flats"),
    "bore_d": (22.1, "inside", 1, "clear of the worn mouth"),
    "lip_h": (4.0, "step", 1, "lip over the end face"),
}
# Where each of them is pinned on the photo: mm from the thread's first crest along it, and off its axis.
_STANDS: dict[str, tuple[float, float]] = {
    "major_d": (8.0, 0.0),
    "core_d": (18.0, -8.0),
    "thread_span": (9.0, 22.0),
    "thread_len": (6.0, -22.0),
    "hex_af": (-16.5, 0.0),
    "bore_d": (26.0, 4.0),
    "lip_h": (26.0, -4.0),
}
_LIES = (-12.0, -3.0)  # the thread's first crest on the card, mm from its middle


def _id(name: str) -> str:
    return str(uuid.uuid5(_SPACE, name))


def gland_nut_photo() -> tuple[bytes, Photo]:
    """The nut lying on a bright card of 120 x 80 mm: a JPEG as a telephone would make it, and its truth."""
    at = np.array(_LIES)
    thread = thread_outline(major=_MAJOR, pitch=_PITCH, core=_CORE, turns=8, shank=6.0) + at
    across = SIZES["hex_af"][0] / math.cos(math.radians(30))
    head = np.array([[-24, -across / 2], [-9, -across / 2], [-9, across / 2], [-24, across / 2]]) + at
    camera = Camera(tilt_deg=14, towards_deg=55, spin_deg=-3, bend=0.035, blur_px=1.1, grain=0.015, fill=0.86, seed=12)
    shot = photograph([thread, head], camera, card=CARD)
    out = io.BytesIO()
    Image.fromarray(shot.grey).convert("RGB").save(out, "JPEG", quality=90)
    return out.getvalue(), shot


def _picture(blob: str, shot: Photo) -> Picture:
    """The photo squared up by its card, scaled by the card's width and tried on the hexagon, with the thread's repeats."""
    found = squared_up(shot.grey, shot.card)
    corners = [(float(x), float(y)) for x, y in found.corners]

    def place(x: float, y: float) -> tuple[float, float]:
        px, py = shot.place(np.array([np.add((x, y), _LIES)]))[0]
        return float(px), float(py)

    crest = _CORE / 2 + 0.3 * _PITCH
    across = SIZES["hex_af"][0] / math.cos(math.radians(30))
    marks = (
        PictureMark(
            id=_id("mark-thread"),
            kind="repeat",
            name="thread crests",
            points=(place(0, crest), place(7 * _PITCH, crest)),
            count=8,
            step=Value(text="pitch"),
        ),
        PictureMark(id=_id("mark-head"), kind="distance", name="head", points=(place(-24, 0), place(-9, 0))),
    )
    wide, high = shot.camera.size
    return Picture(
        id=_id("photo"),
        name="gland-nut-on-card.jpg",
        blob=blob,
        format="jpeg",
        width=wide,
        height=high,
        corners=tuple(corners),  # type: ignore[arg-type]
        aspect=CARD[0] / CARD[1],
        bend=found.bend,
        marks=marks,
        scale=PictureLength(
            a=corners[0], b=corners[1], length=Value(text="120 mm", mark="drawing", note="the card's width")
        ),
        check=PictureLength(
            a=place(-16.5, -across / 2),
            b=place(-16.5, across / 2),
            length=Value(text="hex_af / 0.8660254", mark="caliper", note="across the corners of the hexagon"),
        ),
    )


def gland_nut_job(blob: str, shot: Photo) -> Recipe:
    """Readings with their takes, one struck out, the values that follow from them, the photo (by the hash of its
    pixels as they are kept), and the blank that is turned from them."""
    tool = Instrument(id=_id("tool"), name="Workshop caliper, 150 mm", resolution_mm=0.01, limit_mm=0.02)
    morning = Session(id=_id("morning"), name="Morning, at the bench", instrument=tool.id, zero_mm=0.04)
    readings = []
    for k, (name, (mm, measures, over, note)) in enumerate(SIZES.items()):
        c = Caliper(error_mm=0.006, zero_mm=0.04, repeat_mm=0.012, seed=40 + k)
        takes = []
        for _ in range(5 if name == "major_d" else 4):
            c = measured(c, mm)
            takes.append(
                Take(
                    value=round(c.shown_mm, 2),
                    session=morning.id,
                    method="depth rod" if measures == "depth" else "jaws",
                )
            )
        if name == "core_d":
            takes.append(
                Take(
                    value=round(_CORE + 0.66, 2),
                    session=morning.id,
                    note="jaws rode on a flank",
                    struck="not in the groove",
                )
            )
        if name == "thread_len":
            takes += [
                Take(value=v, session=morning.id, method="jaws", note="over the shoulder's edge")
                for v in (24.13, 24.16)
            ]
        x, y = shot.place(np.array([np.add(_STANDS[name], _LIES)]))[0]
        pin = Pin(on=_id("photo"), at=(float(x), float(y), 0.0))
        readings.append(
            Reading(id=_id(name), name=name, takes=tuple(takes), measures=measures, over=over, note=note, pin=pin)
        )
    formulas = (
        ("pitch", "thread_span.each", "one gap of the span"),
        ("thread_h", "(major_d - core_d) / 2", "depth of the thread"),
        ("wall", "(core_d - bore_d) / 2", "what is left between groove and bore"),
    )
    values = tuple(
        NamedValue(id=_id(n), name=n, value=Value(text=t, mark="caliper"), note=note) for n, t, note in formulas
    )
    seen = tuple(
        NamedValue(id=_id(n), name=n, value=Value(text=text, mark="photo", note="as the photo shows it"), note=note)
        for n, text, note in (
            ("head_l", "15 mm", "from the head's end to the shoulder"),
            ("neck_l", "9 mm", "from the shoulder to where the thread begins"),
        )
    )
    made = Recipe(
        name="Gland nut, by readings",
        evidence=(*readings, _picture(blob, shot)),
        instruments=(tool,),
        sessions=(morning,),
        values=(*values, *seen),
    )
    # The head's end lies 24 mm before the thread's first crest.
    x, y = shot.place(np.array([np.add((-24.0, 0.0), _LIES)]))[0]
    steps = blank_steps(made, _id("photo"), (float(x), float(y)), _id)
    return made.model_copy(update={"steps": steps})
