"""Names in formulas, and edits of a recipe: everything that needs no kernel."""

import pytest
from pydantic import TypeAdapter

from contour.job.build.result import ValueState
from contour.job.build.scope import Scope, used_names
from contour.job.edits.apply import Edit, apply_edit
from contour.job.edits.relations import dependents, needs, order_problem
from contour.job.questions.compare import recipe_changes
from contour.recipe.evidence.reading import Reading, Take
from contour.recipe.evidence.scan import ScanEvidence
from contour.recipe.formula import Quantity
from contour.recipe.problem import ContourError
from contour.recipe.recipe import NamedValue, Recipe, Setting, Step, Variant, dump_recipe, load_recipe
from contour.recipe.values import Value

EDIT = TypeAdapter(Edit)
FACE = {"body": "plate-00", "name": "boss-000.end[p1]", "kind": "plane"}


def named(name: str, text: str, dimension: str = "length") -> NamedValue:
    return NamedValue(id=f"v-{name}", name=name, dimension=dimension, value=Value(text=text))  # type: ignore[arg-type]


def step(id: str, kind: str, name: str, **params) -> Step:
    return Step(id=id, kind=kind, name=name, params=params)


@pytest.fixture
def recipe() -> Recipe:
    loops = [{"closed": True, "pieces": [{"id": "e1", "kind": "line", "start": [0, 0], "end": [1, 0]}]}]
    drawn = {"p2": {"kind": "point", "at": [0, 0]}, "p3": {"kind": "point", "at": [1, 0]}}
    outline = {
        "scan": {"id": "scan"},
        "plane": {"id": "top-0000"},
        "offset": {"text": "-6 mm"},
        "origin": [0, 0, 0],
        "u_axis": [1, 0, 0],
        "entities": {**drawn, "e1": {"kind": "line", "from": "p2", "to": "p3"}},
        "taken": loops,
    }
    return Recipe(
        name="Bracket",
        evidence=(
            ScanEvidence(id="scan", name="a.stl", blob="a" * 64, format="stl", unit="mm"),
            Reading(id="q", name="plate_t", takes=(Take(value=12.0), Take(value=12.1))),
        ),
        values=(named("skin", "plate_t / 6"), named("gap", "base_plate.distance - skin")),
        steps=(
            step("top-0000", "region", "Top", scan={"id": "scan"}, seeds=[1]),
            step("outl-000", "sketch", "Outline", **outline),
            step("plate-00", "extrude", "Base plate", sketch={"id": "outl-000"}, distance={"text": "plate_t"}),
            step(
                "boss-000",
                "extrude",
                "Boss",
                sketch={"id": "outl-000"},
                distance={"text": "gap + 1 mm"},
                operation="add",
                bodies=[{"id": "plate-00"}],
            ),
            step(
                "seat-000",
                "seat",
                "Seat",
                scan={"id": "scan"},
                body={"id": "plate-00"},
                pairs=[{"face": FACE, "seeds": [3]}],
            ),
        ),
    )


KNOWN = {"plate-00": {"distance": ValueState(value=12.05, length=1, angle=0, mark="caliper")}}


def edited(recipe: Recipe, **edit) -> Recipe:
    return apply_edit(recipe, EDIT.validate_python(edit), KNOWN)[0]


def refused(recipe: Recipe, **edit) -> str:
    with pytest.raises(ContourError) as caught:
        edited(recipe, **edit)
    return caught.value.problem.code


