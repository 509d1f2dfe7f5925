"""Jobs that rest on files of solids: alone, beside bodies of their own and scans; features on them, newer versions, units in doubt."""

from __future__ import annotations

import numpy as np
import pytest
from pydantic import TypeAdapter

from contour.exchange.step import write_step
from contour.job.build.build import build
from contour.job.build.keep import faces_of
from contour.job.build.result import BuildResult, deliverable
from contour.job.build.store import Store
from contour.job.edits.apply import Edit, apply_edit
from contour.job.edits.relations import dependents
from contour.job.questions.preview import preview
from contour.job.work.tasks import TASKS
from contour.products.body import BodyProduct
from contour.recipe.evidence.scan import ScanEvidence
from contour.recipe.evidence.solid import SolidEvidence
from contour.recipe.problem import ContourError
from contour.recipe.recipe import Recipe, dump_recipe, load_recipe
from contour.solid.shape import NamedShape, faces, read_shape
from contour.solid.topology.parts import read_topology
from tests.conftest import circle, prism, rectangle

WIDE = 60.0


def plate(width: float = WIDE, holes: int = 1) -> NamedShape:
    """The sluice-winch side plate, roughly."""
    drilled = [circle(12 + 16 * k, 12, 4, f"c{k + 1}") for k in range(holes)]
    return prism([*rectangle(width, 30), *drilled], 8)


@pytest.fixture
def store(tmp_path) -> Store:
    return Store(tmp_path / "store")


def kept(store: Store, tmp_path, *bodies: tuple[str, NamedShape, str | None], unit="mm") -> str:
    path = tmp_path / "plate.step"
    write_step(path, [(n, s.shape, c) for n, s, c in bodies], unit=unit)
    return store.put_blob(path.read_bytes())


def edited(recipe: Recipe, **edit) -> Recipe:
    made, _ = apply_edit(recipe, TypeAdapter(Edit).validate_python(edit))
    return load_recipe(dump_recipe(made))


def with_solid(store: Store, tmp_path, *bodies, on: Recipe | None = None, **more) -> Recipe:
    blob = kept(store, tmp_path, *bodies)
    solid = SolidEvidence(id="file", name="side_plate.step", blob=blob, format="step")
    return edited(on or Recipe(name="Winch"), op="add-solid", solid=solid.model_dump(), step="bring000", **more)


def built(recipe: Recipe, store: Store) -> BuildResult:
    result = build(recipe, store, with_fit=False)
    assert {s.status for s in result.steps} == {"ok"}, [s.problems for s in result.steps]
    return result


def test_a_job_rests_on_a_solid_alone(store, tmp_path):
    recipe = with_solid(store, tmp_path, ("Side plate", plate(), "#456789"))
    assert [s.name for s in recipe.steps] == ["side plate"]
    (body,) = built(recipe, store).bodies
    assert (body.id, body.name, body.colour, body.role, body.open) == (
        "bring000",
        "Side plate",
        "#456789",
        "material",
        0,
    )
    assert body.volume == pytest.approx((WIDE * 30 - np.pi * 16) * 8, rel=1e-6)
    assert [f["name"] for f in body.faces] == [f"bring000.imported[{k}]" for k in range(7)]


def test_several_bodies_are_bodies_of_their_own_and_can_be_worked_on(store, tmp_path):
    pin = prism([circle(100, 0, 5)], 20, prefix="pin")
    recipe = with_solid(store, tmp_path, ("Side plate", plate(), None), ("Pin", pin, None))
    first, second = built(recipe, store).bodies
    assert (first.id, second.id, second.name) == ("bring000", "bring000.1", "Pin")
    cut = {"body": {"id": "bring000.1"}, "face": None, "plane": {"id": "mid"}, "keep": "back"}
    longer = edited(
        recipe,
        op="add-step",
        id="mid",
        kind="plane",
        name="Mid",
        params={"by": "part axes", "offset": {"text": "5 mm"}},
    )
    longer = edited(longer, op="add-step", id="cut", kind="cut", name="Cut", params=cut)
    bodies = {b.id: b for b in built(longer, store).bodies}
    assert bodies["bring000"].volume == pytest.approx(first.volume)
    assert bodies["bring000.1"].volume < second.volume and bodies["bring000.1"].name == "Pin"
    assert [s.id for s in dependents(longer, "bring000")] == ["cut"]


