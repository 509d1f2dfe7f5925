"""The command line is a contract: one JSON object on stdout, one line on stderr, exit codes 0 and 2."""

import json
import os
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest

from contour.cli import main
from contour.exchange.step import write_step
from contour.recipe.evidence.reading import Reading, Take
from contour.recipe.recipe import NamedValue, Recipe, Step, dump_recipe
from contour.recipe.values import Value
from contour.steps import KINDS
from tests.conftest import binary_stl, cube
from tests.solid.test_from_file import HEAD, PLATE_VOLUME, TAIL, iges


def run(capfd, *argv: str) -> tuple[int, str, str]:
    code = main(list(argv))
    out, err = capfd.readouterr()
    return code, out, err


def test_inspect_prints_one_object_with_every_promised_key(capfd, tmp_path):
    path = tmp_path / "cube.stl"
    path.write_bytes(binary_stl(cube((2, 2, 2))))
    code, out, err = run(capfd, "inspect", str(path), "--unit", "inch", "--json")
    facts = json.loads(out)
    assert (code, err) == (0, "")
    assert set(facts) == {
        "facets",
        "vertices",
        "size",
        "area",
        "volume",
        "closed",
        "open_edges",
        "nonmanifold_edges",
        "duplicate_facets",
        "degenerate_facets",
        "components",
        "noise",
        "unit_guess",
        "warnings",
        "defects",
    }
    assert facts["size"] == pytest.approx([50.8] * 3)
    assert facts["volume"] == pytest.approx(50.8**3, rel=1e-6)


def test_without_a_unit_it_warns_and_takes_mm(capfd, tmp_path):
    path = tmp_path / "cube.stl"
    path.write_bytes(binary_stl(cube()))
    code, out, err = run(capfd, "inspect", str(path), "--json")
    assert code == 0
    assert "no unit given" in err
    assert json.loads(out)["size"] == pytest.approx([1, 1, 1])


def test_regions_name_surfaces_with_uncertainty_and_label_facets_in_file_order(capfd, block_stl, tmp_path):
    labels = tmp_path / "labels.out"
    code, out, _ = run(capfd, "regions", str(block_stl), "--unit", "mm", "--labels", str(labels), "--json")
    found = json.loads(out)
    assert code == 0
    rows = found["regions"]
    assert {"id", "kind", "facets", "area", "rms", "params", "u", "is_fillet", "same_surface"} <= set(rows[0])
    assert all(0.3 < r["noise"] / found["noise"] < 3 and r["candidates"] == [] for r in rows)
    (bore,) = (r for r in rows if r["kind"] == "cylinder")
    assert abs(bore["params"]["radius"] - 6) < 3 * bore["u"]["radius"] + 0.01
    assert bore["params"]["point"][:2] == pytest.approx([15, 15], abs=0.05)
    given = np.load(labels)
    raw = json.loads(run(capfd, "inspect", str(block_stl), "--unit", "mm", "--json")[1])
    assert given.dtype == np.int32 and len(given) == raw["facets"]
    assert int((given == bore["id"]).sum()) == bore["facets"]
    assert found["noise"] > 0 and {p["kind"] for p in found["proposals"]} >= {"parallel"}


def test_section_takes_negative_vectors_and_gives_places_in_space(capfd, block_stl):
    argv = ["section", str(block_stl), "--unit", "mm", "--origin", "20,15,5", "--normal", "-0,0,-1", "--json"]
    code, out, _ = run(capfd, *argv)
    loops = json.loads(out)["loops"]
    assert code == 0
    assert [loop["closed"] for loop in loops] == [True, True]
    assert [len(loop["pieces"]) for loop in loops] == [4, 1]
    bore = loops[1]["pieces"][0]
    assert set(bore) == {"kind", "start", "end", "centre", "radius", "rms", "flat"}
    # On the loop's own axes the same bore, and the cut that it explains.
    o, u, v = (np.array(loops[1]["frame"][k]) for k in ("origin", "u", "v"))
    x, y = bore["flat"]["centre"]
    assert o + x * u + y * v == pytest.approx(np.array(bore["centre"]))
    cut = np.vstack([c["points"] for c in json.loads(out)["cuts"]])
    assert np.linalg.norm(cut - [x, y], axis=1).min() == pytest.approx(6, abs=0.2)
    assert bore["centre"] == pytest.approx([15, 15, 5], abs=0.03)
    assert np.linalg.norm(np.subtract(bore["start"], bore["centre"])) == pytest.approx(bore["radius"])


