"""The parameter tree on a model that nests values every way there is."""

from __future__ import annotations

import re
from typing import Literal

import pytest
from pydantic import BaseModel, Field

from contour.recipe.fields import fields_of
from contour.recipe.params import (
    blobs_in,
    declared_at,
    dimension_at,
    formula_name_of,
    get_at,
    mapped,
    may_hold,
    plain_leaves,
    put_at,
    reference_at,
    refs_in,
    values_in,
    walk,
)
from contour.recipe.problem import ContourError
from contour.recipe.reference import BodyRef, FaceRef, PlaneRef, RegionRef, ScanSpot
from contour.recipe.values import Angle, FacetSet, Length, Number, Value
from contour.steps import KINDS


class Pair(BaseModel):
    face: FaceRef
    region: RegionRef | None = None
    gap: Length | None = None


class Round(BaseModel):
    radius: Length


class Square(BaseModel):
    side: Length
    tilt: Angle = Value(text="0 deg")


class Params(BaseModel):
    body: BodyRef
    plane: PlaneRef | None = Field(default=None, title="Lies on", description="what it lies on")
    bodies: list[BodyRef] = []
    pairs: tuple[Pair, ...] = ()
    sizes: dict[str, Length] = {}
    shape: Round | Square | None = None
    count: Number | int = 1
    picked: FacetSet | None = None
    spot: ScanSpot | None = None
    mode: Literal["near", "far"] = "near"
    far: bool = Field(default=False, json_schema_extra={"when": {"mode": ["far"]}, "fold": "More"})
    seeds: list[int] = []
    figures: list[list[float]] = []
    length: Length = Value(text="5 mm")


HASH = "a" * 64
FACE = {"body": "b", "name": "b.top"}
GIVEN = {
    "body": {"id": "b"},
    "plane": FACE,
    "bodies": [{"id": "c"}, {"id": "d"}],
    "pairs": [{"face": FACE}, {"face": FACE, "region": {"id": "r"}, "gap": {"text": "1 mm"}}],
    "sizes": {"width": {"text": "bore / 2"}, "length": {"text": "3 mm"}},
    "shape": {"side": {"text": "2 mm"}},
    "count": {"text": "3"},
    "picked": {"blob": HASH, "count": 4},
    "spot": {"facet": 3},
    "seeds": [1, 2],
    "figures": [[0.0, 1.0]],
}


@pytest.fixture
def params() -> Params:
    return Params.model_validate(GIVEN)


def test_every_leaf_has_its_place_and_its_declaration(params):
    found = {leaf.place: leaf.declared for leaf in walk(params)}
    assert list(found) == [
        *(
            "body",
            "plane",
            "bodies[0]",
            "bodies[1]",
            "pairs[0].face",
            "pairs[1].face",
            "pairs[1].region",
            "pairs[1].gap",
        ),
        *("sizes[width]", "sizes[length]", "shape.side", "shape.tilt", "count", "picked.blob", "spot", "length"),
    ]
    assert {p: d.dimension for p, d in found.items() if d.dimension} == {
        **dict.fromkeys(("pairs[1].gap", "sizes[width]", "sizes[length]", "shape.side", "length"), "length"),
        "shape.tilt": "angle",
        "count": "number",
    }
    assert {p: d.reference.id for p, d in found.items() if d.reference} == {
        **dict.fromkeys(("body", "bodies[0]", "bodies[1]"), "body"),
        "plane": "plane",
        "pairs[1].region": "region",
    }


def test_references_values_and_files_are_found_apart(params):
    assert set(refs_in(params)) == {
        *("body", "plane", "bodies[0]", "bodies[1]", "pairs[0].face", "pairs[1].face", "pairs[1].region")
    }
    assert values_in(params)["sizes[width]"].text == "bore / 2" and len(values_in(params)) == 7
    assert list(blobs_in({"any": [params, params]})) == [HASH, HASH]


def test_a_place_is_declared_though_nothing_stands_there():
    assert dimension_at(Params, "pairs[7].gap") == "length" and dimension_at(Params, "sizes[height]") == "length"
    assert dimension_at(Params, "shape.radius") == "length" and dimension_at(Params, "shape.tilt") == "angle"
    assert reference_at(Params, "pairs[0].region").id == "region"
    assert declared_at(Params, "mode").options == ("near", "far")


@pytest.mark.parametrize("place", ["nothing", "pairs[0].nothing", "", "body.id.x"])
def test_what_no_field_declares_is_said_with_what_there_is(place):
    with pytest.raises(ContourError, match="no such parameter") as caught:
        declared_at(Params, place)
    assert "pairs" in (caught.value.problem.need or "")