def test_a_fillet_on_a_face_of_the_file_and_its_preview(store, tmp_path):
    recipe = with_solid(store, tmp_path, ("Side plate", plate(), None))
    (body,) = built(recipe, store).bodies
    rows = read_topology(store.folder(body.key))
    rim = next(e for e in rows["edges"] if e["kind"] == "circle" and e["centre"][2] == 8)
    params = {"edges": [{"body": "bring000", "edge": rim["name"]}], "radius": {"text": "1 mm"}}
    longer = edited(recipe, op="add-step", id="round", kind="fillet", name="Rim", params=params)
    after = built(longer, store)
    assert after.bodies[0].volume < body.volume
    assert next(s for s in after.steps if s.id == "round").handles[0].place == "radius"
    seen = preview(
        edited(longer, op="set-params", step="round", params={"radius": {"text": "2 mm"}}), store, fresh=["round"]
    )
    assert "round" in seen["ran"] and seen["bodies"][0]["view"]
    assert len(seen["bodies"][0]["fresh"]) == 1  # the round along the rim


def test_for_reference_it_is_shown_but_neither_delivered_nor_measured(store, tmp_path, block_stl):
    scan = ScanEvidence(
        id="scan", name="block.stl", blob=store.put_blob(block_stl.read_bytes()), format="stl", unit="mm"
    )
    recipe = with_solid(
        store, tmp_path, ("Mating part", plate(), None), on=Recipe(name="x", evidence=(scan,)), role="reference"
    )
    result = build(recipe, store)
    assert result.bodies[0].role == "reference" and result.fit is None
    assert deliverable(result.model_dump(mode="json")) == []
    material = edited(recipe, op="set-params", step="bring000", params={"role": "material"})
    result = build(material, store)
    assert result.fit is not None
    assert [b["name"] for b in deliverable(result.model_dump(mode="json"))] == ["Mating part"]


def test_an_open_body_is_told_and_not_delivered(store, tmp_path):
    from OCP.STEPControl import STEPControl_StepModelType, STEPControl_Writer

    writer = STEPControl_Writer()
    for face in faces(plate().shape)[:4]:
        writer.Transfer(face, STEPControl_StepModelType.STEPControl_AsIs)
    path = tmp_path / "open.step"
    writer.Write(str(path))
    solid = SolidEvidence(id="file", name="open.step", blob=store.put_blob(path.read_bytes()), format="step")
    recipe = edited(Recipe(name="x"), op="add-solid", solid=solid.model_dump(), step="bring000")
    result = built(recipe, store)
    assert all(b.open for b in result.bodies) and deliverable(result.model_dump(mode="json")) == []
    assert {p.code for p in result.steps[0].problems} == {"open-end"}


def test_a_newer_version_keeps_the_names_of_what_did_not_change(store, tmp_path):
    recipe = with_solid(store, tmp_path, ("Side plate", plate(), None))
    (body,) = built(recipe, store).bodies
    bore = next(f for f in faces_of(store, body.key) if f["kind"] == "cylinder")
    params = {"by": "round", "axis": {"body": "bring000", "name": bore["name"], "kind": "cylinder"}}
    recipe = edited(recipe, op="add-step", id="axis", kind="axis", name="Bore", params=params)
    newer = kept(store, tmp_path, ("Side plate", plate(holes=2), None))
    after = edited(recipe, op="set-solid", id="file", file={"blob": newer, "name": "side_plate_b.step"})
    assert after.solids[0].earlier == (recipe.solids[0].blob,) and after.solids[0].name == "side_plate_b.step"
    result = built(after, store)
    assert next(s for s in result.steps if s.id == "axis").facts.origin[:2] == pytest.approx((12, 12))
    names = [f["name"] for f in result.bodies[0].faces]
    assert len(names) == 8 and "bring000.imported[7]" in names


