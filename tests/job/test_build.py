"""A whole recipe through build, store and children: statuses, keys, names, and what survives a kill."""

import json
import os
import signal
import threading
import time
from pathlib import Path

import numpy as np
import pytest

from contour.exchange.scanfile import read_scan
from contour.job.build.build import build
from contour.job.build.keep import faces_of
from contour.job.build.store import Store
from contour.job.questions.compare import moved_map
from contour.job.work.headless import build_job_file
from contour.job.work.runner import run_in_child
from contour.products.buffers import read_view
from contour.recipe.evidence.reading import Reading, Take
from contour.recipe.problem import ContourError
from contour.recipe.recipe import BodyLook, NamedValue, Recipe, Setting, Step, Variant, dump_recipe, load_recipe
from contour.recipe.values import Value
from contour.solid.from_file import read_shape_file
from contour.solid.gate import check_solid
from contour.solid.topology.parts import read_topology
from tests.job.block import changed, statuses, switched_off

TRUE_VOLUME = (1200 - np.pi * 36) * 10


def test_the_block_is_rebuilt_and_fits(store, recipe):
    result = build(recipe, store)
    assert set(statuses(result).values()) == {"ok"}
    (body,) = result.bodies
    assert body.name == "Block"
    assert body.volume == pytest.approx(TRUE_VOLUME, rel=3e-3)
    assert [f["kind"] for f in body.faces].count("cylinder") == 1
    assert len(body.faces) == 7  # both halves' walls became one
    figures = result.fit.figures
    assert figures["inside_share"] > 0.85
    assert figures["unseen_share"] < 0.02
    assert not figures["sampled"]
    assert list(result.fit.by_step) == ["upper", "lower"]
    assert result.fit.by_step["upper"].change is None
    assert result.fit.by_step["lower"].change > 0.3
    view, origin = read_view(store.folder(body.key) / "view.bin")
    corners = view["positions"].reshape(-1, 3) + origin
    assert np.ptp(corners, axis=0) == pytest.approx([40, 30, 10], abs=0.1)


def test_a_second_build_takes_everything_from_the_store(store, recipe):
    build(recipe, store)
    again = build(recipe, store)
    assert all(s.cached for s in again.steps)
    assert again.bodies == build(recipe, Store(store.root)).bodies


def test_a_changed_value_rebuilds_only_what_hangs_on_it(store, recipe):
    build(recipe, store)
    result = build(changed(recipe, "lower", distance={"text": "-5 mm"}), store)
    assert [s.cached for s in result.steps] == [True, True, True, False]
    # the same value typed another way is the same product
    same = build(changed(recipe, "lower", distance={"text": "-(3 + 3)"}), store)
    assert all(s.cached for s in same.steps)


def test_a_failed_step_says_where_and_why_and_the_earlier_geometry_stands(store, recipe):
    last = Step(
        id="more",
        kind="extrude",
        name="More",
        params={
            "sketch": {"id": "outline"},
            "distance": {"text": "1 mm"},
            "operation": "add",
            "bodies": [{"id": "upper"}],
        },
    )
    broken = changed(recipe, "lower", distance={"text": "0 mm"})
    broken = broken.model_copy(update={"steps": (*broken.steps, last)})
    result = build(broken, store)
    assert statuses(result) == {"top": "ok", "outline": "ok", "upper": "ok", "lower": "failed", "more": "blocked"}
    problem = result.steps[3].problems[0]
    assert (problem.where.step, problem.where.param) == ("lower", "distance")
    assert problem.remedy
    assert result.bodies[0].volume == pytest.approx(0.4 * TRUE_VOLUME, rel=5e-3)
    assert result.fit is not None


def test_a_step_that_is_off_is_passed_through_and_blocks_what_needs_it(store, recipe):
    result = build(switched_off(recipe, "lower"), store)
    assert statuses(result)["lower"] == "off"
    assert result.bodies[0].volume == pytest.approx(0.4 * TRUE_VOLUME, rel=5e-3)
    blocked = build(switched_off(recipe, "outline"), store)
    assert statuses(blocked) == {"top": "ok", "outline": "off", "upper": "blocked", "lower": "blocked"}
    assert "switched off" in blocked.steps[2].problems[0].message


@pytest.mark.parametrize(
    ("params", "code"),
    [
        ({"sketch": {"id": "nowhere"}}, "ref-lost"),
        ({"sketch": {"id": "top"}}, "wrong-kind"),
        ({"distance": {"text": "3 furlong"}}, "bad-formula"),
        ({"distance": {"text": "3 deg"}}, "mixed-dimensions"),
        ({"profiles": ["e99"]}, "no-profile"),
        ({"operation": "subtract", "bodies": []}, "no-body"),
        ({"sideways": True}, "bad-params"),
    ],
)
def test_what_cannot_be_is_a_problem_on_that_step(store, recipe, params, code):
    result = build(changed(recipe, "upper", **params), store, with_fit=False)
    assert result.steps[2].status == "failed"
    assert result.steps[2].problems[0].code == code
    assert result.steps[2].problems[0].where.step == "upper"


