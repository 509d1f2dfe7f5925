"""A kind of step made up here alone, that uses every kind of reference, nested values and several products, goes through recipe,
keys, build, relations, repair, preview, export and the command line: nothing else has to know of it."""

from __future__ import annotations

import json
from typing import Annotated, Literal

import numpy as np
import pytest
from pydantic import BaseModel, Field

from contour.construct.place import Place
from contour.job.build.build import build
from contour.job.build.file import files_folder
from contour.job.build.inputs import checked_params
from contour.job.edits.apply import apply_edit
from contour.job.edits.relations import dependents, needs
from contour.job.questions.describe import show_job, step_kinds
from contour.job.questions.preview import preview
from contour.job.work.tasks import TASKS
from contour.products import load_product
from contour.products.body import BodyProduct
from contour.recipe.facts import Facts
from contour.recipe.fields import fields_of
from contour.recipe.params import refs_in, walk
from contour.recipe.problem import ContourError
from contour.recipe.recipe import Recipe, Step, dump_recipe, load_recipe
from contour.recipe.reference import (
    REFERENCES,
    AxisRef,
    BodyRef,
    CurveRef,
    EdgeRef,
    EdgesRef,
    EntityRef,
    FaceRef,
    FeatureRef,
    LinkedRef,
    MendRef,
    PlaceRef,
    PlaneRef,
    PointRef,
    Points,
    ProfileRef,
    RegionRef,
    ScanRef,
    SketchRef,
    SolidRef,
    SurfaceRef,
    VertexRef,
)
from contour.recipe.registry import OWN, Inputs, Outcome, StepKind
from contour.recipe.values import Length
from contour.steps import KINDS
from tests.job.block import changed, statuses, switched_off


class Detail(BaseModel):
    face: Annotated[FaceRef, Points(REFERENCES["face"])]
    gap: Length


class Params(BaseModel):
    """Everything at once."""

    scan: ScanRef
    region: RegionRef
    sketch: SketchRef
    body: BodyRef
    plane: PlaneRef
    axis: AxisRef
    point: PointRef
    place: PlaceRef
    surface: SurfaceRef
    again: FeatureRef
    file: SolidRef | None = None
    brought: LinkedRef | None = None
    before: MendRef | None = None
    curve: CurveRef | None = None
    edge: Annotated[EdgeRef, Points(REFERENCES["edge"])]
    edges: list[EdgesRef]
    vertex: Annotated[VertexRef, Points(REFERENCES["vertex"])]
    profile: Annotated[ProfileRef, Points(REFERENCES["profile"])]
    entity: Annotated[EntityRef, Points(REFERENCES["entity"])]
    parts: list[Detail]
    sizes: dict[str, Length] = Field(default={}, title="Sizes")


class EverythingFacts(Facts):
    of: Literal["everything"] = "everything"
    total: float
    face: str
    given: list[str]
    named: dict[str, list[str]]


def _run(params: Params, inputs: Inputs) -> Outcome:
    body: BodyProduct = inputs.products["body"]
    width, gap = inputs.values["sizes[width]"], inputs.values["parts[0].gap"]
    return Outcome(
        {params.body.id: BodyProduct(body.brep, body.names), OWN: Place("point", (width, gap, 0.0))},
        EverythingFacts(
            total=width + gap,
            face=inputs.face("parts[0].face"),
            given=sorted(inputs.products),
            named={place: list(inputs.names(place)) for place in inputs.parts},
        ),
    )


KIND = StepKind(
    "everything", "Everything", "Uses all there is", 1, "point", Params, "", _run, EverythingFacts, {"total": "length"}
)
RIM = "upper.end[p1]|upper.side[e1]"


def _middle(name: str) -> Step:
    return Step(id=name, kind="point", name=name.capitalize(), params={"by": "typed", "x": {"text": "1 mm"}})


