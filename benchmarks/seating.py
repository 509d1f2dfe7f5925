"""Seating on the demo bracket, scanned with 0.03 mm noise: are the proposed pairs right, and where do the faces end up?

The judge is the truth model: the virtual scanner says which true face every facet came from, and the true faces' planes
are known.
"""

from __future__ import annotations

import tempfile
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np

from contour.exchange.scanfile import read_scan
from contour.exchange.stl_out import write_stl
from contour.fit.region import grow_region
from contour.job.build.build import build
from contour.job.build.keep import faces_of
from contour.job.build.store import Store
from contour.mesh.prepare import prepare_scan
from contour.solid.facts import face_facts
from demo.bracket import POSE, bracket, bracket_scan
from demo.jobs import seated_job

__all__ = ["run"]


def _posed(row: dict[str, Any]) -> tuple[np.ndarray, np.ndarray]:
    """A true face's place and axis in the scan's pose."""
    here, there = POSE.apply(np.array([row["centre"], np.add(row["centre"], row["axis"])]))
    return here, there - here


def _twin(face: dict[str, Any], truth: list[dict[str, Any]]) -> int | None:
    """The true face that a face of the body should be: same kind and direction, nearest."""
    best, found = 3.0, None
    for k, row in enumerate(truth):
        if row["kind"] != face["kind"] or "axis" not in row:
            continue
        place, axis = _posed(row)
        if abs(float(axis @ np.array(face["axis"]))) < 0.999 or (
            face["kind"] == "plane" and float(axis @ face["axis"]) < 0
        ):
            continue
        if face["kind"] == "plane":
            away = abs(float((np.array(face["centre"]) - place) @ axis))
            away += 0.01 * float(np.linalg.norm(np.array(face["centre"]) - place))  # of coplanar ones the nearer
        else:
            middle = POSE.apply(np.array([row["origin"]]))[0] - np.array(face["origin"])
            away = float(np.linalg.norm(middle - (middle @ axis) * axis)) + abs(row["diameter"] - face["diameter"]) / 2
        if away < best:
            best, found = away, k
    return found


def run() -> Iterator[tuple[str, str]]:
    truth = face_facts(bracket())
    with tempfile.TemporaryDirectory() as folder:
        scan_file = Path(folder) / "bracket.stl"
        virtual = bracket_scan(noise_mm=0.03)
        write_stl(scan_file, virtual.vertices, virtual.facets)
        store = Store(Path(folder) / "store")
        blob = store.put_blob(scan_file.read_bytes())
        begun = time.perf_counter()
        recipe = seated_job(blob, scan_file)
        result = build(recipe, store)
        took = time.perf_counter() - begun
        scan = prepare_scan(read_scan(scan_file), 1.0)
        seat = result.steps[-1]
        by_name = {f["name"]: f for f in faces_of(store, result.bodies[0].key)}
        right, judged, plane_errors, wrong, shares = 0, 0, [], [], []
        for row, pair in zip(seat.facts.pairs, recipe.steps[-1].params["pairs"], strict=True):
            face = by_name[row.face]
            twin = _twin(face, truth)
            if twin is None:
                continue
            judged += 1
            seeds = scan.facets_of_source(np.array(pair["seeds"]))
            facets = grow_region(scan, seeds, kind=face["kind"]).facets
            labels = np.bincount(virtual.true_face[scan.source_facet[facets]], minlength=len(truth))
            # Coplanar true faces are one plane: a region may reach over several of them.
            alike = [k for k, t in enumerate(truth) if t["kind"] == face["kind"] and _same(t, truth[twin])]
            shares.append(labels[alike].sum() / labels.sum())
            if int(np.argmax(labels)) in alike:
                right += 1
            else:
                wrong.append(row.face)
            if row.status == "seated" and face["kind"] == "plane" and not _crowned(truth[twin]):
                place, axis = _posed(truth[twin])
                plane_errors.append(abs(float((np.array(face["centre"]) - place) @ axis)))
    errors = np.array(plane_errors)
    yield "pairs proposed, faces of the body", f"{len(seat.facts['pairs'])} of {len(by_name)}"
    yield (
        "proposed pairs that are right, %",
        f"{100 * right / judged:.1f} ({right} of {judged})" + (f" {wrong}" if wrong else ""),
    )
    yield (
        "facets of a pair's region that come from the right face, %",
        (
            f"median {100 * np.median(shares):.1f}, least {100 * min(shares):.1f} (rounds reach into what they are tangent to)"
        ),
    )
    yield "seated, refused", f"{seat.facts['seated']}, {seat.facts['refused']}"
    yield (
        "seated planes from the truth, mm (crowned boss left out)",
        f"median {np.median(errors):.4f}, worst {errors.max():.4f} of {len(errors)}",
    )
    if result.fit is not None:
        yield (
            "inside +-0.1 mm after base, wall, boss, eye, pocket and seats, %",
            f"{100 * result.fit.figures['inside_share']:.1f}",
        )
    yield "the whole job made and built, s", f"{took:.1f}"


def _same(a: dict[str, Any], b: dict[str, Any]) -> bool:
    if a is b:
        return True
    if a["kind"] != "plane" or b["kind"] != "plane":
        return False
    away = abs(float(np.subtract(a["centre"], b["centre"]) @ np.array(b["axis"])))
    return float(np.dot(a["axis"], b["axis"])) > 0.9999 and away < 0.01


def _crowned(row: dict[str, Any]) -> bool:
    """The boss's top is crowned by 0.12 mm in the scan: there is no plane to come to."""
    return row["kind"] == "plane" and abs(row["centre"][2] - 24.0) < 0.01
