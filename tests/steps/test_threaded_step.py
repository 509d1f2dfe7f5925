"""Threads against closed forms: volumes by sections, diameters by places on crests and roots, pitch and hand, fades, names, refusals."""

from __future__ import annotations

import math

import numpy as np
import pytest

from contour.recipe.problem import ContourError
from contour.solid.boolean import combine
from contour.solid.gate import check_solid
from contour.solid.mass import volume
from contour.solid.primitives import cone, sphere
from contour.solid.tessellate import tessellate
from tests.conftest import circle, prism, rectangle
from tests.steps.helpers import body, run, shape_of, volume_of

UP = np.array([0.0, 0, 1])
VALUES = {"major", "pitch", "length", "starts", "play", "fade"}
DEPTH = 5 / 8 * math.sqrt(3) / 2


def bolt(d=8.0, length=20.0):
    """A head of 20 x 20 x 6 under a shaft that ends free at the top."""
    head = prism(rectangle(20, 20, at=(-10, -10)), 6, z=-6, prefix="head")
    return combine(head, cone(np.zeros(3), UP, (-1.0, length), (d / 2, d / 2), prefix="shaft"), "add")


def nut(bore, height=10.0):
    return prism([*rectangle(24, 24, at=(-12, -12)), circle(0, 0, bore / 2)], height, prefix="nut")


def thread(of, face, **more):
    params = {"thread": "M8", **{k: {"text": v} if k in VALUES else v for k, v in more.items()}}
    return run("threaded", {"face": {"body": "b", "name": face}, **params}, {"face": body(of)}, face=face)


def wall(of, prefix="shaft.side[wall]"):
    return next(n for n in of.names if n.startswith(prefix))


def checked(outcome):
    made = shape_of(outcome, "b")
    found = check_solid(made.shape)
    assert found.closed and found.valid and found.solids == 1
    return made


def section_area(crest, root, pitch, flat):
    """Of a full thread square to its axis: half the squared radius, all round."""
    flank = abs(crest - root) * math.tan(math.radians(30))
    run_ = np.cumsum([0, flat, flank, pitch - flat - 2 * flank, flank]) / pitch
    r = np.interp(np.linspace(0, 1, 100001), run_, [crest, crest, root, root, crest])
    return math.pi * float(np.trapezoid(r * r, np.linspace(0, 1, 100001)))


@pytest.mark.parametrize(("name", "d", "p"), [("M8", 8, 1.25), ("M3", 3, 0.5), ("1/4-20 UNC", 6.35, 1.27)])
def test_a_bolt_without_lead_in_and_run_out_by_its_sections(name, d, p):
    """A stud cut off at both ends: its volume is its section's area times its length."""
    stud = cone(np.zeros(3), UP, (0.0, 5 * p), (d / 2, d / 2), prefix="shaft")
    made = thread(stud, wall(stud), thread=name, lead_in=False)
    checked(made)
    want = section_area(d / 2, d / 2 - DEPTH * p, p, p / 8) * 5 * p
    assert volume_of(made, "b") == pytest.approx(want, rel=2e-6)
    assert made.facts.turns == pytest.approx(5) and made.facts.minor == pytest.approx(d - 2 * DEPTH * p)


def test_a_nut_by_its_sections():
    of = nut(8 - 2 * DEPTH * 1.25)
    made = thread(of, wall(of, "nut.side[c1]"), lead_in=False)
    checked(made)
    want = 24 * 24 * 10 - section_area(4 - DEPTH * 1.25, 4, 1.25, 1.25 / 4) * 10
    assert volume_of(made, "b") == pytest.approx(want, rel=2e-6) and made.facts.inside


def test_a_hole_for_the_tap_drill_keeps_its_width_between_the_crests():
    """6.8 mm instead of 6.647: crests are cut off there, and wider."""
    of = nut(6.8)
    made = thread(of, wall(of, "nut.side[c1]"), lead_in=False)
    minor = 4 - DEPTH * 1.25
    flat = 1.25 / 4 + 2 * (3.4 - minor) * math.tan(math.radians(30))
    assert volume_of(made, "b") == pytest.approx(5760 - section_area(3.4, 4, 1.25, flat) * 10, rel=2e-6)