def test_a_section_over_a_hole_in_the_scan_closes_and_marks_what_it_assumes(capfd, tmp_path, block_scan):
    away = np.linalg.norm(block_scan.centroids - np.array([30.0, 0.0, 5.0]), axis=1) > 4
    holed = tmp_path / "holed.stl"
    holed.write_bytes(binary_stl(block_scan.vertices[block_scan.facets[away]]))
    argv = ["section", str(holed), "--unit", "mm", "--origin", "20,15,5", "--normal", "0,0,1", "--json"]
    loops = json.loads(run(capfd, *argv)[1])["loops"]
    assert [loop["closed"] for loop in loops] == [True, True] and len(loops[0]["pieces"]) == 4
    (assumed,) = [p for loop in loops for p in loop["pieces"] if "assumed" in p]
    assert assumed["kind"] == "line" and assumed["assumed"] is True
    ((a, b),) = assumed["unseen"]
    assert sorted([a[0], b[0]]) == pytest.approx([26, 34], abs=1) and abs(a[1]) < 0.1
    as_cut = json.loads(run(capfd, *argv, "--as-cut")[1])["loops"]
    assert sorted(loop["closed"] for loop in as_cut) == [False, True]
    assert not any("assumed" in p for loop in as_cut for p in loop["pieces"])


def test_compare_and_check_agree_with_the_truth(capfd, tmp_path, block_stl, drilled_block):
    step = tmp_path / "block.step"
    write_step(step, [("Block", drilled_block.shape, None)], unit="mm")
    code, out, _ = run(capfd, "compare", str(block_stl), str(step), "--unit", "mm", "--tolerance", "0.06", "--json")
    fit = json.loads(out)
    assert code == 0
    assert set(fit) == {"points", "inside_share", "mean", "rms", "p95", "max", "unseen_share", "worst"}
    assert fit["inside_share"] > 0.9
    assert fit["max"] < 0  # softened edges lie inside the solid
    code, out, _ = run(capfd, "check", str(step), "--json")
    solid = json.loads(out)
    assert set(solid) == {"solids", "faces", "closed", "valid", "volume", "area", "free_edges"}
    assert solid["volume"] == pytest.approx((1200 - np.pi * 36) * 10)


def test_check_reads_iges_and_names_what_a_file_only_points_to(capfd, tmp_path):
    path = iges(tmp_path / "plate.igs", unit="IN")
    code, out, _ = run(capfd, "check", str(path), "--json")
    found = json.loads(out)
    assert (code, found["solids"], found["closed"], found["valid"]) == (0, 2, True, True)
    assert found["volume"] == pytest.approx(PLATE_VOLUME + np.pi * 16 * 20, rel=1e-6)
    outside = tmp_path / "assembly.step"
    outside.write_bytes(HEAD + b"#1=DOCUMENT_FILE('winch_arm.stp','','',#2,'','');\n" + TAIL)
    code, out, err = run(capfd, "check", str(outside), "--json")
    assert code == 2 and len(err.strip().splitlines()) == 1
    assert "external references" in err and json.loads(out)["problem"]["got"] == "winch_arm.stp"


@pytest.mark.parametrize(
    "argv",
    [
        ["inspect", "nowhere.stl"],
        ["inspect"],
        ["frobnicate"],
        [],
        ["check", "nowhere.step"],
        ["section", "{scan}", "--origin", "1,2", "--normal", "0,0,1"],
        ["section", "{scan}", "--origin", "0,0,0"],
        ["section", "{scan}", "--origin", "0,0,99", "--normal", "0,0,1"],
        ["section", "{scan}", "--origin", "0,0,5", "--normal", "0,0,0"],
        ["section", "{scan}", "--origin", "0,0,5", "--normal", "0,0,1", "--tolerance", "3 deg"],
        ["compare", "{scan}", "nowhere.step"],
        ["build", "nowhere.json", "--out", "x"],
        ["inspect", "{scan}", "--unit", "ell"],
    ],
)
def test_errors_are_one_readable_line_and_exit_code_2(capfd, block_stl, argv):
    code, out, err = run(capfd, *[a.format(scan=block_stl) for a in argv], "--json")
    lines = [line for line in err.splitlines() if "no unit given" not in line]
    assert code == 2
    assert set(json.loads(out)) == {"problem"}
    assert len(lines) == 1
    assert "Traceback" not in err