@pytest.mark.parametrize(("at", "place"), [(dimension_at, "body"), (reference_at, "length")])
def test_the_other_kind_of_leaf_is_not_taken_for_it(at, place):
    with pytest.raises(ContourError, match="at this place"):
        at(Params, place)


def test_plain_parameters_are_read_and_set_by_place(params):
    plain = params.model_dump(mode="json")
    for leaf in walk(params):
        stands = get_at(plain, leaf.place)
        assert stands == (leaf.value.model_dump(mode="json") if isinstance(leaf.value, BaseModel) else leaf.value)
        put_at(plain, leaf.place, None)
        assert get_at(plain, leaf.place) is None
    with pytest.raises(IndexError):
        put_at(plain, "pairs[9].gap", None)


def test_parameters_of_a_kind_nobody_knows_are_walked_by_their_shape(params):
    plain = params.model_dump(mode="json")
    found = {leaf.place: leaf.what for leaf in plain_leaves(plain)}
    what = {"Value": "value", "FaceRef": "part", "Ref": "ref"}
    assert found == {
        re.sub(r"\[([a-z]+)\]", r".\1", leaf.place): what[type(leaf.value).__name__]
        for leaf in walk(params)
        if type(leaf.value).__name__ in what
    }


def test_every_formula_can_be_changed_and_nothing_else_is(params):
    plain = params.model_dump(mode="json")
    louder = mapped(plain, str.upper)
    assert get_at(louder, "sizes[width]")["text"] == "BORE / 2" and get_at(louder, "shape.side")["text"] == "2 MM"
    assert get_at(louder, "pairs[0].face") == get_at(plain, "pairs[0].face")
    assert mapped(louder, str.lower) == mapped(plain, str.lower)


def test_nested_values_have_names_for_formulas():
    fields = Params.model_fields
    names = {
        p: formula_name_of(p, fields) for p in ("length", "sizes[width]", "sizes[length]", "pairs[1].gap", "shape.side")
    }
    assert names == {
        "length": "length",
        "sizes[width]": "width",
        "sizes[length]": "sizes_length",  # the step's own length has that name
        "pairs[1].gap": "pairs_1_gap",
        "shape.side": "shape_side",
    }


def test_the_fields_of_a_form_are_finished():
    fields = {f.name: f for f in fields_of(Params, "length")}
    assert {n: f.type for n, f in fields.items()} == {
        "body": "ref",
        "plane": "ref",
        "bodies": "refs",
        "pairs": "rows",
        "sizes": "rows",
        "shape": "group",
        "count": "value",
        "picked": "facets",
        "spot": "spot",
        "mode": "choice",
        "far": "switch",
        "seeds": "other",
        "figures": "other",
        "length": "value",
    }
    assert fields["plane"].label == "Lies on" and fields["plane"].parts == ("face",) and fields["plane"].optional
    assert (
        fields["body"].needed
        and fields["body"].ids
        and not fields["body"].parts
        and fields["bodies"].reference == "body"
    )
    assert [f.name for f in fields["pairs"].fields] == ["face", "region", "gap"]
    assert fields["far"].when == {"mode": ["far"]} and fields["far"].fold == "More"
    assert (
        fields["length"].main
        and fields["length"].fallback["text"] == "5 mm"
        and fields["mode"].options == ("near", "far")
    )


class Place(BaseModel):
    at: tuple[float, float] = (0.0, 0.0)


class Chain(BaseModel):
    """Nests itself: it ends, and it is walked as far as it goes."""

    size: Length | None = None
    places: list[Place] = []
    inner: Chain | None = None


class Looked(Place):
    """Counts how often its places are read."""

    def __getattribute__(self, name: str) -> object:
        assert name != "at", "figures were walked"
        return super().__getattribute__(name)


def test_what_can_hold_no_leaf_is_not_walked():
    chain = Chain.model_construct(
        size=Value(text="1 mm"),
        places=[Looked.model_construct() for _ in range(3)],
        inner=Chain(inner=Chain(size=Value(text="2 mm"))),
    )
    assert {leaf.place: leaf.value.text for leaf in walk(chain) if isinstance(leaf.value, Value)} == {
        "size": "1 mm",
        "inner.inner.size": "2 mm",
    }


@pytest.mark.parametrize("kind", sorted(KINDS))
def test_every_field_that_refers_or_measures_is_walked(kind):
    """What a form shows as a reference, a value, a part or a file is found in the parameters as well."""
    told = {f.name for f in fields_of(KINDS[kind].params) if f.type in ("ref", "refs", "value", "face", "spot", "file")}
    model = KINDS[kind].params
    assert told <= set(may_hold(model)) <= set(model.model_fields)
