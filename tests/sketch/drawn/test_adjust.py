"""Drawings adjusted to measured places of known truth: sizes, uncertainties, what is held, what is left out, and refusals that say why."""

from __future__ import annotations

import json
import math

import numpy as np
import pytest

from contour.cli import main
from contour.recipe.problem import ContourError
from contour.simulate.measured_profiles import measured_profile
from contour.sketch.drawn.adjust import adjusted
from contour.sketch.drawn.dimensions import measured
from contour.sketch.drawn.fitted import fitted, strayed
from contour.sketch.drawn.kept import KeptDrawing
from contour.sketch.drawn.measured_section import read_section
from contour.sketch.drawn.nearness import belonging, off
from contour.sketch.drawn.text import PlaneAxes, read_drawing
from contour.sketch.drawn.traces import trace_of
from contour.sketch.drawn.unknowns import Unknowns

RNG = np.random.default_rng(5)


def plate(width=40.0, height=20.0, r=4.0, **more) -> dict:
    points = {"a": (0, 0), "b": (width, 0), "c": (width, height), "d": (0, height), "m": (width / 4, height / 2)}
    sides = {"l1": "ab", "l2": "bc", "l3": "cd", "l4": "da"}
    entities = {n: {"kind": "point", "at": list(p)} for n, p in points.items()}
    entities |= {n: {"kind": "line", "from": s[0], "to": s[1]} for n, s in sides.items()}
    entities["k"] = {"kind": "circle", "centre": "m", "radius": r}
    constraints = [{"kind": "horizontal", "of": ["l1", "l3"]}, {"kind": "vertical", "of": ["l2", "l4"]}]
    dimensions = [
        {"kind": "length", "of": ["l1"], "value": f"{width} mm", "name": "width"},
        {"kind": "length", "of": ["l2"], "value": f"{height} mm", "name": "height"},
        {"kind": "diameter", "of": ["k"], "value": f"{2 * r} mm", "name": "bore"},
        {"kind": "distance", "of": ["m", "l4"], "value": f"{width / 4} mm", "name": "edge"},
    ]
    return {"entities": entities, "constraints": constraints, "dimensions": dimensions} | more


def places(width=40.0, height=20.0, r=4.0, noise=0.02, per_side=200, rng=RNG) -> list[np.ndarray]:
    t = np.linspace(0.02, 0.98, per_side)
    o, w, h = np.zeros(per_side), width * t, height * t
    around = np.vstack([np.c_[w, o], np.c_[o + width, h], np.c_[w[::-1], o + height], np.c_[o, h[::-1]]])
    a = np.linspace(0, 2 * np.pi, per_side, endpoint=False)
    bore = np.c_[width / 4 + r * np.cos(a), height / 2 + r * np.sin(a)]
    return [c + rng.normal(0, noise, c.shape) for c in (around, bore)]


def test_all_sizes_at_once_with_the_uncertainty_that_as_many_places_give():
    rough = read_drawing(plate(40.6, 19.6, 4.2))
    found = adjusted(rough, places(noise=0.02))
    width, height, bore, edge = found.sizes
    for size, truth in ((width, 40), (height, 20), (bore, 8), (edge, 10)):
        assert abs(size.value - truth) < 4 * size.u
    # A side of n places is as sure as its noise over the root of n; a width lies between two.
    assert width.u == pytest.approx(0.02 * math.sqrt(2 / 200), rel=0.25)
    assert bore.u == pytest.approx(2 * 0.02 / math.sqrt(200), rel=0.25)
    assert width.before == pytest.approx(40.6) and found.rms == pytest.approx(0.02, rel=0.15)
    d = found.drawing
    assert d.point("a")[1] == pytest.approx(d.point("b")[1], abs=1e-9)
    assert d.point("b")[0] == pytest.approx(d.point("c")[0], abs=1e-9)


def test_what_is_held_keeps_its_value_and_the_rest_makes_the_best_of_it():
    rough = read_drawing(plate(40.6, 19.6, 4.2))
    found = adjusted(rough, places(), held=[0])
    assert found.sizes[0].value == pytest.approx(40.6) and found.sizes[0].held and found.sizes[0].u is None
    assert found.sizes[1].value == pytest.approx(20, abs=0.01)
    # Half of what is too much goes to either side.
    assert found.drawing.point("a")[0] == pytest.approx(-0.3, abs=0.02)


def test_wear_rims_and_corners_are_left_out():
    around, bore = places(noise=0.01)
    worn = around.copy()
    low = (worn[:, 1] < 1) & (worn[:, 0] > 15) & (worn[:, 0] < 22)
    worn[low, 1] += 0.4
    soft = np.array([[x, y] for x in (0.3, 39.7) for y in (0.3, 19.7)])
    rim = bore[:20] * 0.9 + [1, 1]
    found = adjusted(read_drawing(plate(40.3, 19.8)), [np.vstack([worn, soft]), bore, rim])
    assert found.sizes[1].value == pytest.approx(20, abs=0.01)
    assert found.sizes[2].value == pytest.approx(8, abs=0.01)
    assert found.left_out > low.sum()