class TestScope:
    def test_values_readings_and_steps(self, recipe):
        scope = Scope(recipe)
        assert scope.lookup("plate_t") == Quantity(12.05, 1, mark="caliper")
        assert scope.lookup("skin").value == pytest.approx(12.05 / 6)
        with pytest.raises(ContourError, match="does not stand above"):
            scope.lookup("gap")
        scope.learn(recipe.steps[2], {"distance": Quantity(12.05, 1, mark="caliper")})
        assert scope.lookup("gap").value == pytest.approx(12.05 * 5 / 6)
        assert scope.lookup("gap").mark == "caliper"

    @pytest.mark.parametrize(
        ("name", "code"),
        [("base_plate.nothing", "unknown-name"), ("boss.distance", "not-above"), ("top.area", "step-blocked")],
    )
    def test_what_a_step_does_not_give(self, recipe, name, code):
        scope = Scope(recipe)
        scope.learn(recipe.steps[2], {"distance": Quantity(12.05, 1)})
        scope.passed(recipe.steps[0], "'Top' failed")
        with pytest.raises(ContourError) as caught:
            scope.lookup(name)
        assert caught.value.problem.code == code

    def test_nobody_knows(self, recipe):
        for name in ("rim", "rim.distance", "base_plate"):
            with pytest.raises(KeyError):
                Scope(recipe).lookup(name)

    def test_a_ring_is_named(self, recipe):
        ring = recipe.model_copy(update={"values": (named("a", "b + 1"), named("b", "c"), named("c", "a / 2"))})
        with pytest.raises(ContourError) as caught:
            Scope(ring).lookup("b")
        assert caught.value.problem.code == "value-cycle"
        assert caught.value.problem.got == "b → c → a → b"
        assert caught.value.problem.where.value == "b"

    def test_two_steps_of_one_name_are_told(self, recipe):
        twin = recipe.model_copy(
            update={"steps": (*recipe.steps, recipe.steps[2].model_copy(update={"id": "twin", "name": "base-plate"}))}
        )
        with pytest.raises(ContourError, match="could be any of 2"):
            Scope(twin).lookup("base_plate.distance")

    def test_uses_are_found(self, recipe):
        found = {(u.name, u.step, u.place) for u in used_names(recipe)}
        assert found == {
            ("plate_t", None, "skin"),
            ("base_plate.distance", None, "gap"),
            ("skin", None, "gap"),
            ("plate_t", "plate-00", "distance"),
            ("gap", "boss-000", "distance"),
        }


class TestRelations:
    def test_needs_go_through_references_faces_and_formulas(self, recipe):
        found = needs(recipe)
        assert found["outl-000"] == {"top-0000"}
        assert found["boss-000"] == {"outl-000", "plate-00"}
        assert found["seat-000"] == {"plate-00", "boss-000"}  # the face it seats is the boss's

    def test_dependents_in_order(self, recipe):
        assert [s.name for s in dependents(recipe, "top-0000")] == ["Outline", "Base plate", "Boss", "Seat"]
        assert dependents(recipe, "seat-000") == []

    def test_the_order_is_right_until_it_is_not(self, recipe):
        assert order_problem(recipe) is None
        late = order_problem(recipe.model_copy(update={"steps": recipe.steps[::-1]}))
        assert late is not None


