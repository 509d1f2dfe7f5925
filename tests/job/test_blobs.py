"""Which files a recipe names is told by the declared types of its fields."""

import pytest
from pydantic import BaseModel, ValidationError

from contour.job.build.blobs import blobs_of
from contour.recipe.evidence.picture import Picture
from contour.recipe.evidence.scan import ScanEvidence
from contour.recipe.params import blobs_in
from contour.recipe.recipe import Recipe, Step
from contour.recipe.values import Blob, FacetSet, FileBlob

SCAN = ScanEvidence(id="scan", name="s.stl", blob="a" * 64, format="stl", unit="mm")


def region(**params: object) -> Step:
    return Step(id="r", kind="region", name="R", params={"scan": {"id": "scan"}, **params})


def test_scans_zones_pictures_and_files_of_steps_are_named_once():
    zone = SCAN.model_copy(update={"zone": FacetSet(blob="b" * 64, count=3)})
    photo = Picture(id="p", name="p.png", blob="c" * 64, format="png", width=9, height=9)
    picked = {"blob": "d" * 64, "count": 9}
    align = Step(
        id="l", kind="align", name="L", params={"scan": {"id": "scan"}, "solid": {"blob": "e" * 64, "name": "x.step"}}
    )
    recipe = Recipe(name="x", evidence=(zone, photo), steps=(region(picked=picked, worn=picked), align))
    assert blobs_of(recipe) == tuple(letter * 64 for letter in "abcde")


def test_what_was_copied_without_validation_is_found_too():
    moved = SCAN.model_copy(update={"blob": "f" * 64})  # a plain text, no Blob
    assert blobs_of(Recipe(name="x").model_copy(update={"evidence": (moved,)})) == ("f" * 64,)


def test_a_step_that_cannot_run_names_nothing():
    assert blobs_of(Recipe(name="x", steps=(region(picked={"blob": "../../secret", "count": 1}),))) == ()


def test_a_field_of_any_name_is_found_by_its_type():
    class Inner(BaseModel):
        whatever: Blob | None = None
        figures: list[float] = []

    class Outer(BaseModel):
        rows: list[Inner]
        by_name: dict[str, FileBlob]

    outer = Outer.model_validate(
        {"rows": [{"whatever": "1" * 64, "figures": [1, 2]}, {}], "by_name": {"a": {"blob": "2" * 64, "name": "n"}}}
    )
    assert list(blobs_in([outer, 3, "text"])) == ["1" * 64, "2" * 64]


@pytest.mark.parametrize("text", ["../../deliveries/x.step", "/etc/hostname", "A" * 64, "a" * 63, "a" * 64 + "\n", ""])
def test_only_a_hash_is_a_blob(text):
    with pytest.raises(ValidationError):
        FileBlob(blob=text, name="x")
