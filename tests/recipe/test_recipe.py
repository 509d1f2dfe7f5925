import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from pydantic import ValidationError

from contour.products import PRODUCTS
from contour.recipe.evidence.picture import Picture, PictureMark
from contour.recipe.evidence.reading import Feature, Instrument, Pin, Reading, Session, Take
from contour.recipe.evidence.scan import LeftAlone, ScanEvidence
from contour.recipe.params import refs_in
from contour.recipe.problem import ContourError
from contour.recipe.recipe import (
    BodyLook,
    NamedSet,
    NamedValue,
    Probe,
    Recipe,
    SetFacets,
    SetPart,
    SetThing,
    Step,
    dump_recipe,
    load_recipe,
)
from contour.recipe.reference import Ref
from contour.recipe.values import FacetSet, Value
from contour.steps import KINDS

GOLDEN_1, GOLDEN_2, GOLDEN_3, GOLDEN_4, GOLDEN_5, GOLDEN_6, GOLDEN_7, GOLDEN_8, GOLDEN = (
    Path(__file__).parent / "golden" / f"recipe-v{n}.json" for n in (1, 2, 3, 4, 5, 6, 7, 8, 9)
)


def plain_sample() -> Recipe:
    evidence = ScanEvidence(id="scan-1", name="scan.stl", blob="a" * 64, format="stl", unit="inch")
    step = Step(id="step-1", kind="region", name="Top", params={"scan": {"id": "scan-1"}, "seeds": [7]})
    return Recipe(name="Rope-guide bracket", unit="inch", acceptance_mm=0.05, evidence=(evidence,), steps=(step,))


def sample_2() -> Recipe:
    """What version 2 could say."""
    plain = plain_sample()
    takes = (Take(value=12.02), Take(value=12.04), Take(value=0.474, unit="inch"))
    reading = Reading(id="reading-1", name="eye_d", takes=takes, note="large jaws")
    value = NamedValue(
        id="value-1", name="clearance", value=Value(text="eye_d / 100", mark="intent"), note="running fit"
    )
    step = plain.steps[0].model_copy(update={"note": "the machined face", "group": "Faces"})
    return plain.model_copy(
        update={
            "evidence": (*plain.evidence, reading),
            "values": (value,),
            "steps": (step,),
            "bodies": (BodyLook(id="step-1", name="Bracket", colour="#7a3b69"),),
            "probes": (Probe(id="probe-1", name="Rim", scan="scan-1", facet=4, point=(1.0, 2.5, -3.0)),),
        }
    )


def sample_3() -> Recipe:
    """What version 3 could say."""
    older = sample_2()
    scan = older.scans[0].model_copy(
        update={
            "role": "reference",
            "zone": FacetSet(blob="b" * 64, count=120),
            "leave": (LeftAlone(kind="hole", point=(1.0, 2.0, -3.5)),),
        }
    )
    return older.model_copy(update={"evidence": (scan, *older.evidence[1:])})


def sample_4() -> Recipe:
    """What version 4 could say."""
    older = sample_3()
    struck = Take(value=12.4, method="depth rod", note="burr", struck="caught on a burr", session="monday")
    reading = older.readings[0].model_copy(
        update={
            "takes": (*older.readings[0].takes, struck),
            "measures": "span",
            "over": 7,
            "tolerance_mm": 0.1,
            "pin": Pin(on="scan-1", at=(1, 2, 3)),
            "feature": Feature(regions=("step-1",)),
        }
    )
    return older.model_copy(
        update={
            "evidence": (older.scans[0], reading),
            "instruments": (Instrument(id="tool", name="caliper 150", resolution_mm=0.01, limit_mm=0.02),),
            "sessions": (Session(id="monday", name="monday", instrument="tool", zero_mm=0.03),),
        }
    )


def sample_5() -> Recipe:
    """What version 5 could say."""
    older = sample_4()
    drawn = Reading(id="reading-2", name="eye_drawn", takes=(Take(value=12),), source="drawing", same_as="reading-1")
    mark = PictureMark(id="mark-1", kind="trace", points=((1, 2), (3, 3), (5, 2)), bends=(1,))
    picture = Picture(
        id="picture-1", name="eye.png", blob="c" * 64, format="png", role="drawing", width=90, height=60, marks=(mark,)
    )
    return older.model_copy(update={"evidence": (*older.evidence, drawn, picture)})


def sample_6() -> Recipe:
    """Version 6: profiles have names. Its outline is a sketch since version 9."""
    older = sample_5()
    loops = [{"name": "p3", "closed": True, "pieces": [piece("e3", taken=False), piece("e7")]}]
    drawn = {"p8": {"kind": "point", "at": [0, 0]}, "p9": {"kind": "point", "at": [1, 0]}}
    params = {
        "scan": {"id": "scan-1"},
        "pose": np.eye(4).tolist(),
        "entities": {**drawn, "e7": {"kind": "line", "from": "p8", "to": "p9"}},
        "taken": loops,
        "made": 9,
        "named": [{"name": "p3", "of": ["e7"]}],
    }
    outline = Step(id="step-2", kind="sketch", name="Rim", params=params)
    face = {"body": "step-3", "name": "step-3.end[p3]", "kind": "plane"}
    cut = Step(id="step-4", kind="cut", name="Cut", params={"body": {"id": "step-3"}, "face": face})
    return older.model_copy(update={"steps": (*older.steps, outline, cut)})


def sample_7() -> Recipe:
    """Version 7: chosen parts have names."""
    rim = NamedSet(id="set-1", name="Rim", parts=(SetPart(part="edge", body="step-3", name="step-3.end[p3]|e7"),))
    return sample_6().model_copy(update={"sets": (rim,)})