def test_without_json_it_is_text_for_people(capfd, tmp_path):
    path = tmp_path / "cube.stl"
    path.write_bytes(binary_stl(cube()[:-1]))
    code, out, _ = run(capfd, "inspect", str(path), "--unit", "mm")
    assert code == 0
    assert "open_edges: 3" in out
    assert "volume: not known" in out


def test_the_web_process_never_loads_the_kernel():
    code = "import bench.wsgi, bench.urls, sys; sys.exit('OCP' in sys.modules)"
    assert subprocess.run([sys.executable, "-c", code], check=False).returncode == 0


def test_steps_lists_every_kind_with_its_schema(capfd):
    code, out, err = run(capfd, "steps", "--json")
    kinds = {k["kind"]: k for k in json.loads(out)}
    assert (code, err) == (0, "")
    assert set(kinds) == set(KINDS)
    assert kinds["extrude"]["parameters"]["properties"]["distance"]["dimension"] == "length"
    assert kinds["seat"]["measures"]["seated"] == "number"


def test_the_reference_is_fresh(capfd):
    """docs/step-kinds.md is what the declarations say now."""
    _, out, _ = run(capfd, "steps", "--markdown")
    kept = Path(__file__).parent.parent / "docs" / "step-kinds.md"
    assert kept.read_text(encoding="utf-8").rstrip() == out.rstrip(), (
        "run ./run contour steps --markdown > docs/step-kinds.md"
    )


def test_show_prints_values_with_their_provenance(capfd, tmp_path):
    reading = Reading(id="q", name="plate_t", takes=(Take(value=12.02), Take(value=12.04)))
    value = NamedValue(id="v", name="half", value=Value(text="plate_t / 2", mark="intent"))
    ring = NamedValue(id="w", name="ring", value=Value(text="ring + 1"))
    step = Step(
        id="x",
        kind="extrude",
        name="Plate",
        note="machined",
        params={"sketch": {"id": "gone"}, "distance": {"text": "half + 1 mm", "mark": "intent"}},
    )
    path = tmp_path / "job.json"
    path.write_text(dump_recipe(Recipe(name="Job", evidence=(reading,), values=(value, ring), steps=(step,))))
    code, out, _ = run(capfd, "show", str(path), "--json")
    job = json.loads(out)
    assert code == 0
    assert job["readings"][0]["mean"] == "12.0300 ± 0.0100"
    assert job["values"][0] == {"name": "half", "text": "plate_t / 2", "mark": "caliper", "value": pytest.approx(6.015)}
    assert "need each other" in job["values"][1]["problem"]
    (shown,) = job["steps"][0]["values"]
    assert (shown["text"], shown["mark"], shown["value"]) == ("half + 1 mm", "intent", pytest.approx(7.015))
    assert job["steps"][0]["refers_to"] == {"sketch": "lost: gone"}
    assert job["steps"][0]["note"] == "machined"


@pytest.mark.parametrize("content", [None, "{", '{"schema_version": 99}'])
def test_show_refuses_what_is_no_job(capfd, tmp_path, content):
    path = tmp_path / "job.json"
    if content is not None:
        path.write_text(content)
    code, out, err = run(capfd, "show", str(path), "--json")
    assert code == 2 and json.loads(out)["problem"]["message"] in err
    assert err.count("\n") == 1


