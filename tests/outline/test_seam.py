import numpy as np
import pytest

from contour.outline.seam import begun_at

SQUARE = np.array([[0, 0], [1, 0], [2, 0], [2, 1], [2, 2], [1, 2], [0, 2], [0, 1], [0, 0]], dtype=float)
SIDES = [(0, 0, 2), (1, 2, 4), (0, 4, 6), (1, 6, 8)]


@pytest.mark.parametrize("first", range(4))
def test_a_chain_that_begins_with_another_piece_has_the_same_pieces(first):
    chain, pieces = begun_at(SQUARE, SIDES, first)
    assert (chain[0] == chain[-1]).all()
    assert pieces[0][1] == 0
    assert pieces[-1][2] == len(chain) - 1
    turned = SIDES[first:] + SIDES[:first]
    assert [k for k, _, _ in pieces] == [k for k, _, _ in turned]
    for (_, a, b), (_, c, d) in zip(pieces, turned, strict=True):
        assert (chain[a : b + 1] == SQUARE[c : d + 1]).all()
