"""The tests that a change touches are found by what imports it, and by the names of kinds of steps."""

from tests.touched import module_of, touched


def test_what_imports_a_module_is_touched_by_it():
    found = touched(["contour/metrology/photo/laid.py"])
    assert "tests/metrology/photo/test_laid.py" in found and "tests/sketch/drawn/test_picture_fit.py" in found
    assert "tests/mesh/test_mend.py" not in found


def test_a_changed_test_and_the_test_of_a_kind_are_touched():
    found = touched(["tests/mesh/test_mend.py", "contour/steps/revolve.py", "docs/formats.md", "web/src/units.ts"])
    assert {
        "tests/mesh/test_mend.py",
        "tests/steps/test_revolve_step.py",
        "tests/steps/test_all_kinds.py",
        "tests/test_docs.py",
    } <= set(found)


def test_nothing_is_touched_by_what_is_no_module_of_ours():
    assert module_of("web/vite.config.ts") is None and module_of("setup.py") is None
    assert touched(["web/src/units.ts", "pyproject.toml"]) == []