@pytest.fixture
def longer(monkeypatch, store, recipe) -> Recipe:
    monkeypatch.setitem(KINDS, "everything", KIND)
    axis = Step(
        id="line",
        kind="axis",
        name="Line",
        params={"by": "direction", "plane": {"id": "top"}, "point": {"id": "middle"}},
    )
    faces = build(recipe, store, with_fit=False).bodies[0].faces
    face = {"body": "upper", "name": next(f["name"] for f in faces if f["kind"] == "cylinder"), "kind": "cylinder"}
    params = {
        "scan": {"id": "scan"},
        "region": {"id": "top"},
        "sketch": {"id": "outline"},
        "body": {"id": "upper"},
        "plane": {"id": "top"},
        "axis": face,
        "point": {"id": "middle"},
        "place": {"id": "line"},
        "surface": {"id": "top"},
        "again": {"id": "upper"},
        "edge": {"body": "upper", "edge": RIM},
        "edges": [{"body": "upper", "chain": RIM}, face],
        "vertex": {"body": "upper", "vertex": f"{RIM}|upper.side[e2]"},
        "profile": {"sketch": "outline", "profile": "p1"},
        "entity": {"sketch": "outline", "entity": "e1"},
        "parts": [{"face": face, "gap": {"text": "width_of_it / 2"}}],
        "sizes": {"width": {"text": "3 mm"}},
    }
    user = Step(
        id="user",
        kind="point",
        name="User",
        params={"by": "typed", "x": {"text": "everything_1.total + everything_1.width"}},
    )
    edits = [
        {"op": "set-value", "id": "v", "name": "width_of_it", "value": {"text": "4 mm"}},
        *(
            {"op": "add-step", "id": s.id, "kind": s.kind, "name": s.name, "params": s.params}
            for s in (_middle("middle"), axis)
        ),
        {"op": "add-step", "id": "all", "kind": "everything", "params": params},
    ]
    from pydantic import TypeAdapter

    from contour.job.edits.apply import Edit

    after = recipe
    for edit in edits:
        after, _ = apply_edit(after, TypeAdapter(Edit).validate_python(edit))
    return after.model_copy(update={"steps": (*after.steps, user)})


def test_it_uses_every_kind_of_reference():
    used = {f.reference for group in (fields_of(Params), fields_of(Detail)) for f in group if f.reference}
    assert used == set(REFERENCES)


def test_it_is_built_its_products_and_nested_values_reach_others(longer, store):
    result = build(longer, store, with_fit=False)
    assert set(statuses(result).values()) == {"ok"}, [s.problems for s in result.steps]
    made = next(s for s in result.steps if s.id == "all")
    assert made.facts.total == 5.0 and len(made.facts.given) == 17
    assert made.facts.named["edges[0]"] == ["lower.side[e1]+upper.side[e1]|upper.end[p1]"] and made.facts.named[
        "entity"
    ] == ["e1"]
    assert {n: v.value for n, v in made.values.items()} == {"total": 5.0, "width": 3.0, "parts_0_gap": 2.0}
    assert load_product(store.folder(made.key)) == Place("point", (3.0, 2.0, 0.0))
    assert next(s for s in result.steps if s.id == "user").facts.origin[0] == pytest.approx(8.0)
    before = next(s for s in result.steps if s.id == "line")
    assert made.after["upper"] != before.after["upper"]  # the body's present state is what this step put


def test_its_key_follows_what_it_uses_and_nothing_else(longer, store):
    def key(of: Recipe) -> str | None:
        return next(s for s in build(of, store, with_fit=False).steps if s.id == "all").key

    assert key(longer) == key(load_recipe(dump_recipe(longer)))
    values = longer.values[0].model_copy(update={"value": longer.values[0].value.model_copy(update={"text": "6 mm"})})
    assert key(longer) != key(longer.model_copy(update={"values": (values,)}))
    again = build(longer, store, with_fit=False)
    assert next(s for s in again.steps if s.id == "all").cached
    renamed = tuple(s.model_copy(update={"name": "Another"}) if s.id == "line" else s for s in longer.steps)
    assert key(longer) == key(longer.model_copy(update={"steps": renamed}))


@pytest.mark.parametrize("lost", ["top", "outline", "middle", "line"])
def test_what_it_needs_blocks_it_where_it_points(longer, store, lost):
    assert lost in needs(longer)["all"] and "all" in [s.id for s in dependents(longer, lost)]
    state = next(s for s in build(switched_off(longer, lost), store, with_fit=False).steps if s.id == "all")
    assert state.status == "blocked" and state.problems[0].where.param in refs_in(checked_params(longer.step("all"))[1])


