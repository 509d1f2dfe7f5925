"""A region step on a worn bore: what it says of the wear, with the zone in the fit and out of it."""

from __future__ import annotations

import numpy as np
import pytest

from contour.products import load_product, save_product
from contour.products.scan import ScanProduct
from contour.recipe.problem import ContourError
from contour.recipe.registry import Inputs
from contour.recipe.values import facets_to_bytes
from contour.steps import KINDS
from tests.conftest import facet_near
from tests.fit.test_wear_form import RADIUS, tube
from tests.steps.helpers import run as run_step
from tests.steps.helpers import volume_of


def run(params: dict, blobs: dict[str, np.ndarray], worn_mm: float = 0.15):
    scan = tube(worn_mm, noise=0.02)
    kind = KINDS["region"]
    data = {k: facets_to_bytes(v) for k, v in blobs.items()}
    checked = kind.params.model_validate({"scan": {"id": "s"}, **params})
    inputs = Inputs("step", {"scan": ScanProduct(scan)}, "mm", blob=lambda h: data[h])
    return kind.run(checked, inputs), scan


ALL = {"blob": "a" * 64, "count": 7000}


def whole(scan_facets: int) -> np.ndarray:
    return np.arange(scan_facets)


def test_wear_is_told_and_left_out_on_request(tmp_path) -> None:
    facets = whole(len(tube(0.15, noise=0.02).facets))
    kept, _ = run({"picked": ALL, "surface": "cylinder"}, {"a" * 64: facets})
    assert kept.facts.worn.depth == pytest.approx(0.15, abs=0.05) and kept.facts.left_out == 0
    out, scan = run({"picked": ALL, "surface": "cylinder", "leave_worn": True}, {"a" * 64: facets})
    assert out.facts.left_out > 500
    off = abs(out.facts.diameter - 2 * RADIUS)
    assert off < 4 * out.facts.u and off < abs(kept.facts.diameter - 2 * RADIUS) + 0.01
    save_product(out.product, tmp_path)
    assert load_product(tmp_path).surface == out.product.surface
    # The view reads from the product what the step found, and an older product without it still opens.
    zone = load_product(tmp_path)
    assert len(zone.worn) == kept.facts.worn.facets and zone.worn_mm == kept.facts.worn.depth
    angle = np.degrees(np.arctan2(scan.centroids[:, 1], scan.centroids[:, 0]))[scan.facets_of_source(zone.worn)]
    assert np.abs(angle - np.median(angle)).max() < 75
    (tmp_path / "worn.npy").unlink()
    assert len(load_product(tmp_path).worn) == 0


def test_painted_wear_is_left_out_and_all_of_it_cannot_be() -> None:
    scan = tube(0.15, noise=0.02)
    angle = np.degrees(np.arctan2(scan.centroids[:, 1], scan.centroids[:, 0]))
    painted = scan.source_facet[np.abs(angle - 40) < 50]
    blobs = {"a" * 64: whole(len(scan.facets)), "b" * 64: painted}
    worn = {"blob": "b" * 64, "count": len(painted)}
    out, _ = run({"picked": ALL, "surface": "cylinder", "worn": worn}, blobs)
    assert out.facts.left_out == len(painted)
    assert out.facts.diameter == pytest.approx(2 * RADIUS, abs=0.03)
    with pytest.raises(ContourError, match="painted as worn"):
        run({"picked": ALL, "surface": "cylinder", "worn": {"blob": "a" * 64, "count": 1}}, blobs)


def test_a_sound_bore_says_nothing_of_wear() -> None:
    facets = whole(len(tube(0.0, noise=0.02).facets))
    out, _ = run({"picked": ALL, "surface": "cylinder", "leave_worn": True}, {"a" * 64: facets}, worn_mm=0.0)
    assert "worn" not in out.facts and out.facts.left_out == 0
    assert out.facts.uncertain["radius"] == out.facts.u


def test_a_fitted_bore_says_how_long_it_is_and_fills_itself(block_scan, tmp_path) -> None:
    """The block's bore of Ø 12 goes through 10 mm; a primitive takes both of the region."""
    seed = facet_near(block_scan, (15.0, 21.0, 5.0))
    checked = KINDS["region"].params.model_validate(
        {"scan": {"id": "s"}, "seeds": [int(block_scan.source_facet[seed])]}
    )
    found = KINDS["region"].run(checked, Inputs("step", {"scan": ScanProduct(block_scan)}, "mm")).product
    save_product(found, tmp_path)
    low, high = load_product(tmp_path).span
    assert high - low == pytest.approx(10, abs=0.8) and found.surface.kind == "cylinder"
    params = {"form": "cylinder", "axis": {"id": "r"}, "as_found": True}
    made = run_step("primitive", params, {"axis": load_product(tmp_path)})
    assert volume_of(made, "newstep0") == pytest.approx(np.pi * 36 * (high - low), rel=0.01)
