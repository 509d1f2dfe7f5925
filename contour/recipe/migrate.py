"""Recipes of earlier schema versions, lifted one version at a time."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from contour.recipe.outline_steps import sketch_of_outline
from contour.recipe.reference.aliases import profile_of_first

__all__ = ["SCHEMA_VERSION", "lifted"]

SCHEMA_VERSION = 9


def _lift_1(document: dict[str, Any]) -> dict[str, Any]:
    """Version 2 lets a step change several bodies."""
    for step in document.get("steps", []):
        params = step.get("params", {})
        if step.get("kind") == "extrude" and "bodies" not in params:
            body = params.pop("body", None)
            params["bodies"] = [] if body is None else [body]
    return {**document, "schema_version": 2}


def _lift_2(document: dict[str, Any]) -> dict[str, Any]:
    """Version 3 says more of a scan (role, zone, what to leave); what is not said has its usual meaning."""
    return {**document, "schema_version": 3}


def _lift_3(document: dict[str, Any]) -> dict[str, Any]:
    """Version 4 knows instruments and sessions, and more of readings; takes without them mean what they meant."""
    return {**document, "schema_version": 4}


def _lift_4(document: dict[str, Any]) -> dict[str, Any]:
    """Version 5 knows round sides of outlines and readings of one size; what is not said has its usual meaning."""
    return {**document, "schema_version": 5}


def _lift_5(document: dict[str, Any]) -> dict[str, Any]:
    """Version 6 names profiles for good: each is called by the entity that was its lowest, and keeps that name without it."""
    for step in document.get("steps", []):
        if step.get("kind") != "outline" or not isinstance(step.get("params"), dict):
            continue
        for loop in step["params"].get("loops") or []:
            pieces = loop.get("pieces", []) if isinstance(loop, dict) else []
            ids = [str(p.get("id")) for p in pieces if p.get("taken", True)] or [str(p.get("id")) for p in pieces]
            if ids and not loop.get("name"):
                loop["name"] = profile_of_first(min(ids, key=lambda i: (len(i), i)))
    return {**document, "schema_version": 6}


def _lift_6(document: dict[str, Any]) -> dict[str, Any]:
    """Version 7 knows sets of chosen parts; there were none before."""
    return {**document, "schema_version": 7}


def _lift_7(document: dict[str, Any]) -> dict[str, Any]:
    """Version 8 lets sets hold facets, whole bodies and evidence; those that were there hold none."""
    return {**document, "schema_version": 8}


def _lift_8(document: dict[str, Any]) -> dict[str, Any]:
    """Version 9 draws what was taken of a scan: an outline is a sketch like any other."""
    for step in document.get("steps", []):
        if step.get("kind") == "outline" and isinstance(step.get("params"), dict):
            try:
                step["params"] = sketch_of_outline(step["params"])
            except (ArithmeticError, AttributeError, LookupError, TypeError, ValueError):
                continue  # written by hand, and never right: the step says that its kind is not known
            step["kind"] = "sketch"
    return {**document, "schema_version": 9}


# version -> function that lifts a document of that version to the next one
_MIGRATIONS: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {
    1: _lift_1,
    2: _lift_2,
    3: _lift_3,
    4: _lift_4,
    5: _lift_5,
    6: _lift_6,
    7: _lift_7,
    8: _lift_8,
}


def lifted(document: dict[str, Any]) -> dict[str, Any]:
    """The document as this version writes it, or as far as its own version is known."""
    while isinstance(version := document.get("schema_version"), int) and version in _MIGRATIONS:
        document = _MIGRATIONS[version](document)
    return document
