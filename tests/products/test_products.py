"""Every kind of product comes back from its folder as it went in, says its place, and brings no kernel with it."""

from __future__ import annotations

import subprocess
import sys
from dataclasses import fields

import numpy as np
import pytest

from contour.construct.place import Place
from contour.construct.space_curve import SpaceSpline
from contour.geometry.curves import Line, Oval
from contour.geometry.surfaces import Surface
from contour.present.places import place_of_product
from contour.products import PRODUCTS, Extras, load_product, product_kind, save_product
from contour.products.buffers import read_view
from contour.products.curve import CurveProduct
from contour.products.intent import AgreedRow, IntentProduct
from contour.products.measurement import MeasurementFacts, MeasurementProduct
from contour.products.region import RegionProduct
from contour.products.scan import ScanProduct
from contour.products.solid import SolidProduct, SourceBody
from contour.recipe.problem import ContourError
from contour.recipe.reference import REFERENCES
from contour.sketch.entities import Entity
from contour.steps import KINDS
from tests.steps.helpers import body, sketch


@pytest.fixture(params=sorted(PRODUCTS))
def product(request, block_scan, drilled_block):
    tube = Surface("cylinder", (1.0, 2.0, 3.0), (0.0, 0.0, 1.0), 6.0, -1)
    some = np.array([3, 5, 9])
    return {
        "scan": ScanProduct(block_scan),
        "region": RegionProduct(some, tube, 0.01, (1.0, 2.0, 5.0), 7.0, {"radius": 0.003}, some[:1], some[1:], 0.2),
        "sketch": sketch(
            [Entity("e1", "line", (0.0, 0.0), (4.0, 0.0)), Entity("e2", "arc", (4.0, 0.0), (0.0, 0.0), (2.0, 2.0))]
        ),
        "body": body(drilled_block),
        "solid": SolidProduct(
            (SourceBody("Plate", "#123456", b"brep", (0, 4, 2), True),), "step", 25.4, True, (4.0, 3.0, 1.0)
        ),
        "measurement": MeasurementProduct(MeasurementFacts(measured="length", said="of the edge", length=4.0)),
        "intent": IntentProduct(
            (AgreedRow(kind="equal-size", regions=("a", "b"), text="equal", measured=6.0, u=0.01, cost=1.5),)
        ),
        "curve": CurveProduct(
            (
                Line((0.0, 0.0, 0.0), (4.0, 0.0, 0.0)),
                Oval((4.0, 2.0, 0.0), (0.0, -1.0, 0.0), (1.0, 0.0, 0.0), 2.0, 2.0, 0.0, 1.5),
                SpaceSpline(
                    (0.0,) * 4 + (1.0,) * 4, ((0.0, 1.0, 2.0), (1.0, 1.0, 2.0), (2.0, 1.0, 3.0), (3.0, 1.0, 3.0))
                ),
            ),
            False,
        ),
        **{s: Place(s, (1.0, 2.0, 3.0), (0.0, 0.6, 0.8), u=0.01, reach=4.0) for s in ("plane", "axis", "point")},
    }[request.param]


def equal(a, b) -> bool:
    if isinstance(a, np.ndarray):
        return np.array_equal(a, b)
    if hasattr(a, "__dataclass_fields__"):
        return type(a) is type(b) and all(equal(getattr(a, f.name), getattr(b, f.name)) for f in fields(a))
    if isinstance(a, tuple):
        return len(a) == len(b) and all(equal(x, y) for x, y in zip(a, b, strict=True))
    return a == b


def test_a_product_comes_back_as_it_went_in(product, tmp_path):
    save_product(product, tmp_path)
    assert product_kind(product).model is type(product)
    assert (tmp_path / product_kind(product).file).exists()
    assert equal(load_product(tmp_path), product)


def test_no_product_is_taken_for_another_kind(product, tmp_path):
    save_product(product, tmp_path)
    found = {k.file for k in PRODUCTS.values() if (tmp_path / k.file).exists()}
    assert found == {product_kind(product).file}


def test_what_stands_beside_a_product_is_for_the_view(product, tmp_path):
    kind = product_kind(product)
    assert (kind.beside is not None) == (kind.id in ("scan", "body"))
    if kind.beside is None:
        return
    save_product(product, tmp_path)
    about = kind.beside(product, tmp_path, Extras())
    arrays, origin = read_view(tmp_path / "view.bin")
    corners = arrays["positions"].reshape(-1, 3) + origin
    assert np.ptp(corners, axis=0) == pytest.approx([40, 30, 10], abs=0.3)
    if kind.id == "body":
        assert about["volume"] == pytest.approx(40 * 30 * 10 - np.pi * 36 * 10) and about["faces"] == 7
        few = kind.beside(product, tmp_path, Extras(view=False, measure=False))
        assert "volume" not in few and few["faces"] == 7


def test_whatever_has_a_place_stands_for_it_and_the_rest_says_so(product):
    kind = product_kind(product)
    serves = any(r.serves(kind.id) for r in REFERENCES.values() if r.id == "place")
    assert (kind.place is not None) == serves
    if kind.place is None:
        with pytest.raises(ContourError, match="no place"):
            place_of_product(product)
    else:
        assert place_of_product(product).shape == {"region": "axis", "sketch": "plane"}.get(kind.id, kind.id)


def test_what_is_no_product_is_refused(tmp_path):
    with pytest.raises(TypeError, match="object"):
        save_product(object(), tmp_path)
    with pytest.raises(FileNotFoundError):
        load_product(tmp_path)


def test_every_kind_of_step_makes_what_can_be_kept():
    assert {k.makes for k in KINDS.values()} <= {*PRODUCTS, "measurement", "intent"}


def test_reading_products_loads_no_kernel():
    code = "import sys, contour.products, contour.steps; sys.exit(any(m.split('.')[0] == 'OCP' for m in sys.modules))"
    assert subprocess.run([sys.executable, "-c", code], check=False).returncode == 0