def test_missing_evidence_is_said_and_blocks(tmp_path, recipe):
    result = build(recipe, Store(tmp_path))
    assert result.problems[0].code == "file-missing"
    assert set(statuses(result).values()) == {"blocked"}


def test_names_and_values_are_the_same_in_another_process_and_store(tmp_path, store, recipe):
    here = build(recipe, store)
    other = Store(tmp_path)
    other.put_blob(store.blob(recipe.evidence[0].blob).read_bytes())
    there = run_in_child("build", {"recipe": dump_recipe(recipe), "store": str(tmp_path)})
    assert there["bodies"][0]["faces"] == list(here.bodies[0].faces)
    assert there["bodies"][0]["key"] == here.bodies[0].key
    assert there["bodies"][0]["volume"] == pytest.approx(here.bodies[0].volume, rel=1e-9)


def test_a_job_file_builds_without_the_bench(tmp_path, store, recipe):
    job = tmp_path / "block.json"
    job.write_text(dump_recipe(recipe))
    (tmp_path / "block.files").mkdir()
    blob = recipe.evidence[0].blob
    (tmp_path / "block.files" / blob).write_bytes(store.blob(blob).read_bytes())
    out = build_job_file(job, tmp_path / "out")
    assert out["files"] == ["Test-block.step", "Test-block.stl"]
    assert check_solid(read_shape_file(tmp_path / "out" / "Test-block.step")).volume == pytest.approx(
        out["bodies"][0]["volume"]
    )
    assert out["bodies"][0]["faces"] == [dict(f) for f in build(recipe, store).bodies[0].faces]
    json.dumps(out)
    top = next(s for s in recipe.steps if s.kind == "extrude")
    thicker = Setting(of=top.id, place="distance", value=Value(text="5 mm"))
    variant = Variant(id="w", name="thicker", settings=(thicker,))
    job.write_text(dump_recipe(recipe.model_copy(update={"variants": (variant,)})))
    varied = build_job_file(job, tmp_path / "out", "thicker")
    assert varied["files"] == ["Test-block-thicker.step", "Test-block-thicker.stl"]
    assert varied["bodies"][0]["volume"] != pytest.approx(out["bodies"][0]["volume"], rel=1e-3)
    with pytest.raises(ContourError, match="no such variant"):
        build_job_file(job, tmp_path / "out", "thinner")
    (tmp_path / "block.files" / blob).write_bytes(b"other")
    with pytest.raises(ContourError, match="changed since"):
        build_job_file(job, tmp_path / "out")


def test_a_killed_child_is_a_problem_and_the_next_one_finishes(tmp_path, store, recipe):
    """Kills whatever runs in the fork server's children while a build is under way."""
    payload = {"recipe": dump_recipe(recipe), "store": str(tmp_path)}
    Store(tmp_path).put_blob(store.blob(recipe.evidence[0].blob).read_bytes())

    def kill_soon():
        time.sleep(0.25)
        for pid in children_of_fork_server():
            os.kill(pid, signal.SIGKILL)

    threading.Thread(target=kill_soon).start()
    with pytest.raises(ContourError) as caught:
        run_in_child("build", payload)
    assert caught.value.problem.code == "crashed"
    assert "-9" in caught.value.problem.got
    assert run_in_child("build", payload)["bodies"]


def children_of_fork_server() -> list[int]:
    from multiprocessing.forkserver import _forkserver

    found = []
    for stat in Path("/proc").glob("[0-9]*/stat"):
        try:
            fields = stat.read_text().rsplit(")", 1)[1].split()
        except OSError:
            continue
        if int(fields[1]) == _forkserver._forkserver_pid:
            found.append(int(stat.parent.name))
    return found


def test_a_child_is_cancelled_and_limited_in_time(tmp_path, store, recipe):
    payload = {"recipe": dump_recipe(recipe), "store": str(tmp_path)}
    Store(tmp_path).put_blob(store.blob(recipe.evidence[0].blob).read_bytes())
    with pytest.raises(ContourError) as caught:
        run_in_child("build", payload, cancelled=lambda: True)
    assert caught.value.problem.code == "cancelled"
    with pytest.raises(ContourError) as caught:
        run_in_child("build", payload, time_limit_s=0.0)
    assert caught.value.problem.code == "time-limit"
    assert children_of_fork_server() == []