class TestEdits:
    def test_bare_numbers_are_committed_in_the_display_unit(self, recipe):
        inches = edited(recipe, op="set-job", unit="inch")
        changed = edited(inches, op="set-params", step="plate-00", params={"distance": {"text": "0.5"}})
        assert changed.step("plate-00").params["distance"]["text"] == "0.5 inch"
        assert (
            edited(recipe, op="set-params", step="seat-000", params={"tilt": {"text": "2"}})
            .step("seat-000")
            .params["tilt"]["text"]
            == "2 deg"
        )

    @pytest.mark.parametrize(
        ("text", "code"),
        [
            ("rim", "unknown-name"),
            ("3 deg", "mixed-dimensions"),
            ("plate_t * 2 mm", "mixed-dimensions"),
            ("boss.distance", "not-above"),
            ("base_plate.distance", "not-above"),
            ("1 +", "bad-formula"),
        ],
    )
    def test_a_wrong_formula_is_refused_with_its_place(self, recipe, text, code):
        with pytest.raises(ContourError) as caught:
            edited(recipe, op="set-params", step="plate-00", params={"distance": {"text": text}})
        assert caught.value.problem.code == code
        assert caught.value.problem.where.step == "plate-00"
        assert caught.value.problem.where.param == "distance"

    def test_a_step_may_use_values_of_steps_above_even_unbuilt_ones(self, recipe):
        changed = edited(
            recipe, op="set-params", step="boss-000", params={"distance": {"text": "outline.offset + 20 mm"}}
        )
        assert changed.step("boss-000").params["distance"]["text"] == "outline.offset + 20 mm"

    def test_renaming_follows_in_every_formula(self, recipe):
        renamed = edited(recipe, op="rename-step", step="plate-00", name="Sole plate")
        assert renamed.values[1].value.text == "sole_plate.distance - skin"
        again = edited(renamed, op="set-value", id="v-skin", name="shell")
        assert again.values[1].value.text == "sole_plate.distance - shell"
        third = edited(again, op="set-reading", id="q", name="sole_t")
        assert third.values[0].value.text == "sole_t / 6"
        assert third.step("plate-00").params["distance"]["text"] == "sole_t"

    def test_renaming_a_size_of_a_sketch_follows_in_steps_values_and_variants(self, recipe):
        size = {"kind": "length", "of": ["e1"], "name": "d1"}
        typed = {"text": "1 mm", "mark": "caliper"}
        sized = edited(recipe, op="set-params", step="outl-000", params={"sizes": [size], "lengths": {"d1": typed}})
        used = edited(sized, op="set-params", step="boss-000", params={"distance": {"text": "outline.d1 * 3"}})
        used = edited(used, op="set-value", id="v-skin", value={"text": "outline.d1 / 2 + plate_t"})
        setting = Setting(of="outl-000", place="lengths[d1]", value={"text": "2 mm"})
        used = used.model_copy(update={"variants": (Variant(id="worn", name="Worn", settings=(setting,)),)})
        named = {
            "sizes": [{**size, "name": "wide"}],
            "lengths": {"wide": used.step("outl-000").params["lengths"]["d1"]},
        }
        after = edited(used, op="set-params", step="outl-000", params=named)
        assert after.step("boss-000").params["distance"]["text"] == "outline.wide * 3"
        assert after.values[0].value.text == "outline.wide / 2 + plate_t"
        assert after.variants[0].settings[0].place == "lengths[wide]"

    def test_names_are_taken_once(self, recipe):
        assert refused(recipe, op="set-value", id="new", name="plate_t", value={"text": "3"}) == "name-taken"
        assert refused(recipe, op="set-value", id="new", name="base_plate", value={"text": "3"}) == "name-taken"
        assert refused(recipe, op="rename-step", step="top-0000", name="Skin") == "name-taken"
        assert refused(recipe, op="set-value", id="new", name="2nd", value={"text": "3"}) == "bad-params"
        assert refused(recipe, op="set-value", id="v-skin", value={"text": "gap"}) == "value-cycle"

    def test_named_values_come_change_and_go(self, recipe):
        longer = edited(recipe, op="set-value", id="n", name="turns", dimension="number", value={"text": "3"})
        assert longer.values[-1].value.text == "3"
        changed = edited(longer, op="set-value", id="n", value={"text": "4"}, note="counted")
        assert (changed.values[-1].value.text, changed.values[-1].note) == ("4", "counted")
        assert edited(changed, op="delete-value", id="n").values == recipe.values
        assert refused(recipe, op="delete-value", id="zz") == "not-found"

    def test_readings_come_change_and_go(self, recipe):
        longer = edited(recipe, op="set-reading", id="r2", name="rim_d", takes=[{"value": 1.0, "unit": "inch"}])
        assert longer.readings[-1].takes[0].unit == "inch"
        assert (
            refused(longer, op="set-reading", id="r2", takes=[{"value": 1, "unit": "deg"}, {"value": 1, "unit": "mm"}])
            == "bad-params"
        )
        assert edited(longer, op="delete-value", id="r2").evidence == recipe.evidence

    def test_steps_move_only_where_what_they_need_allows(self, recipe):
        free = edited(recipe, op="add-step", kind="region", name="Side", params={"scan": {"id": "scan"}, "seeds": [5]})
        moved = edited(free, op="move-step", step=free.steps[-1].id, before="top-0000")
        assert [s.name for s in moved.steps][:2] == ["Side", "Top"]
        assert refused(recipe, op="move-step", step="boss-000", before="plate-00") == "bad-order"
        assert refused(recipe, op="move-step", step="top-0000", before=None) == "bad-order"
        assert refused(recipe, op="move-step", step="top-0000", before="nowhere") == "not-found"

    def test_insert_after(self, recipe):
        params = {"scan": {"id": "scan"}, "seeds": [5]}
        longer = edited(recipe, op="add-step", kind="region", params=params, after="outl-000")
        assert [s.name for s in longer.steps] == ["Top", "Outline", "Region 1", "Base plate", "Boss", "Seat"]
        late = {"sketch": {"id": "outl-000"}, "distance": {"text": "3 mm"}}
        assert refused(recipe, op="add-step", kind="extrude", params=late, after="top-0000") == "bad-order"

    def test_delete_alone_or_with_what_hangs_on_it(self, recipe):
        alone = edited(recipe, op="delete-step", step="outl-000")
        assert [s.name for s in alone.steps] == ["Top", "Base plate", "Boss", "Seat"]
        both = edited(recipe, op="delete-step", step="outl-000", with_dependents=True)
        assert [s.name for s in both.steps] == ["Top"]

    def test_notes_groups_bodies_and_probes(self, recipe):
        changed = edited(recipe, op="note-step", step="boss-000", note=" worn side ")
        changed = edited(changed, op="group-steps", steps=["plate-00", "boss-000"], group="Plate")
        changed = edited(changed, op="set-body", id="plate-00", name="Bracket", colour="#aabbcc")
        changed = edited(changed, op="set-body", id="plate-00", colour="#112233")
        probe = {"id": "p", "name": "Rim", "scan": "scan", "facet": 3, "point": [1, 2, 3]}
        changed = edited(changed, op="pin-probe", probe=probe)
        assert changed.step("boss-000").note == "worn side"
        assert [s.group for s in changed.steps] == ["", "", "Plate", "Plate", ""]
        assert (changed.bodies[0].name, changed.bodies[0].colour) == ("Bracket", "#112233")
        assert load_recipe(dump_recipe(changed)) == changed
        assert edited(changed, op="drop-probe", id="p").probes == ()
        assert refused(recipe, op="set-body", id="plate-00", colour="red") == "bad-params"

    def test_three_hundred_edits_and_back(self, recipe):
        """What undo relies on: an edit gives a new recipe and leaves the old one as it was."""
        kept = [dump_recipe(recipe)]
        now = recipe
        for k in range(300):
            now = edited(now, op="set-params", step="plate-00", params={"distance": {"text": f"{10 + k / 7:.4f} mm"}})
            kept.append(dump_recipe(now))
        assert len(set(kept)) == 301
        assert kept[0] == dump_recipe(recipe)


