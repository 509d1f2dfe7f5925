"""Kinds of references: found by themselves, and what serves for each."""

from __future__ import annotations

import pytest

from contour.products import PRODUCTS
from contour.recipe.reference import REFERENCES
from contour.recipe.reference.model import ReferenceKind
from contour.recipe.registry import found_in
from contour.steps import KINDS


def test_each_kind_says_what_serves_in_words_and_in_products():
    made = {k.makes for k in KINDS.values()} | set(PRODUCTS)
    for kind in REFERENCES.values():
        assert (
            (kind.label.startswith(("a ", "an ")) or kind.label.endswith("s"))
            and kind.layer
            and set(kind.accepts) <= made
        ), kind.id


@pytest.mark.parametrize(
    ("kind", "makes", "surface", "serves"),
    [
        ("plane", "plane", None, True),
        ("plane", "region", "plane", True),
        ("plane", "region", "cylinder", False),
        ("plane", "region", None, True),
        ("axis", "region", "cone", True),
        ("axis", "sketch", None, False),
        ("point", "region", "sphere", True),
        ("point", "region", "plane", False),
        ("surface", "region", "torus", True),
        ("region", "plane", None, False),
    ],
)
def test_what_can_be_pointed_to(kind, makes, surface, serves):
    assert REFERENCES[kind].serves(makes, surface) is serves


def test_a_new_file_is_a_new_kind_and_the_same_id_twice_is_refused(tmp_path, monkeypatch):
    package = tmp_path / "made_up_refs"
    package.mkdir()
    line = "from contour.recipe.reference.model import ReferenceKind\nKIND = ReferenceKind({id!r}, 'a pin', ('point',), 'spots')\n"
    (package / "__init__.py").write_text("")
    (package / "pin.py").write_text(line.format(id="pin"))
    monkeypatch.syspath_prepend(tmp_path)
    import made_up_refs

    assert list(found_in("made_up_refs", list(made_up_refs.__path__), ReferenceKind)) == ["pin"]
    (package / "pin_again.py").write_text(line.format(id="pin"))
    with pytest.raises(ValueError, match="twice"):
        found_in("made_up_refs", list(made_up_refs.__path__), ReferenceKind)