def test_entities_that_nobody_measured_are_kept_and_named():
    drawing = plate()
    drawing["entities"] |= {
        "e": {"kind": "point", "at": [30, 10]},
        "k2": {"kind": "circle", "centre": "e", "radius": 2.0},
    }
    drawing["dimensions"].append({"kind": "diameter", "of": ["k2"], "value": 4})
    found = adjusted(read_drawing(drawing), places())
    assert found.assumed == ("k2",)
    assert found.sizes[4].u is None and found.sizes[4].value == pytest.approx(4)


def test_fewer_places_are_less_sure():
    few, many = (adjusted(read_drawing(plate()), places(per_side=n)).sizes[0].u for n in (50, 800))
    assert few == pytest.approx(4 * many, rel=0.35)


def test_places_that_share_their_errors_tell_less():
    around, bore = places(noise=0.0, per_side=400)
    rng = np.random.default_rng(8)
    alone = around + rng.normal(0, 0.02, around.shape)
    raw = rng.normal(0, 0.02, around.shape)
    shared = around + sum(np.roll(raw, k, axis=0) for k in range(6)) / math.sqrt(6)
    u = [adjusted(read_drawing(plate()), [c, bore]).sizes[0].u for c in (alone, shared)]
    assert u[1] > 1.6 * u[0]


KINDS = {
    "line": {"kind": "line", "from": "p", "to": "q"},
    "circle": {"kind": "circle", "centre": "p", "radius": 7.0},
    "ellipse": {"kind": "ellipse", "centre": "p", "major": "q", "minor": 5.0},
    "spline": {"kind": "spline", "through": ["p", "s", "q", "t"]},
    "control": {"kind": "spline", "control": ["p", "s", "q", "t", "v"]},
}


@pytest.mark.parametrize("kind", KINDS)
def test_distances_change_with_the_drawing_as_their_derivatives_say(kind):
    at = {"p": (0, 0), "q": (9, 4), "s": (4, 6), "t": (14, 1), "v": (18, 6)}
    drawing = read_drawing(
        {"entities": {**{n: {"kind": "point", "at": list(a)} for n, a in at.items()}, "e": KINDS[kind]}}
    )
    u = Unknowns(drawing)
    trace = trace_of(u, "e")
    rng = np.random.default_rng(3)
    points = trace.place(np.linspace(0.15, 0.85, 25)) + rng.normal(0, 0.2, (25, 2))
    x = np.array(u.start)
    r, slots, jacobian = off(u, x, "e", points)
    nearest = np.linalg.norm(points[:, None] - trace.place(np.linspace(0, 1, 6001))[None], axis=2).min(axis=1)
    assert np.abs(r) == pytest.approx(nearest, abs=2e-3)
    for k, s in enumerate(slots):
        high, low = x.copy(), x.copy()
        high[s] += 1e-6
        low[s] -= 1e-6
        slope = (off(u, high, "e", points)[0] - off(u, low, "e", points)[0]) / 2e-6
        assert jacobian[:, k] == pytest.approx(slope, abs=2e-4), (kind, k)


@pytest.mark.parametrize("missing", [0.0, 0.2])
def test_random_profiles_are_within_their_uncertainties(missing):
    rng = np.random.default_rng(31)
    inside = total = 0
    for _ in range(12):
        p = measured_profile(rng, missing=missing)
        u = Unknowns(p.truth)
        found = adjusted(p.rough, p.chains)
        for k, (d, s) in enumerate(zip(p.truth.dimensions, found.sizes, strict=True)):
            if d.kind != "angle" and s.u is not None:
                total += 1
                inside += abs(s.value - measured(u, d, f"d:{k}", u.start)) <= 3 * s.u
    assert total > 60 and inside >= 0.95 * total


def test_refusals_say_why():
    with pytest.raises(ContourError) as far:
        adjusted(read_drawing(plate()), [c + 500 for c in places()])
    assert far.value.problem.code == "too-few-points"
    with pytest.raises(ContourError) as none:
        adjusted(read_drawing(plate()), [np.full((5, 2), np.nan)])
    assert none.value.problem.code == "too-few-points"
    torn = plate()
    torn["dimensions"].append({"kind": "length", "of": ["l3"], "value": 45})
    with pytest.raises(ContourError) as contradiction:
        adjusted(read_drawing(torn), places(), held=[0, 4])
    assert contradiction.value.problem.code == "no-solution"
    assert belonging(read_drawing({"entities": {}}), np.zeros((3, 2)), 1.0).owner.tolist() == [-1] * 3


