"""Practice scans: the virtual scanner run on a truth model, a body of a job or a STEP file."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import Field, TypeAdapter

from contour.check.exact_solid import ExactSolid, load_exact
from contour.exchange.ply_out import write_ply
from contour.exchange.scanfile import read_scan
from contour.job.build.store import Store
from contour.mesh.health import inspect_scan
from contour.recipe.problem import ContourError, Where
from contour.recipe.strict import Strict
from contour.recipe.values import Blob
from contour.simulate.scanner import Pose, ScanSettings, Wear, require_settings, turntable, virtual_scan

__all__ = ["PracticeScan", "ScannedBody", "ScannedFile", "ScannedSolid", "WornZone", "practice_scan", "solid_of"]

Point3 = tuple[float, float, float]


class ScannedBody(Strict):
    """A body of the job, by its product's key."""

    kind: Literal["body"]
    key: str = Field(pattern=r"^[0-9a-f]{40}(b\d+)?$")
    name: str = Field(default="part", max_length=120)


class ScannedFile(Strict):
    """A STEP file."""

    kind: Literal["step"]
    key: Blob
    name: str = Field(default="part", max_length=120)


ScannedSolid = Annotated[ScannedBody | ScannedFile, Field(discriminator="kind")]
_SOLID: TypeAdapter[ScannedBody | ScannedFile] = TypeAdapter(ScannedSolid)


class WornZone(Strict):
    centre: Point3
    radius: float = Field(gt=0, le=1000, description="mm")
    depth: float = Field(ge=-10, le=10, description="mm inwards in the middle")


class PracticeScan(Strict):
    """Settings of the virtual scanner. Lengths in mm, angles in degrees."""

    spacing: float = Field(default=0.9, gt=0.02, le=20, description="facet side, mm")
    noise: float = Field(default=0.03, ge=0, le=1, description="sigma along the normal, mm")
    soften: int = Field(
        default=2, ge=0, le=50, description="smoothing rounds; each takes some half a facet side off edges"
    )
    table_steps: int = Field(default=6, ge=0, le=60, description="turns of the table; 0: only the directions listed")
    elevations: list[float] = Field(default=[35.0, -25.0], max_length=6, description="degrees above the table")
    views: list[Point3] = Field(default=[], max_length=40, description="more directions; none at all sees everything")
    deep: float = Field(default=0.12, ge=0, lt=1, description="lost: what sees less than this share of the sky")
    worn: list[WornZone] = Field(default=[], max_length=20)
    turn: Point3 = Field(default=(0.0, 0.0, 0.0), description="how the part lies, degrees about x, y, z")
    shift: Point3 = Field(default=(0.0, 0.0, 0.0), description="mm")
    seed: int = Field(default=1, ge=0, le=2**31 - 1)

    def settings(self) -> ScanSettings:
        views = (*self.views, *(turntable(self.table_steps, tuple(self.elevations)) if self.table_steps else ()))
        return ScanSettings(
            spacing_mm=self.spacing,
            noise_mm=self.noise,
            soften=self.soften,
            views=views,
            deep=self.deep,
            worn=tuple(Wear(w.centre, w.radius, w.depth) for w in self.worn),
            pose=Pose(self.turn, self.shift),
            seed=self.seed,
        )


def solid_of(solid: ScannedBody | ScannedFile, store: Store) -> ExactSolid:
    """Raises ContourError (not-found, file-not-understood)."""
    if solid.kind == "step":
        # Only a child needs the kernel; the web process imports this module for its models.
        from contour.check.exact_arrays import exact_arrays
        from contour.solid.from_file import read_shape_file

        return exact_arrays(read_shape_file(store.whole_blob(solid.key, name=solid.name)))
    place = store.folder(solid.key) / "exact.npz"
    if not place.exists():
        raise ContourError(
            "not-found",
            "this body is not built",
            got="no body in the store",
            need="a body that is built",
            where=Where(param="solid"),
            remedy="wait a moment, then try again",
        )
    return load_exact(place)


def practice_scan(payload: dict[str, Any], store: Store, report: Callable[[str], None]) -> dict[str, Any]:
    """payload: solid, settings, out. Writes a PLY to `out`, keeps it and its labels as blobs; facts as an upload has them."""
    solid = _SOLID.validate_python(payload["solid"])
    wanted = PracticeScan.model_validate(payload["settings"])
    exact = solid_of(solid, store)
    settings = wanted.settings()
    require_settings(settings, exact)
    report("scanning, facet by facet")
    made = virtual_scan(exact, settings)
    if len(made.facets) == 0:
        raise ContourError(
            "no-facets",
            "the scanner saw nothing",
            got="0 facets",
            need="a view with some of the part in it",
            where=Where(param="views"),
            remedy="look from more directions",
        )
    out = Path(payload["out"])
    write_ply(out, [(solid.name, made.vertices, made.facets)])
    report("looking it over")
    facts = inspect_scan(read_scan(out, name="scan.ply"), 1.0).as_json()
    labels = store.put_blob(made.true_face.astype("<i4").tobytes())
    blob = store.put_blob(out.read_bytes())
    return {
        "name": f"{solid.name}, practice scan.ply",
        "blob": blob,
        "labels": labels,
        "facts": facts,
        "facets": len(made.facets),
        "faces_seen": len(np.unique(made.true_face)),
        "faces": len(exact.face_kind),
    }
