/** Meshes of so few facets that each is seen by itself: smooth light over their sharp edges would smear. No React. */
import type { BufferGeometry } from "three";

const FEW = 30_000;

export const isCoarse = (surface: BufferGeometry): boolean => (surface.index?.count ?? 0) / 3 < FEW;