def kept(**marks: str) -> KeptDrawing:
    text = plate(40.4, 19.7, 4.1)
    values = {d["name"]: {"text": d["value"], "mark": marks.get(d["name"], "assumed")} for d in text["dimensions"]}
    sizes = [{k: d[k] for k in ("kind", "of", "name")} for d in text["dimensions"]]
    return KeptDrawing.model_validate(
        {"entities": text["entities"], "constraints": text["constraints"], "sizes": sizes, "lengths": values}
    )


def test_what_was_assumed_becomes_what_the_scan_says_and_a_callipers_word_stands():
    found = fitted(kept(width="caliper"), places())
    rows = {r.name: r for r in found.rows}
    assert rows["width"].held == "by caliper" and rows["width"].value == pytest.approx(40.4)
    assert found.kept.lengths["width"].mark == "caliper"
    height = found.kept.lengths["height"]
    assert height.mark == "scan" and height.note.startswith("fitted to the section, ±")
    assert float(height.text.split()[0]) == pytest.approx(20, abs=0.01)
    assert rows["height"].round == "20 mm" and rows["bore"].round == "8 mm"


def test_formulas_and_what_they_name_are_kept():
    with_formula = kept()
    lengths = {
        **with_formula.lengths,
        "height": with_formula.lengths["height"].model_copy(update={"text": "width / 2"}),
    }
    found = fitted(with_formula.model_copy(update={"lengths": lengths}), places())
    held = {r.name: r.held for r in found.rows}
    assert held == {"width": "named by a formula", "height": "a formula", "bore": "", "edge": ""}
    assert found.kept.lengths["height"].text == "width / 2"


def test_how_far_a_drawing_is_from_its_section():
    found = strayed(read_drawing(plate(40, 20.2, 4)), places(noise=0.0))
    top = [abs(o) for o, k in zip(found.off, found.entity, strict=True) if found.names[k] == "l3"]
    assert np.median(top) == pytest.approx(0.2) and float(np.abs(found.off).max()) == pytest.approx(0.2, abs=1e-6)
    low = found.entity == found.names.index("l1")
    assert np.abs(found.off[low]).max() < 1e-9
    assert strayed(read_drawing(plate()), []).alone == ("l1", "l2", "l3", "l4", "k")


# -- sections as files, and the command


def section(frame=None, chains=None) -> dict:
    frame = frame or {"origin": [0, 0, 5], "u": [1, 0, 0], "v": [0, 1, 0]}
    cuts = [{"closed": True, "points": c.tolist()} for c in chains or places()]
    return {"loops": [{"frame": frame, "pieces": []}], "cuts": cuts, "frame": frame}


def test_a_section_comes_onto_the_drawings_own_axes():
    turned = {"origin": [40, 0, 5], "u": [0, 1, 0], "v": [-1, 0, 0]}
    onto = PlaneAxes(origin=(0, 0, 5), u=(1, 0, 0), v=(0, 1, 0))
    (chain,) = read_section(json.dumps(section(turned, [np.array([[3.0, 7.0]])])), onto)
    assert chain == pytest.approx(np.array([[33, 3]]))


@pytest.mark.parametrize(
    ("data", "code"),
    [
        ("{", "file-not-understood"),
        ("[1, 2]", "file-not-understood"),
        ('{"loops": [{}]}', "file-not-understood"),
        ('{"loops": []}', "no-section"),
    ],
)
def test_files_that_are_no_sections_are_refused(data, code):
    with pytest.raises(ContourError) as refused:
        read_section(data)
    assert refused.value.problem.code == code


def test_a_section_in_another_plane_is_refused_with_how_far_it_is_off():
    onto = PlaneAxes(origin=(0, 0, 7), u=(1, 0, 0), v=(0, 1, 0))
    with pytest.raises(ContourError) as refused:
        read_section(json.dumps(section()), onto)
    assert refused.value.problem.got == "0.00 degrees and 2.000 mm off"


def test_pieces_serve_where_a_file_has_no_cuts():
    pieces = [
        {"kind": "line", "flat": {"start": [0, 0], "end": [10, 0]}},
        {"kind": "arc", "flat": {"start": [10, 0], "end": [0, 10], "mid": [7.0711, 7.0711]}},
    ]
    (chain,) = read_section(json.dumps({"loops": [{"pieces": pieces}]}))
    assert len(chain) == 80 and np.hypot(*chain[60]) == pytest.approx(10, abs=0.02)


def test_the_command_adjusts_and_tells_each_size_with_its_uncertainty(tmp_path, capsys):
    (tmp_path / "plate.json").write_text(json.dumps(plate(40.5, 19.8, 4.1)))
    (tmp_path / "cut.json").write_text(json.dumps(section()))
    code = main(["sketch", str(tmp_path / "plate.json"), "--fit", str(tmp_path / "cut.json"), "--json"])
    said = json.loads(capsys.readouterr().out)
    assert code == 0 and said["solved"]
    width = said["fit"]["sizes"][0]
    assert width["before"] == pytest.approx(40.5) and abs(width["value"] - 40) < 4 * width["u"]
    assert said["sizes"][0] == pytest.approx(width["value"])