def test_scan_mend_and_align_from_end_to_end(capfd, tmp_path, drilled_block):
    """Scanned virtually in a pose, mended, and laid back on the solid it came from."""
    import numpy as np
    from scipy.spatial.transform import Rotation

    from contour.exchange.step import write_step

    solid, scan, mended, laid = (str(tmp_path / n) for n in ("block.step", "scan.ply", "mended.3mf", "laid.obj"))
    write_step(tmp_path / "block.step", [("block", drilled_block.shape, None)], unit="mm")
    labels = tmp_path / "labels.npy"
    code, out, _ = run(
        capfd,
        "scan",
        solid,
        "--out",
        scan,
        "--spacing",
        "1.2",
        "--turntable",
        "5",
        "--deep",
        "0.15",
        "--pose",
        "20,-30,70,5,6,-7",
        "--wear",
        "-20,20,10,15,0.1",
        "--labels",
        str(labels),
        "--json",
    )
    made = json.loads(out)
    assert code == 0
    assert len(np.load(labels)) == made["facets"]
    assert np.load(labels).max() < made["faces"]
    code, out, _ = run(capfd, "mend", scan, "--out", mended, "--fill-holes", "--unit", "mm", "--json")
    done = json.loads(out)
    assert code == 0
    assert done["blocking"] == []
    assert done["facets_before"] == made["facets"]
    code, out, err = run(capfd, "align", mended, "--to", solid, "--out", laid, "--json")
    fit = json.loads(out)
    assert (code, err) == (0, "")  # a 3MF says its own unit
    pose = np.array(fit["matrix"])
    turn = pose[:3, :3] @ Rotation.from_euler("xyz", [20, -30, 70], degrees=True).as_matrix()
    assert np.abs(turn) == pytest.approx(np.eye(3), abs=0.02)  # the block looks the same turned over about x
    assert fit["inside_share"] > 0.5
    code, out, _ = run(capfd, "inspect", laid, "--unit", "mm", "--json")
    assert not [d for d in json.loads(out)["defects"] if d["blocking"]]


def test_defects_have_kinds_counts_and_places(capfd, tmp_path):
    path = tmp_path / "open.stl"
    path.write_bytes(binary_stl(cube((20, 20, 20))[1:]))
    _, out, _ = run(capfd, "inspect", str(path), "--unit", "mm", "--json")
    (hole,) = json.loads(out)["defects"]
    assert (hole["kind"], hole["count"], hole["blocking"]) == ("hole", 1, True)
    assert hole["places"][0] == pytest.approx([10, 10, 0])


@pytest.mark.parametrize(
    ("arguments", "said"),
    [
        (("mend", "{stl}", "--out", "x.step"), "ending"),
        (("scan", "{stl}", "--out", "x.stl"), "STEP"),
        (("scan", "nothing.step", "--out", "x.stl", "--view", "1,2"), "3 numbers"),
        (("scan", "nothing.step", "--out", "x.stl", "--wear", "1,2,3"), "5 numbers"),
        (("align", "{stl}", "--to", "nothing.step", "--out", "x.stl", "--unit", "mm"), "nothing.step"),
    ],
)
def test_bad_arguments_of_the_scan_commands_are_one_line(capfd, tmp_path, arguments, said):
    path = tmp_path / "cube.stl"
    path.write_bytes(binary_stl(cube((20, 20, 20))))
    code, out, err = run(capfd, *[a.format(stl=path) for a in arguments])
    assert (code, out) == (2, "")
    assert said in err
    assert len(err.strip().splitlines()) == 1


def test_reading_prints_mean_and_uncertainty_in_mm(capfd):
    code, out, err = run(
        capfd, "reading", "0.500 0.501 0.499 inch", "--resolution", "0.0005", "--limit", "0.001", "--json"
    )
    facts = json.loads(out)
    assert (code, err) == (0, "")
    assert (facts["mean"], facts["n"], facts["s"]) == (pytest.approx(12.7), 3, pytest.approx(0.0254))
    parts = [0.0254**2 / 3, (0.0005 * 25.4) ** 2 / 12, 0.0254**2 / 3]
    assert facts["u"] == pytest.approx(sum(parts) ** 0.5) and facts["U95"] == pytest.approx(2 * facts["u"])


def test_thread_and_fit_class_name_the_standard(capfd):
    _, out, _ = run(capfd, "thread", "--major", "29.8", "--pitch", "2", "--json")
    first = json.loads(out)["candidates"][0]
    assert (first["designation"], first["major"], first["pitch"]) == ("M30x2", 30, 2)
    assert first["difference"] == pytest.approx(-0.2)
    _, out, _ = run(capfd, "thread", "--minor", "5.0 mm", "--per-inch", "20", "--json")
    assert json.loads(out)["candidates"][0]["designation"] == "1/4-20 UNC"
    _, out, _ = run(capfd, "fit-class", "25", "H7", "--json")
    assert json.loads(out) == {
        "nominal": 25,
        "class": "H7",
        "kind": "hole",
        "lower": 0,
        "upper": 0.021,
        "min": 25,
        "max": 25.021,
        "tolerance": 0.021,
    }
    _, out, _ = run(capfd, "fit-class", "25", "H7/p6", "--json")
    assert json.loads(out)["fit"] == "interference"