def test_a_unit_that_is_25_times_off_is_doubted_until_somebody_says(store, tmp_path, block_stl):
    scan = ScanEvidence(
        id="scan", name="block.stl", blob=store.put_blob(block_stl.read_bytes()), format="stl", unit="mm"
    )
    small = prism(rectangle(40 / 25.4, 30 / 25.4), 10 / 25.4)  # inches, written as if they were millimetres
    recipe = with_solid(store, tmp_path, ("Block", small, None), on=Recipe(name="x", evidence=(scan,)))
    doubt = next(p for p in build(recipe, store, with_fit=False).problems if p.code == "unit-unknown")
    assert "looks like inch" in doubt.message and doubt.where.file == "side_plate.step"
    said = edited(recipe, op="set-solid", id="file", unit="inch")
    result = build(said, store, with_fit=False)
    assert not result.problems and result.bodies[0].volume == pytest.approx(12000, rel=1e-6)
    right = edited(recipe, op="set-solid", id="file", unit="mm")
    assert not build(right, store, with_fit=False).problems
    assert edited(said, op="set-solid", id="file", said=True).solids[0].unit is None


def test_a_file_in_use_stays_and_one_that_is_damaged_is_told_by_name(store, tmp_path):
    recipe = with_solid(store, tmp_path, ("Side plate", plate(), None))
    with pytest.raises(ContourError, match="used by steps"):
        edited(recipe, op="drop-solid", id="file")
    gone = edited(edited(recipe, op="delete-step", step="bring000"), op="drop-solid", id="file")
    assert not gone.evidence
    bad = SolidEvidence(id="bad", name="torn.step", blob=store.put_blob(b"ISO-10303-21;\nHEADER;\n"), format="step")
    torn = edited(recipe, op="add-solid", solid=bad.model_dump(), step="torn0000")
    result = build(torn, store, with_fit=False)
    assert result.problems[0].where.file == "torn.step"
    assert {s.id: s.status for s in result.steps} == {"bring000": "ok", "torn0000": "blocked"}


def test_bodies_can_be_chosen_and_a_wrong_number_is_refused(store, tmp_path):
    pin = prism([circle(100, 0, 5)], 20, prefix="pin")
    recipe = with_solid(store, tmp_path, ("Side plate", plate(), None), ("Pin", pin, None))
    only = built(edited(recipe, op="set-params", step="bring000", params={"bodies": [1]}), store)
    assert [(b.id, b.name) for b in only.bodies] == [("bring000", "Pin")]
    wrong = build(edited(recipe, op="set-params", step="bring000", params={"bodies": [5]}), store, with_fit=False)
    assert wrong.steps[0].problems[0].where.param == "bodies"


def test_what_an_upload_holds_is_told_before_it_is_taken(tmp_path):
    write_step(tmp_path / "x.step", [("Plate", plate().shape, None)], unit="inch")
    said = TASKS["inspect"]({"path": str(tmp_path / "x.step"), "name": "x.step", "unit": "mm"}, lambda _: None)
    assert said["format"] == "step" and said["facts"]["unit_mm"] == 25.4 and said["facts"]["faces"] == 7
    assert said["facts"]["size"] == pytest.approx((60, 30, 8), abs=1e-3)


def test_the_body_is_a_solid_like_any_other(store, tmp_path):
    from contour.products import load_product

    recipe = with_solid(store, tmp_path, ("Side plate", plate(), None))
    product: BodyProduct = load_product(store.folder(built(recipe, store).bodies[0].key))
    assert len(faces(read_shape(product.brep))) == len(product.names) == 7
