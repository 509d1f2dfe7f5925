"""The count of what errors say can fail."""

from tests.said import FLOORS, main, shares


def test_it_counts_what_is_said_and_passes_on_the_core(capsys):
    assert main() == 0
    assert "remedy" in capsys.readouterr().out
    said = shares(['raise ContourError("a", "b", where=1, remedy="c")', 'raise ContourError("a", "b")'])
    assert said == {"where": 50.0, "got": 0.0, "need": 0.0, "remedy": 50.0}
    assert shares(['raise ContourError("a", **more)']) == dict.fromkeys(FLOORS, 100.0)
