"""``contour sketch``: the text form in, the answer out."""

from __future__ import annotations

import json
import re
from pathlib import Path
from typing import get_args

import pytest

from contour.cli import main
from contour.sketch.drawn.text import ConstraintKind, DimensionKind
from tests.sketch.drawn.test_freedom_by_hand import BOX

ROOT = Path(__file__).parents[3]


def answered(capfd, tmp_path, text: str) -> tuple[int, dict]:
    file = tmp_path / "plate.json"
    file.write_text(text)
    status = main(["sketch", str(file), "--json"])
    return status, json.loads(capfd.readouterr().out)


def test_a_drawing_is_answered(capfd, tmp_path):
    asked = {
        "entities": BOX,
        "constraints": [{"kind": "horizontal", "of": ["k"]}, {"kind": "horizontal", "of": ["k"]}],
        "dimensions": [{"kind": "length", "of": ["k"], "value": "1 inch"}],
    }
    status, out = answered(capfd, tmp_path, json.dumps(asked))
    assert (status, out["solved"], out["dof"], out["redundant"], out["conflicts"]) == (0, True, 6, ["c:1"], [])
    a, b = out["entities"]["a"]["at"], out["entities"]["b"]["at"]
    assert (b[0] - a[0], b[1] - a[1]) == pytest.approx((25.4, 0.0), abs=1e-9)
    assert out["entities"]["k"] == BOX["k"] and out["sizes"] == pytest.approx([25.4])
    assert out["residual"] < 1e-9 and out["free"]["a"] == 2


def test_what_cannot_hold_is_an_answer_too(capfd, tmp_path):
    asked = {"entities": BOX, "dimensions": [{"kind": "length", "of": ["k"], "value": v} for v in (20, 21)]}
    status, out = answered(capfd, tmp_path, json.dumps(asked))
    assert (status, out["solved"], out["conflicts"]) == (0, False, [["d:0", "d:1"]])
    assert out["entities"] == json.loads(json.dumps(BOX))


def test_what_is_no_drawing_is_refused_with_file_and_place(capfd, tmp_path):
    status, out = answered(capfd, tmp_path, '{"entities": {"k": {"kind": "line", "from": "a", "to": "b"}}}')
    where = out["problem"]["where"]
    assert (status, out["problem"]["code"], where["file"], where["entity"]) == (2, "ref-lost", "plate.json", "k")
    status, out = answered(capfd, tmp_path, "entities: none")
    assert (status, out["problem"]["code"]) == (2, "file-not-understood")
    assert main(["sketch", str(tmp_path / "nowhere.json"), "--json"]) == 2


def test_every_kind_is_written_down():
    text = (ROOT / "docs" / "formats.md").read_text()
    rows = set(re.findall(r"`([a-z-]+)`", text[text.index("## A drawing") : text.index("## A caliper's line")]))
    assert {*get_args(ConstraintKind), *get_args(DimensionKind)} <= rows
    assert {"point", "line", "circle", "arc", "ellipse", "spline"} <= rows
