import { useMemo } from "react";
import { type BufferGeometry, type Mesh, Vector3 } from "three";
import type { Vec3 } from "../api/build";
import { cutTriangles, movedAlong } from "../section/plane";
import type { Palette } from "../theme";
import { FatLines } from "../view/FatLines";
import { stage } from "../view/stage";

/** Where triangles are cut by a plane, all in the frame of their vertices: pairs of points, xyz xyz …, mm. */
export function cutOfGeometry(geometry: BufferGeometry, at: Vec3, normal: Vec3): Float32Array {
  const p = geometry.getAttribute("position");
  return p && geometry.index ? cutTriangles(p.array, geometry.index.array, at, normal) : new Float32Array();
}

/** Where a mesh on the stage is cut by a plane in the world: pairs of points, xyz xyz …, mm. */
export function cutOfMesh(mesh: Mesh, at: Vec3, normal: Vec3): Float32Array {
  mesh.updateWorldMatrix(true, false);
  const shift = mesh.getWorldPosition(new Vector3()).toArray() as Vec3;
  const cut = cutOfGeometry(mesh.geometry, movedAlong(at, shift, -1), normal);
  for (let i = 0; i < cut.length; i++) cut[i]! += shift[i % 3]!;
  return cut;
}

interface Props {
  at: Vec3;
  normal: Vec3;
  palette: Palette;
  /** Changes whenever other meshes stand on the stage. */
  of: string;
}

/** The line in which the scan is cut; it has no inside that could be hatched. */
export function ScanCut({ at, normal, palette, of }: Props) {
  // biome-ignore lint/correctness/useExhaustiveDependencies: the scan on the stage follows `of`
  const lines = useMemo(
    () => (stage.scan?.visible ? cutOfMesh(stage.scan, at, normal) : new Float32Array()),
    [at, normal, of],
  );
  return <FatLines segments={lines} colour={palette.below} width={2} />;
}
