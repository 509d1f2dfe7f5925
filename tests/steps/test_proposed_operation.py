"""What the way something goes proposes: into a body's material it subtracts, out of it it adds. By places of known bodies."""

from __future__ import annotations

import pytest

from contour.construct.place import Place
from contour.recipe.problem import ContourError
from contour.sketch.entities import Entity
from tests.conftest import circle, prism, rectangle
from tests.steps.helpers import body, run, sketch

BLOCK = prism(rectangle(40, 40, at=(-20, -20)), 20, z=-20, prefix="old")  # its upper face is z = 0
Y = Place("axis", (0.0, 0.0, 0.0), (0.0, 1.0, 0.0))


def proposed(kind, params, products, says):
    """The operation asked for is the one that works, so that the step comes out."""
    of = {"operation": says, "bodies": [{"id": "b"}]}
    return run(kind, {**params, **of}, {"bodies[0]": body(BLOCK), **products}).facts.proposes


@pytest.mark.parametrize(("angle", "says"), [("-90 deg", "add"), ("90 deg", "subtract")])
def test_a_turn_begins_out_of_the_block_or_into_it(angle, says):
    """By the right hand about y what stands at x goes down, into the block."""
    params = {"sketch": {"id": "s"}, "axis": {"id": "a"}, "angle": {"text": angle}}
    given = {"sketch": sketch(rectangle(3, 4, at=(5, -2))), "axis": Y}
    assert proposed("revolve", params, given, says) == says


@pytest.mark.parametrize(("way", "says"), [(1.0, "add"), (-1.0, "subtract")])
def test_a_path_leads_out_of_the_block_or_into_it(way, says):
    path = sketch([Entity("l1", "line", (0.0, 0.0), (0.0, 8.0 * way))], normal=(0.0, -1.0, 0.0))  # its v is z
    params = {"sketch": {"id": "s"}, "path": {"id": "p"}}
    assert proposed("sweep", params, {"sketch": sketch([circle(0, 0, 3)]), "path": path}, says) == says


@pytest.mark.parametrize(("height", "says"), [(6.0, "add"), (-6.0, "subtract")])
def test_sections_lead_out_of_the_block_or_into_it(height, says):
    given = {"sections[0]": sketch([circle(0, 0, 5)]), "sections[1]": sketch([circle(0, 0, 3)], height)}
    assert proposed("loft", {"sections": [{"id": "s"}, {"id": "t"}]}, given, says) == says


@pytest.mark.parametrize(("hand", "says"), [("left", "add"), ("right", "subtract")])
def test_a_helix_begins_out_of_the_block_or_into_it(hand, says):
    params = {
        "sketch": {"id": "s"},
        "axis": {"id": "a"},
        "pitch": {"text": "2 mm"},
        "turns": {"text": "0.25"},
        "hand": hand,
    }
    given = {"sketch": sketch(rectangle(2, 2, at=(6, -1))), "axis": Y}
    assert proposed("coil", params, given, says) == says


@pytest.mark.parametrize(("height", "says"), [("6 mm", "add"), ("-6 mm", "subtract")])
def test_a_cylinder_stands_on_the_block_or_in_it(height, says):
    params = {"form": "cylinder", "diameter": {"text": "8 mm"}, "height": {"text": height}}
    assert proposed("primitive", params, {}, says) == says


@pytest.mark.parametrize("form", ["sphere", "torus", "block"])
def test_what_lies_half_in_the_block_by_its_middle(form):
    """A ball about a place under the face is taken away, one about a place over it is added."""
    for z, says in ((-1.0, "subtract"), (1.0, "add")):
        params = {"form": form, "at": {"id": "p"}, "diameter": {"text": "12 mm"}, "centred": True}
        point = Place("point", (0.0, 0.0, z))
        assert proposed("primitive", params, {"at": point}, says) == says


def test_what_changes_nothing_offers_the_other_operation():
    """A pin all within the block cannot be added to it, one all outside cannot be taken from it."""
    for height, asked, offers in (("-6 mm", "add", "subtract"), ("6 mm", "subtract", "add")):
        params = {"form": "cylinder", "diameter": {"text": "8 mm"}, "height": {"text": height}}
        with pytest.raises(ContourError) as refused:
            proposed("primitive", params, {}, asked)
        offer = refused.value.problem.offer
        assert refused.value.problem.code == "unchanged" and offer is not None
        assert offer.choices == {"operation": offers} and offer.text.startswith(offers.capitalize())


def test_a_body_of_its_own_proposes_nothing():
    params = {"form": "cylinder", "diameter": {"text": "8 mm"}, "height": {"text": "5 mm"}}
    assert run("primitive", params, {}).facts.proposes is None