def test_the_store_drops_the_longest_unused_but_never_what_is_pinned(tmp_path):
    store = Store(tmp_path)
    old, pinned, new = ("0" * 40, "1" * 40, "2" * 40)
    for k, key in enumerate((old, pinned, new)):
        store.put(key, {}, lambda f: (f / "data").write_bytes(b"x" * 1000))
        os.utime(store.folder(key) / "outcome.json", (k, k))
    assert store.trim({pinned}, 2100) == 1
    assert (store.has(old), store.has(pinned), store.has(new)) == (False, True, True)
    assert store.trim({pinned}, 0) == 1
    assert store.has(pinned)


def test_a_recipe_that_was_dumped_builds_to_the_same(store, recipe):
    assert build(load_recipe(dump_recipe(recipe)), store).bodies == build(recipe, store).bodies


@pytest.mark.parametrize("turn", [0.0, 0.31, 1.07])
def test_stl_of_a_turned_body_reads_back_closed(tmp_path, turn):
    """Faces share their edges to rounding only; written in single precision they must not come apart."""
    from contour.geometry.frames import plane_frame
    from contour.mesh.health import inspect_scan
    from contour.products import save_product
    from contour.products.body import BodyProduct
    from contour.sketch.entities import Sketch, find_profiles
    from contour.solid.extrude import extrude
    from contour.solid.mass import volume
    from contour.solid.shape import write_shape
    from tests.conftest import circle, rectangle

    normal, u = np.array([np.sin(turn), 0.2 * turn, np.cos(turn)]), np.array([np.cos(turn), np.sin(turn), 0.1])
    frame = plane_frame(np.array([31.0, -12.0, 7.5]), normal, u)
    holes = [circle(10 + 9 * k, 12, 3.3, f"c{k}") for k in range(4)]
    sketch = Sketch(frame, (*rectangle(50, 30), *holes))
    body = extrude(find_profiles(sketch), frame, start_mm=0, end_mm=7.7, prefix="s1")
    store = Store(tmp_path / "store")
    store.put("b" * 40, {}, lambda f: save_product(BodyProduct(write_shape(body.shape), body.names), f))
    payload = {
        "store": str(tmp_path / "store"),
        "bodies": [{"name": "Body", "key": "b" * 40}],
        "unit": "inch",
        "chord_mm": 0.01,
        "angle_deg": 10.0,
        "out": str(tmp_path / "out.stl"),
    }
    told = run_in_child("count-stl", payload)["facets"]
    assert run_in_child("export-mesh", payload)["facets"] == told
    facts = inspect_scan(read_scan(tmp_path / "out.stl"), 25.4)
    assert facts.closed
    assert facts.volume == pytest.approx(volume(body.shape), rel=2e-3)


def with_values(recipe: Recipe, *values: tuple[str, str]) -> Recipe:
    rows = tuple(NamedValue(id=f"v-{n}", name=n, value=Value(text=t)) for n, t in values)
    return recipe.model_copy(update={"values": rows})


def test_formulas_reach_steps_above_and_readings(store, recipe):
    reading = Reading(id="q", name="block_t", takes=(Take(value=10.0), Take(value=10.0)))
    told = recipe.model_copy(update={"evidence": (*recipe.evidence, reading)})
    told = changed(told, "lower", distance={"text": "block.distance - block_t"})
    result = build(told, store, with_fit=False)
    assert result.bodies[0].volume == pytest.approx(TRUE_VOLUME, rel=0.01)
    values = {s.id: s.values for s in result.steps}
    assert values["lower"]["distance"].value == pytest.approx(-6)
    assert values["upper"]["volume"].length == 3
    assert values["top"]["area"].mark == "scan"


def test_a_formula_on_a_step_that_is_off_waits_for_it(store, recipe):
    told = switched_off(changed(recipe, "lower", distance={"text": "0 mm - outline.offset"}), "outline")
    result = build(told, store, with_fit=False)
    assert statuses(result)["lower"] == "blocked"


def test_values_that_need_each_other_are_told_and_stop_only_their_users(store, recipe):
    told = with_values(changed(recipe, "lower", distance={"text": "a"}), ("a", "b"), ("b", "a"), ("c", "4 mm"))
    result = build(told, store, with_fit=False)
    assert statuses(result) == {"top": "ok", "outline": "ok", "upper": "ok", "lower": "failed"}
    assert {p.where.value for p in result.problems} == {"a", "b"}
    assert result.values["v-c"].value == 4
    failed = next(s for s in result.steps if s.id == "lower").problems[0]
    assert (failed.code, failed.where.param) == ("value-cycle", "distance")


