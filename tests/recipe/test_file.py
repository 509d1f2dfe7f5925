import json
from pathlib import Path

import pytest

from contour.recipe.file import Recipe, ScanEvidence, Step, dump_recipe, load_recipe
from contour.recipe.problem import ContourError
from contour.recipe.values import Ref, refs_in
from contour.steps import KINDS

GOLDEN = Path(__file__).parent / "golden" / "recipe-v1.json"


def sample() -> Recipe:
    evidence = ScanEvidence(id="scan-1", name="scan.stl", blob="a" * 64, format="stl", unit="inch")
    step = Step(id="step-1", kind="region", name="Top", params={"scan": {"id": "scan-1"}, "seeds": [7]})
    return Recipe(name="Rope-guide bracket", unit="inch", acceptance_mm=0.05, evidence=(evidence,), steps=(step,))


def test_golden_file_of_version_1_still_reads_and_writes_the_same():
    assert load_recipe(GOLDEN.read_text()) == sample()
    assert dump_recipe(sample()) == GOLDEN.read_text()


@pytest.mark.parametrize(
    ("change", "said"),
    [
        (lambda d: d.update(schema_version=99), "99"),
        (lambda d: d.update(extra=1), "extra"),
        (lambda d: d["evidence"][0].update(unit="ell"), "evidence.0.unit"),
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
    assert kind.key_value in schema
    assert kind.title
    assert kind.help
    assert kind.makes in ("region", "sketch", "body")
    hints = json.dumps(schema)
    assert '"ref"' in hints
    assert '"dimension": "length"' in hints


def test_references_are_found_in_parameters():
    params = KINDS["extrude"].params(sketch=Ref(id="a"), distance={"text": "3"}, operation="add", body=Ref(id="b"))
    assert {name: ref.id for name, ref in refs_in(params).items()} == {"sketch": "a", "body": "b"}