def test_changes_between_two_states(recipe):
    later = edited(recipe, op="set-params", step="plate-00", params={"distance": {"text": "13 mm"}})
    later = edited(later, op="set-reading", id="q", takes=[{"value": 12.5}])
    later = edited(later, op="switch-step", step="seat-000", enabled=False)
    later = edited(later, op="delete-step", step="boss-000")
    later = edited(later, op="set-job", name="Bracket 2", acceptance={"text": "0.05"})
    found = {(c.what, c.field): (c.before, c.after) for c in recipe_changes(recipe, later)}
    assert found == {
        ("the job", "name"): ("Bracket", "Bracket 2"),
        ("the job", "acceptance"): ("0.1", "0.05"),
        ("plate_t", "reading"): ("12 mm, 12.1 mm", "12.5 mm"),
        ("Base plate", "distance"): ("plate_t", "13 mm"),
        ("Seat", "switched"): ("on", "off"),
        ("Boss", "step"): ("extrude", None),
    }
    assert recipe_changes(recipe, recipe) == []


def test_nested_values_are_reached_by_their_own_names():
    from pydantic import BaseModel

    from contour.job.build.scope import quantities
    from contour.recipe.facts import Facts
    from contour.recipe.formula import Quantity
    from contour.recipe.registry import Outcome, StepKind
    from contour.recipe.values import Length

    class Sizes(BaseModel):
        sizes: dict[str, Length] = {}
        rows: list[dict[str, Length]] = []

    kind = StepKind("drawn", "Drawn", "", 1, "sketch", Sizes, "", lambda *_: Outcome({}, Facts(of="sketch")), Facts)
    width, gap = Quantity(4.0, 1, 0, "caliper"), Quantity(1.0, 1, 0, "assumed")
    assert quantities(kind, Facts(of="sketch"), {"sizes[width]": width, "rows[2].gap": gap}) == {
        "width": width,
        "rows_2_gap": gap,
    }