@pytest.mark.parametrize(
    "argv",
    [
        ["reading", "12.03 12.05", "--resolution", "0.01"],
        ["reading", "", "--resolution", "0.01"],
        ["reading", "12 mm", "--resolution", "0"],
        ["reading", "12 mm", "--resolution", "-0.01"],
        ["reading", "30 deg", "--resolution", "1"],
        ["reading", "12 mm", "--resolution", "fine"],
        ["thread", "--major", "12"],
        ["thread", "--pitch", "1"],
        ["thread", "--major", "-3", "--pitch", "1"],
        ["thread", "--major", "3", "--per-inch", "-4"],
        ["fit-class", "25", "Q7"],
        ["fit-class", "900", "H7"],
        ["fit-class", "x", "H7"],
        ["fit-class", "25", "H7/H8"],
    ],
)
def test_measuring_commands_refuse_in_one_line(capfd, argv):
    code, out, err = run(capfd, *argv, "--json")
    assert code == 2 and json.loads(out)["problem"]["message"] and len(err.splitlines()) == 1


def test_a_section_in_a_face_says_so_and_where_it_is_clean(capfd, block_stl):
    argv = ["section", str(block_stl), "--unit", "mm", "--normal", "0,0,1", "--json", "--origin"]
    code, out, _ = run(capfd, *argv, "20,5,10")
    told = json.loads(out)
    assert code == 0 and told["along"]["area"] > 600 and told["along"]["above"] is None
    code, out, _ = run(capfd, *argv, f"20,5,{10 + told['along']['below']}")
    assert code == 0 and "along" not in json.loads(out) and len(json.loads(out)["loops"]) == 2


@pytest.mark.parametrize("data", [b"\xff\xfe\x00 binary", b"solid part", b"[1, 2]", b'{"schema_version": 5}', b""])
def test_building_what_is_no_job_ends_in_one_line(capfd, tmp_path, data):
    path = tmp_path / "part.json"
    path.write_bytes(data)
    code, out, err = run(capfd, "build", str(path), "--out", str(tmp_path / "out"), "--json")
    assert code == 2 and len(err.splitlines()) == 1 and "part.json" in err and "fault" not in err
    assert json.loads(out)["problem"]["code"] in ("file-not-understood", "bad-recipe")


def test_exporting_from_a_folder_where_nothing_ran_ends_in_one_line(tmp_path):
    env = {**os.environ, "CONTOUR_VAR": str(tmp_path / "var")}
    argv = [sys.executable, "-m", "bench", "contour", "export-job", "3f2a", "--out", str(tmp_path / "x.json")]
    done = subprocess.run(argv, env=env, capture_output=True, text=True, check=False)
    assert (
        done.returncode == 2
        and done.stderr.splitlines() == [done.stderr.strip()]
        and "no job has this id" in done.stderr
    )


def test_solidify_writes_a_solid_and_says_what_it_is(capfd, tmp_path):
    from contour.solid.from_file import read_shape_file
    from contour.solid.mass import volume

    path, out_path = tmp_path / "box.stl", tmp_path / "box.step"
    path.write_bytes(binary_stl(cube((3, 2, 1))))
    code, out, err = run(capfd, "solidify", str(path), "--out", str(out_path), "--unit", "inch", "--json")
    facts = json.loads(out)
    assert (code, err) == (0, "")
    assert facts.pop("volume") == pytest.approx(6 * 25.4**3)
    assert facts == {"solids": 1, "closed": True, "valid": True, "faces": {"plane": 6}, "flat_facets": 0, "open": []}
    assert volume(read_shape_file(out_path)) == pytest.approx(6 * 25.4**3)


def test_solidify_tells_where_the_mesh_is_open_and_refuses_scans(capfd, tmp_path, block_stl):
    path = tmp_path / "open.stl"
    path.write_bytes(binary_stl(cube((3, 2, 1))[:-1]))
    code, out, _ = run(capfd, "solidify", str(path), "--out", str(tmp_path / "o.step"), "--unit", "mm", "--json")
    facts = json.loads(out)
    assert code == 0 and not facts["closed"] and facts["open"]
    assert set(facts["open"][0]) == {"place", "width"} and len(facts["open"][0]["place"]) == 3
    code, out, err = run(capfd, "solidify", str(block_stl), "--out", str(tmp_path / "s.step"), "--unit", "mm", "--json")
    assert code == 2 and "scan" in err
    assert not (tmp_path / "s.step").exists()
