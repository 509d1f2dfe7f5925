"""What the core declares reaches the page whole: nothing has to be repeated there."""

from __future__ import annotations

from typing import get_args

import pytest

from contour.recipe.problem import Code
from contour.recipe.reference import REFERENCES
from contour.steps import KINDS
from tests.bench.asking import get

pytestmark = pytest.mark.django_db


def test_kinds_references_units_marks_and_problems_are_published(maker):
    said = get(maker, "/declarations")
    assert set(said["kinds"]) == set(KINDS) and set(said["references"]) == set(REFERENCES)
    assert said["units"]["inch"] == 25.4 and "scan" in said["marks"] and "length" in said["dimensions"]
    assert set(said["problems"]) == set(get_args(Code)) and said["problems"]["stale-revision"] == 409


@pytest.mark.parametrize("kind", sorted(KINDS))
def test_every_parameter_of_every_kind_is_a_field_with_what_a_form_needs(maker, kind):
    fields = get(maker, "/declarations")["kinds"][kind]["fields"]
    assert [f["name"] for f in fields] == list(KINDS[kind].params.model_fields)
    for f in fields:
        assert f["label"] and (f["type"] != "value" or f["dimension"]) and (f["type"] != "choice" or f["options"]), f
        assert f["type"] not in ("ref", "refs") or f["reference"] in REFERENCES, f
        assert set(f["when"]) <= {g["name"] for g in fields}, f
    assert sum(f["main"] for f in fields) <= 1
