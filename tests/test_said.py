"""The count of what the core says can fail."""

from tests.said import SAYS, error_shares, errors_in, function_shares, functions_in, main


def test_it_passes_on_the_core(capsys):
    assert main() == 0
    assert "remedy" in capsys.readouterr().out


def test_errors_that_say_less_count_less():
    said = [*errors_in('raise ContourError("a", "b", where=1, remedy="c")'), *errors_in('raise ContourError("a", "b")')]
    assert error_shares(said) == {"where": 50.0, "got": 0.0, "need": 0.0, "remedy": 50.0}
    assert error_shares(errors_in('raise ContourError("a", **more)')) == dict.fromkeys(SAYS, 100.0)
    assert error_shares(errors_in('raise ContourError("a", "b")', placed_by_callers=True))["where"] == 100.0


def test_functions_that_hide_a_shape_or_a_unit_count_less():
    bare = "def area(points: NDArray[np.float64], most: float) -> float:\n    '''Its area.'''\n"
    told = "def area(points: Array, most: float) -> float:\n    '''Its area, mm²; points (n, 3).'''\n"
    named = "def area_mm(gap_mm: float) -> int: ...\n"
    assert list(functions_in(bare)) == [{"docstring": True, "shapes": False, "units": False}]
    assert list(functions_in(told)) == [{"docstring": True, "shapes": True, "units": True}]
    assert list(functions_in(named)) == [{"docstring": False}]
    assert list(functions_in("def _hidden(x: float) -> float: ...")) == []
    assert function_shares([*functions_in(bare), *functions_in(told)]) == {
        "docstring": 100.0,
        "shapes": 50.0,
        "units": 50.0,
    }
