"""VRML 2 in: indexed faces, transforms, what is used again, polygons, and files that are not what they say."""

from __future__ import annotations

import gzip

import numpy as np
import pytest

from contour.exchange.scanfile import read_scan
from contour.exchange.vrml import looks_like_vrml, read_vrml
from contour.mesh.topology import weld
from contour.recipe.problem import ContourError

HEAD = "#VRML V2.0 utf8\n"
CUBE = """Shape { appearance Appearance { material Material { diffuseColor 0.8 0.8 0.8 } }
 geometry IndexedFaceSet { solid TRUE coord DEF C Coordinate { point [ 0 0 0, 1 0 0, 1 1 0, 0 1 0, # a comment
   0 0 1, 1 0 1, 1 1 1, 0 1 1 ] }
   coordIndex [ 0 3 2 1 -1, 4 5 6 7 -1, 0 1 5 4 -1, 1 2 6 5 -1, 2 3 7 6 -1, 3 0 4 7 ] } }"""


def volume(corners: np.ndarray) -> float:
    return float(np.einsum("ij,ij->i", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])).sum() / 6)


def test_a_cube_of_six_polygons_is_twelve_triangles_facing_out():
    raw = read_vrml(HEAD + CUBE, "cube.wrl")
    assert raw.format == "wrl" and len(raw.corners) == 12 and raw.facets_read == 12 and raw.notes == ()
    assert volume(raw.corners) == pytest.approx(1)
    assert len(weld(raw.corners)[0]) == 8


def test_transforms_move_turn_scale_and_mirror_and_nest():
    text = f"""{HEAD} Transform {{ translation 10 0 0 rotation 0 0 1 1.5707963 children [
      Transform {{ scale 2 3 4 children {CUBE} }} ] }}"""
    corners = read_vrml(text, "t.wrl").corners
    assert volume(corners) == pytest.approx(24)
    low, high = corners.reshape(-1, 3).min(axis=0), corners.reshape(-1, 3).max(axis=0)
    assert np.allclose(low, [7, 0, 0], atol=1e-5) and np.allclose(high, [10, 2, 4], atol=1e-5)
    mirrored = read_vrml(f"{HEAD} Transform {{ scale -1 1 1 children [ {CUBE} ] }}", "m.wrl").corners
    assert volume(mirrored) == pytest.approx(1)  # still facing out


def test_a_centre_and_a_slanted_scale_are_as_the_standard_has_them():
    text = f"{HEAD} Transform {{ center 1 1 1 rotation 1 0 0 3.14159265 children [ {CUBE} ] }}"
    points = read_vrml(text, "c.wrl").corners.reshape(-1, 3)
    assert np.allclose(points.min(axis=0), [0, 1, 1], atol=1e-6) and np.allclose(
        points.max(axis=0), [1, 2, 2], atol=1e-6
    )
    slanted = f"{HEAD} Transform {{ scale 2 1 1 scaleOrientation 0 0 1 1.5707963 children [ {CUBE} ] }}"
    assert np.allclose(np.ptp(read_vrml(slanted, "s.wrl").corners.reshape(-1, 3), axis=0), [1, 2, 1], atol=1e-6)


def test_what_is_used_again_stands_twice_and_several_shapes_are_one_mesh():
    text = f"""{HEAD} Group {{ children [ DEF Block {CUBE}
      Transform {{ translation 5 0 0 children [ USE Block ] }} ] }}
      {CUBE.replace("DEF C ", "")}"""
    raw = read_vrml(text, "u.wrl")
    assert len(raw.corners) == 36 and "Block" in raw.solids
    assert len(np.unique(raw.facet_ids)) == 36 == raw.facets_read


def test_clockwise_faces_are_turned_and_bad_ones_dropped_with_their_place():
    wrong = CUBE.replace("solid TRUE", "ccw FALSE")
    assert volume(read_vrml(HEAD + wrong, "w.wrl").corners) == pytest.approx(-1)
    bad = CUBE.replace("0 3 2 1 -1", "0 3 99 1 -1, 4 5 -1")
    raw = read_vrml(HEAD + bad, "b.wrl")
    assert len(raw.corners) == 10 and {n.code for n in raw.notes} == {"bad-index", "few-vertices"}


def test_what_is_no_indexed_face_is_passed_over_and_said():
    text = f"""{HEAD} WorldInfo {{ title "a [strange] {{title}}" info ["x", "y"] }} NavigationInfo {{ type "EXAMINE" }}
      PROTO P [ field SFFloat a 1 ] {{ Group {{ }} }} Viewpoint {{ position 0 0 5 }}
      Shape {{ geometry Box {{ size 1 1 1 }} }} Inline {{ url "other.wrl" }} {CUBE} ROUTE A.x TO B.y"""
    raw = read_vrml(text, "n.wrl")
    assert len(raw.corners) == 12 and {n.code for n in raw.notes} == {"not-facets", "elsewhere"}


def test_it_is_known_by_its_content_and_packed_too(tmp_path):
    assert looks_like_vrml(HEAD) and not looks_like_vrml("solid x")
    plain, packed = tmp_path / "part.wrl", tmp_path / "part.wrz"
    plain.write_text(HEAD + CUBE)
    packed.write_bytes(gzip.compress((HEAD + CUBE).encode()))
    for path in (plain, packed):
        raw = read_scan(path)
        assert raw.format == "wrl" and len(raw.corners) == 12
    wrong = tmp_path / "part.stl"
    wrong.write_text(HEAD + CUBE)
    with pytest.raises(ContourError) as caught:
        read_scan(wrong)
    assert caught.value.problem.code == "wrong-ending"


@pytest.mark.parametrize(
    "text",
    [
        "#VRML V1.0 ascii\nSeparator { }",
        HEAD + CUBE[: len(CUBE) // 2],
        HEAD + "Transform { children [ ",
        HEAD + "Shape } {",
        HEAD + "Group { children [ " * 400,
    ],
    ids=["version 1", "cut off", "open", "braces", "deep"],
)
def test_what_cannot_be_read_ends_in_a_sentence_with_its_place(text):
    with pytest.raises(ContourError) as caught:
        read_vrml(text, "x.wrl")
    assert caught.value.problem.code == "file-not-understood" and caught.value.problem.where.file == "x.wrl"


def test_a_file_without_a_mesh_says_so(tmp_path):
    path = tmp_path / "empty.wrl"
    path.write_text(HEAD + "Group { }")
    with pytest.raises(ContourError) as caught:
        read_scan(path)
    assert caught.value.problem.code == "no-facets"