def ridge_at(p, hand=1, pitch=1.25):
    """Radius of a full M8 thread where a place (n, 3) lies, by ISO 68-1, for every start angle; (n, 720)."""
    core = 4 - DEPTH * pitch
    turn = np.arctan2(p[:, 1], p[:, 0]) / (2 * math.pi)
    starts = np.arange(720) / 720
    q = (hand * p[:, 2] / pitch - turn * 1.0)[:, None] if hand > 0 else (p[:, 2] / pitch + turn)[:, None]
    return np.interp((q + starts) % 1.0, np.cumsum([0, 1 / 8, 5 / 16, 1 / 4, 5 / 16]), [4, 4, core, core, 4])


@pytest.mark.parametrize(("hand", "way"), [("right", 1), ("left", -1)])
def test_crests_roots_flanks_pitch_and_hand_by_every_vertex(hand, way):
    """Each vertex of its mesh between the fades lies on one profile that winds about the axis, a pitch apart; wound the other way none does."""
    mesh = tessellate(checked(thread(bolt(), wall(bolt()), hand=hand)).shape, chord_mm=0.02)
    p = mesh.vertices[(mesh.vertices[:, 2] > 3) & (mesh.vertices[:, 2] < 18)]
    r = np.hypot(p[:, 0], p[:, 1])
    assert (
        len(p) > 500 and r.min() == pytest.approx(4 - DEPTH * 1.25, abs=1e-4) and r.max() == pytest.approx(4, abs=1e-4)
    )
    off = np.abs(ridge_at(p, way) - r[:, None]).max(axis=0)
    wrong = np.abs(ridge_at(p, -way) - r[:, None]).max(axis=0)
    assert off.min() < 0.004 and wrong.min() > 0.5


def test_it_fades_out_before_the_head_and_leads_in_at_the_end():
    of = bolt()
    made = thread(of, wall(of), length="15 mm")
    p = tessellate(checked(made).shape, chord_mm=0.02).vertices
    r = np.hypot(p[:, 0], p[:, 1])
    core = 4 - DEPTH * 1.25
    # At the end the circle of the roots, at the run-out's end the whole shaft.
    at_end = (p[:, 2] > 20 - 1e-6) & (r > 1)
    assert at_end.sum() > 20 and r[at_end] == pytest.approx(core, abs=1e-4)
    below = np.abs(p[:, 2] - 5) < 1e-6
    assert below.sum() > 20 and r[below] == pytest.approx(4, abs=1e-4)
    between = r[(p[:, 2] > 5) & (p[:, 2] < 20)]
    assert between.min() > core - 1e-4 and between.max() < 4 + 1e-4
    (grip,) = made.handles
    assert (
        grip.place == "length" and grip.direction == pytest.approx((0, 0, -1)) and grip.origin[2] == pytest.approx(20)
    )


def test_built_onto_a_core():
    core = 8 - 2 * DEPTH * 1.25
    of = bolt(core)
    made = thread(of, wall(of), how="built", fade="1 mm")
    checked(made)
    gained = volume_of(made, "b") - volume(of.shape)
    full = section_area(4, core / 2, 1.25, 1.25 / 8) - math.pi * core**2 / 4
    assert 0.9 * full * 19 < gained < full * 20


@pytest.mark.parametrize(("d", "name"), [(7.9, "M8x1.25"), (12.1, "M12x1.75")])
def test_without_a_designation_it_is_the_nearest_coarse_one(d, name):
    of = bolt(d)
    assert thread(of, wall(of), made="noted", thread="").facts.designation == name
    bore = nut(d - 1.25)
    assert thread(bore, wall(bore, "nut.side[c1]"), made="noted", thread="").facts.inside


def test_play_and_starts():
    stud = cone(np.zeros(3), UP, (0.0, 12.0), (4.0, 4.0), prefix="shaft")
    made = thread(stud, wall(stud), lead_in=False, play="0.1 mm", starts="2")
    checked(made)
    want = section_area(3.9, 3.9 - DEPTH * 1.25, 1.25, 1.25 / 8) * 12
    assert volume_of(made, "b") == pytest.approx(want, rel=2e-5)
    assert made.facts.turns == pytest.approx(12 / 2.5) and made.facts.major == pytest.approx(7.8)