def test_a_figure_that_came_out_as_typed_rests_on_what_was_typed():
    """The other values of a hole are assumed; its diameter, typed as the scan says, was told as assumed too."""
    from contour.job.build.scope import quantities
    from contour.recipe.formula import Quantity
    from contour.steps import KINDS
    from contour.steps.hole import HoleFacts

    typed = {"diameter": Quantity(10.17, 1, 0, "scan"), "depth": Quantity(10.0, 1, 0, "assumed")}
    as_typed = quantities(KINDS["hole"], HoleFacts(count=1, diameter=10.17, mouth=10.17), typed)
    assert as_typed["diameter"].mark == "scan"
    by_a_table = quantities(KINDS["hole"], HoleFacts(count=1, diameter=8.5, mouth=8.5), typed)
    assert (by_a_table["diameter"].value, by_a_table["diameter"].mark) == (8.5, "assumed")


def test_every_edit_there_is_has_what_it_does():
    from typing import get_args

    from contour.job.edits.apply import OPERATIONS, Edit

    union = get_args(Edit)[0]
    asked: list = []
    for part in get_args(union):
        asked += get_args(part) or [part]
    assert set(asked) == set(OPERATIONS)


class TestNamedSets:
    """Chosen parts under a name: kept with the job, unique, dropped again; and no step hangs on them."""

    PARTS = ({"part": "edge", "body": "b", "name": "b.edge[1]"}, {"part": "face", "body": "b", "name": "b.top"})

    def kept(self, recipe: Recipe, id: str = "set00000", name: str = "Top rim", parts=PARTS) -> Recipe:
        return edited(recipe, op="put-set", set={"id": id, "name": name, "parts": parts})

    def test_is_kept_through_the_recipes_file_and_changed_in_place(self):
        recipe = self.kept(self.kept(Recipe(name="Job")), id="set00001", name="Foot")
        read = load_recipe(dump_recipe(recipe))
        assert [(s.name, len(s.parts)) for s in read.sets] == [("Top rim", 2), ("Foot", 2)]
        changed = self.kept(read, name="Upper rim", parts=self.PARTS[:1])
        assert {s.id: (s.name, len(s.parts)) for s in changed.sets} == {
            "set00000": ("Upper rim", 1),
            "set00001": ("Foot", 2),
        }

    def test_has_a_name_of_its_own_and_something_in_it(self):
        recipe = self.kept(Recipe(name="Job"))
        with pytest.raises(ContourError) as caught:
            self.kept(recipe, id="set00001")
        assert caught.value.problem.where.value == "Top rim"
        with pytest.raises(ValueError, match="parts"):
            self.kept(recipe, id="set00002", name="Nothing", parts=())

    def test_is_dropped_and_nothing_else_with_it(self):
        recipe = self.kept(self.kept(Recipe(name="Job")), id="set00001", name="Foot")
        assert [s.name for s in edited(recipe, op="drop-set", id="set00000").sets] == ["Foot"]
        assert edited(recipe, op="drop-set", id="gone").sets == recipe.sets


def test_a_step_is_used_in_the_place_of_another_everywhere(recipe):
    other = step("skin-000", "region", "Other top", scan={"id": "scan"}, seeds=[2])
    spare = step("spar-000", "extrude", "Spare", sketch={"id": "outl-000"}, distance={"text": "3 mm"})
    more = recipe.model_copy(update={"steps": (other, recipe.steps[0], recipe.steps[1], spare, *recipe.steps[2:])})
    after = edited(more, op="use-instead", step="top-0000", by="skin-000")
    assert after.step("outl-000").params["plane"] == {"id": "skin-000"} and after.step("top-0000") == more.step(
        "top-0000"
    )
    moved = edited(more, op="use-instead", step="plate-00", by="spar-000")
    assert moved.step("boss-000").params["bodies"] == [{"id": "spar-000"}]
    assert moved.step("seat-000").params["body"] == {"id": "spar-000"}
    assert moved.step("seat-000").params["pairs"][0]["face"]["body"] == "spar-000"  # and keeps the name it had
    assert moved.values[1].value.text == "spare.distance - skin"
    assert moved.step("plate-00") == more.step("plate-00")
    assert refused(more, op="use-instead", step="top-0000", by="plate-00") == "wrong-kind"
    assert refused(more, op="use-instead", step="seat-000", by="boss-000") == "unchanged"
    late = edited(more, op="move-step", step="skin-000", before=None)
    assert refused(late, op="use-instead", step="top-0000", by="skin-000") == "bad-order"