def test_a_lost_face_and_a_wrong_kind_are_located(longer, store):
    parts = longer.step("all").params["parts"]
    gone = changed(longer, "all", parts=[{**parts[0], "face": {"body": "upper", "name": "nowhere.end[e1]"}}])
    problem = next(s for s in build(gone, store, with_fit=False).steps if s.id == "all").problems[0]
    assert (problem.code, problem.where.param) == ("ref-lost", "parts[0].face")
    wrong = changed(longer, "all", axis={"id": "outline"})
    problem = next(s for s in build(wrong, store, with_fit=False).steps if s.id == "all").problems[0]
    assert (problem.code, problem.where.param, problem.need) == ("wrong-kind", "axis", "axis or region")


def test_renaming_follows_into_its_nested_values(longer):
    from contour.job.build.scope import rename_everywhere

    after = rename_everywhere(longer, "width_of_it", "gap_d")
    assert after.step("all").params["parts"][0]["gap"]["text"] == "gap_d / 2"


def test_it_is_previewed_exported_described_and_shown(longer, store, tmp_path, recipe):
    seen = preview(changed(longer, "all", sizes={"width": {"text": "7 mm", "mark": "assumed"}}), store)
    assert "all" in seen["ran"] and seen["facts"]["all"]["total"] == 9.0 and seen["bodies"]
    path = tmp_path / "job.json"
    path.write_text(dump_recipe(longer))
    files_folder(path).mkdir()
    blob = recipe.evidence[0].blob
    (files_folder(path) / blob).write_bytes(store.whole_blob(blob).read_bytes())
    shown = show_job(path)
    row = next(s for s in shown["steps"] if s["kind"] == "everything")
    assert row["refers_to"]["surface"] == "Top" and any(v["place"] == "sizes[width]" for v in row["values"])
    assert "everything" in [k["kind"] for k in step_kinds()]
    assert json.loads(json.dumps(step_kinds()))
    assert {leaf.place for leaf in walk(checked_params(longer.step("all"))[1])} >= {"parts[0].face", "sizes[width]"}


def test_the_body_it_puts_is_delivered_as_a_checked_solid(longer, store, tmp_path):
    body = build(longer, store, with_fit=False).bodies[0]
    said = TASKS["export-step"](
        {
            "store": str(store.root),
            "bodies": [{"name": body.name, "key": body.key}],
            "unit": "mm",
            "out": str(tmp_path / "a.step"),
        },
        lambda _: None,
    )
    assert said["volume"] == pytest.approx((1200 - np.pi * 36) * 10, rel=3e-3) and said["faces"] == 7


def test_all_faults_of_a_form_are_told_not_only_the_first(longer, store):
    from pydantic import TypeAdapter

    from contour.job.edits.apply import Edit

    def change(**params) -> ContourError:
        edit = TypeAdapter(Edit).validate_python({"op": "set-params", "step": "all", "params": params})
        with pytest.raises(ContourError) as refused:
            apply_edit(longer, edit)
        return refused.value

    face = longer.step("all").params["axis"]
    bad = change(sizes={"width": {"text": "3 furlongs"}}, parts=[{"face": face, "gap": {"text": "2 deg"}}])
    assert [p.where.param for p in (bad.problem, *bad.also)] == ["parts[0].gap", "sizes[width]"]
    assert all(p.where.step == "all" for p in (bad.problem, *bad.also))
    bad = change(body=None, scan={"name": "x"})
    assert {p.where.param for p in (bad.problem, *bad.also)} == {"body", "scan.id", "scan.name"}
    lost = changed(longer, "all", sketch={"id": "gone"}, axis={"id": "outline"}, surface={"id": "also gone"})
    state = next(s for s in build(lost, store, with_fit=False).steps if s.id == "all")
    assert state.status == "failed"
    assert [(p.where.param, p.code) for p in state.problems] == [
        ("sketch", "ref-lost"),
        ("axis", "wrong-kind"),
        ("surface", "ref-lost"),
    ]


def test_what_waits_is_blocked_and_what_is_lost_beside_it_has_failed(longer, store):
    waits = switched_off(longer, "outline")
    both = changed(waits, "all", surface={"id": "gone"})
    found = [next(s for s in build(r, store, with_fit=False).steps if s.id == "all") for r in (waits, both)]
    assert [s.status for s in found] == ["blocked", "failed"]