def sample_8() -> Recipe:
    """Version 8: sets hold facets, bodies and evidence too."""
    older = sample_7()
    worn = SetFacets(part="facets", scan="scan-1", picked=FacetSet(blob="d" * 64, count=12))
    parts = (SetThing(part="body", id="step-3"), SetThing(part="evidence", id="scan-1"), worn)
    return older.model_copy(update={"sets": (*older.sets, NamedSet(id="set-2", name="Winch", parts=parts))})


def sample() -> Recipe:
    """Version 9: what was taken of a scan is drawn."""
    return sample_8()


def piece(id: str, **more: Any) -> dict[str, Any]:
    return {"id": id, "kind": "line", "start": [0, 0], "end": [1, 0], **more}


def test_profiles_of_version_5_get_the_name_of_their_lowest_piece_for_good():
    old = json.loads(GOLDEN_5.read_text())
    loops = [
        {"closed": True, "pieces": [piece("e10"), piece("e9"), piece("e2", taken=False)]},
        {"closed": True, "pieces": [piece("e11", taken=False)]},
    ]
    old["steps"].append({"id": "o", "kind": "outline", "name": "O", "enabled": True, "params": {"loops": loops}})
    (*_, outline) = load_recipe(json.dumps(old)).steps
    assert [loop["name"] for loop in outline.params["taken"]] == ["p9", "p11"]
    assert outline.params["named"] == [{"name": "p9", "of": ["e10", "e9"]}]


def test_golden_file_still_reads_and_writes_the_same():
    assert load_recipe(GOLDEN.read_text()) == sample()
    assert dump_recipe(sample()) == GOLDEN.read_text()


def test_golden_files_of_earlier_versions_are_lifted():
    assert load_recipe(GOLDEN_1.read_text()) == plain_sample()
    assert load_recipe(GOLDEN_2.read_text()) == sample_2()
    assert load_recipe(GOLDEN_3.read_text()) == sample_3()
    assert load_recipe(GOLDEN_4.read_text()) == sample_4()
    assert load_recipe(GOLDEN_5.read_text()) == sample_5()
    assert load_recipe(GOLDEN_6.read_text()) == sample_6()
    assert load_recipe(GOLDEN_7.read_text()) == sample_7()
    assert load_recipe(GOLDEN_8.read_text()) == sample_8()


def test_version_1_named_one_body_and_now_lists_them():
    old = json.loads(GOLDEN_1.read_text())
    params = {"sketch": {"id": "s"}, "distance": {"text": "3 mm"}}
    old["steps"] = [
        {"id": "a", "kind": "extrude", "name": "A", "enabled": True, "params": dict(params)},
        {"id": "b", "kind": "extrude", "name": "B", "enabled": True, "params": {**params, "body": {"id": "a"}}},
    ]
    first, second = load_recipe(json.dumps(old)).steps
    assert first.params["bodies"] == []
    assert second.params["bodies"] == [{"id": "a"}]
    assert "body" not in second.params


@pytest.mark.parametrize("name", ["mm", "sqrt", "2nd", "bore d", "a.b", ""])
def test_names_that_formulas_could_not_hold_are_refused(name):
    with pytest.raises(ValidationError):
        Reading(id="r", name=name)


def test_a_reading_is_a_length_or_an_angle_and_names_are_taken_once():
    with pytest.raises(ValidationError, match="not both"):
        Reading(id="r", name="tilt", takes=(Take(value=1), Take(value=2, unit="deg")))
    value = NamedValue(id="v", name="eye_d", value=Value(text="1"))
    with pytest.raises(ValidationError, match="eye_d"):
        Recipe(name="x", evidence=(Reading(id="r", name="eye_d"),), values=(value,))


@pytest.mark.parametrize(
    ("change", "said"),
    [
        (lambda d: d.update(schema_version=99), "99"),
        (lambda d: d.update(extra=1), "extra"),
        (lambda d: d["evidence"][0].update(unit="ell"), "evidence.0.scan.unit"),
        (lambda d: d["steps"].append(d["steps"][0]), "share an id"),
        (lambda d: d.update(acceptance_mm=-1), "acceptance_mm"),
    ],
)
def test_a_broken_recipe_is_refused_with_its_place(change, said):
    document = json.loads(GOLDEN.read_text())
    change(document)
    with pytest.raises(ContourError) as caught:
        load_recipe(json.dumps(document), file="job.json")
    assert caught.value.problem.code == "bad-recipe"
    assert said in caught.value.problem.line()


def test_not_json_is_refused_with_its_file():
    with pytest.raises(ContourError, match=r"job\.json"):
        load_recipe("{", file="job.json")


@pytest.mark.parametrize("kind", KINDS.values(), ids=lambda k: k.id)
def test_every_kind_declares_what_the_interface_needs(kind):
    schema = kind.params.model_json_schema()["properties"]
    assert kind.key_value in schema or kind.key_value == ""
    assert kind.title
    assert kind.help
    assert kind.makes in PRODUCTS
    hints = json.dumps(schema)
    # Something it rests on: a declared reference, or a face, which a form of its own takes.
    assert '"ref"' in hints or "#/$defs/FaceRef" in hints


def test_references_are_found_in_parameters():
    params = KINDS["extrude"].params(sketch=Ref(id="a"), distance={"text": "3"}, operation="add", bodies=[Ref(id="b")])
    assert {name: ref.id for name, ref in refs_in(params).items()} == {"sketch": "a", "bodies[0]": "b"}