def test_names_of_what_stays_and_what_is_new():
    of = bolt()
    names = shape_of(thread(of, wall(of), length="15 mm"), "b").names
    assert set(of.names) <= set(names)
    new = {f"newstep0.thread[{what}1-{k}]" for what in ("crest", "flank", "root", "back") for k in range(1, 13)}
    assert new == set(names) - set(of.names)
    finer = shape_of(thread(of, wall(of), length="12 mm", thread="M8x1"), "b").names
    assert sorted(finer) == sorted(names)


def test_only_noted_it_changes_nothing_but_says_what_it_is():
    of = bolt()
    made = thread(of, wall(of), made="noted")
    assert volume_of(made, "b") == pytest.approx(volume(of.shape)) and shape_of(made, "b").names == of.names
    assert made.facts.designation == "M8x1.25" and not made.facts.real


CROSS = combine(
    bolt(), cone(np.array([-20.0, 0, 10]), np.array([1.0, 0, 0]), (0.0, 40.0), (1.0, 1.0), prefix="cross"), "subtract"
)
THIN = combine(nut(7.0), prism([circle(5.2, 0, 1.5)], 30, z=-5, prefix="near"), "subtract")


@pytest.mark.parametrize(
    ("of", "face", "more", "code", "param"),
    [
        (bolt(), "head.side[e1]", {}, "wrong-kind", "face"),
        (CROSS, None, {}, "wrong-kind", "face"),
        (bolt(6.0), None, {}, "bad-params", "face"),
        (bolt(), None, {"length": "25 mm"}, "bad-params", "length"),
        (bolt(), None, {"length": "1 mm"}, "bad-params", "length"),
        (bolt(), None, {"thread": "M8.5"}, "bad-params", "thread"),
        (bolt(), None, {"size": "typed", "pitch": "7 mm"}, "bad-params", "pitch"),
        (bolt(), None, {"starts": "1.5"}, "bad-params", "starts"),
        (THIN, "nut.side[c1]", {}, "self-crossing", "face"),
    ],
)
def test_what_cannot_be_is_refused_at_its_field(of, face, more, code, param):
    with pytest.raises(ContourError) as refused:
        thread(of, wall(of, face or "shaft.side[wall]"), **more)
    assert refused.value.problem.code == code and refused.value.problem.where.param == param


def test_a_lead_in_that_another_border_is_in_the_way_of():
    """A centre bore wider than the thread's roots leaves no face for it to begin in."""
    hollow = combine(bolt(), cone(np.zeros(3), UP, (15.0, 25.0), (3.4, 3.4), prefix="bore"), "subtract")
    with pytest.raises(ContourError) as refused:
        thread(hollow, wall(hollow))
    assert refused.value.problem.code in ("bad-params", "self-crossing")


@pytest.mark.parametrize(("across", "deep"), [(2.58, 1.6245), (2.58, 4.1), (3.0, 1.9), (3.36, 1.6245), (3.84, 2.5)])
def test_a_hole_wider_than_the_crests_of_its_thread(across, deep):
    """Crests are wide there, and where they fade out they lie on a circle over more than a third of a turn, which has to be met."""
    block = cone(np.zeros(3), UP, (0.0, 10.0), (8.0, 8.0), prefix="b")
    bore = cone(np.array([0, 0, 10 - deep]), UP, (0.0, deep + 1), (across / 2, across / 2), prefix="h")
    drilled = combine(block, bore, "subtract")
    outcome = thread(drilled, wall(drilled, "h.side"), thread="")
    taken = volume(drilled.shape) - volume(checked(outcome).shape)
    assert 0 < taken < math.pi * (outcome.facts.major**2 - across**2) / 4 * deep


def test_a_hollow_within_the_body_stays():
    """A ball of air in the head: the thread knows nothing of it."""
    whole = bolt()
    hollow = combine(whole, sphere(np.array([0, 0, -3.0]), 2.0, prefix="air"), "subtract")
    plain, made = (checked(thread(b, wall(b), length="12 mm")) for b in (whole, hollow))
    assert volume(plain.shape) - volume(made.shape) == pytest.approx(4 / 3 * math.pi * 8, rel=1e-6)
    assert any(n.startswith("air.") for n in made.names)