def test_a_cut_in_two_begins_a_body_that_goes_when_it_is_off(store, recipe):
    cut = Step(
        id="cut",
        kind="cut",
        name="Cut",
        params={"body": {"id": "upper"}, "plane": {"id": "top"}, "offset": {"text": "-3 mm"}, "keep": "both"},
    )
    longer = recipe.model_copy(
        update={"steps": (*recipe.steps, cut), "bodies": (BodyLook(id="cut", name="Lid", colour="#0e7480"),)}
    )
    result = build(longer, store, with_fit=False)
    assert [(b.id, b.name, b.colour) for b in result.bodies] == [("upper", "Block", None), ("cut", "Lid", "#0e7480")]
    assert sum(b.volume for b in result.bodies) == pytest.approx(TRUE_VOLUME, rel=0.01)
    assert result.bodies[1].volume == pytest.approx(0.3 * TRUE_VOLUME, rel=0.02)
    after = {s.id: s.after for s in result.steps}
    assert set(after["lower"]) == {"upper"}
    assert set(after["cut"]) == {"upper", "cut"}
    assert after["lower"]["upper"] != after["cut"]["upper"]
    again = build(longer, store, with_fit=False)
    assert all(s.cached for s in again.steps)
    assert [b.id for b in build(switched_off(longer, "cut"), store, with_fit=False).bodies] == ["upper"]


def test_only_the_step_that_changed_runs(store, recipe):
    build(recipe, store, with_fit=False)
    result = build(changed(recipe, "lower", distance={"text": "-5.5 mm"}), store, with_fit=False)
    assert [s.id for s in result.steps if not s.cached] == ["lower"]
    same = build(changed(recipe, "lower", distance={"text": "-60/10 mm", "mark": "intent"}), store, with_fit=False)
    assert all(s.cached for s in same.steps), "the same value in other words is the same product"


def test_what_moved_is_measured_against_the_earlier_body(store, recipe, tmp_path):
    earlier = build(recipe, store, with_fit=False)
    later = build(changed(recipe, "lower", distance={"text": "-5 mm"}), store, with_fit=False)
    out = tmp_path / "moved.bin"
    moved = moved_map(earlier, later, store, out)
    assert moved["largest"] == pytest.approx(-1.0, abs=1e-3)
    assert moved["moved_share"] == pytest.approx((1200 - np.pi * 36) / later.bodies[0].area, rel=0.25)
    arrays, _ = read_view(out)
    assert len(arrays["deviation"]) == len(arrays["positions"]) // 3
    still = moved_map(earlier, earlier, store, out)
    assert still["largest"] == 0.0
    assert still["moved_share"] == 0.0
    assert moved_map(earlier, build(switched_off(recipe, "outline"), store, with_fit=False), store, out) is None


def test_a_lost_face_fails_with_its_old_place_and_comes_back_by_name(store, recipe):
    face = {"body": "upper", "name": "upper.end[e1]", "kind": "plane", "place": [1.0, 2.0, 3.0]}
    names = [f["name"] for f in build(recipe, store, with_fit=False).bodies[0].faces]
    end = next(n for n in names if n.startswith("upper.end"))
    cut = Step(
        id="cut",
        kind="cut",
        name="Cut",
        params={"body": {"id": "upper"}, "face": {**face, "name": end}, "offset": {"text": "-1 mm"}},
    )
    longer = recipe.model_copy(update={"steps": (*recipe.steps, cut)})
    assert statuses(build(longer, store, with_fit=False))["cut"] == "ok"
    taller = build(changed(longer, "upper", distance={"text": "4.5 mm"}), store, with_fit=False)
    assert statuses(taller)["cut"] == "ok"
    lost = build(changed(longer, "cut", face={**face, "name": "nowhere.end[e1]"}), store, with_fit=False)
    problem = lost.steps[-1].problems[0]
    assert (problem.code, problem.where.param, problem.where.point) == ("ref-lost", "face", (1.0, 2.0, 3.0))


def test_a_body_that_an_earlier_version_has_kept_still_tells_its_faces(store, recipe, tmp_path):
    body = build(recipe, store, with_fit=False).bodies[0]
    old = Store(tmp_path)
    kept, rows = store.outcome(body.key), read_topology(store.folder(body.key))["faces"]
    old.put(
        "c" * 40,
        {
            "facts": {},
            "problems": [],
            "bodies": {"upper": "c" * 40},
            "gone": [],
            "body": {**kept["about"], "face_list": rows},
        },
        lambda _: None,
    )
    assert faces_of(old, "c" * 40) == faces_of(store, body.key)
    assert len(faces_of(old, "c" * 40)) == 7
