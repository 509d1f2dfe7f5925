import { useThree } from "@react-three/fiber";
import { useEffect, useMemo, useRef } from "react";
import { BufferAttribute, DoubleSide, FrontSide, Matrix4, type Mesh, WireframeGeometry } from "three";
import { useClipPlanes } from "../clip/clip";
import { darkBacks } from "../clip/inside";
import type { Palette } from "../theme";
import { isCoarse } from "./coarse";
import type { ScanGeometry } from "./geometry";
import { showsItsOutside } from "./outside";
import { reducedOf, shownColours } from "./reduced";
import { stage } from "./stage";
import { useFollowingView } from "./useFollowingView";
import { useGeometry } from "./useGeometry";

interface Props {
  url: string;
  palette: Palette;
  opacity: number;
  edges: boolean;
  colours: Uint8Array<ArrayBuffer> | null;
  onReady: (scan: ScanGeometry) => void;
  /** Only to be seen: picks pass through it. */
  ghost?: boolean;
  /** Where it is shown instead of where it lies, 4x4: an alignment that is being prepared. */
  laid?: number[][] | null;
}

/** The scan, shaded or coloured by deviation; the mesh that picks go to. */
export function ScanMesh({ url, palette, opacity, edges, colours, onReady, ghost = false, laid = null }: Props) {
  const { geometry: scan } = useGeometry<ScanGeometry>(url, "scan");
  const mesh = useRef<Mesh>(null);
  const invalidate = useThree((s) => s.invalidate);
  useEffect(() => {
    if (scan) onReady(scan);
  }, [scan, onReady]);
  useEffect(() => {
    if (ghost) return undefined;
    stage.scan = mesh.current;
    return () => {
      stage.scan = null;
    };
  });
  const matrix = useMemo(() => {
    if (!scan) return null;
    const [x, y, z] = scan.origin;
    const m = laid ? new Matrix4().fromArray(laid.flat()).transpose() : new Matrix4();
    return m.multiply(new Matrix4().makeTranslation(x, y, z));
  }, [scan, laid]);
  const box = useMemo(() => {
    const own = ghost ? null : scan?.surface.boundingBox;
    return own && matrix ? own.clone().applyMatrix4(matrix) : null;
  }, [ghost, scan, matrix]);
  useFollowingView(box);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new matrix is a new picture
  useEffect(() => invalidate(), [matrix, invalidate]);
  // The geometry lives outside React. Its colours are there before the material that shows them is made.
  const coloured = useMemo(() => {
    if (!scan) return false;
    const reduced = reducedOf(scan.surface);
    const shown = colours && reduced ? shownColours(reduced, colours) : colours;
    const fits = shown !== null && shown.length === scan.surface.getAttribute("position").count * 3;
    if (fits) scan.surface.setAttribute("color", new BufferAttribute(shown, 3, true));
    else scan.surface.deleteAttribute("color");
    return fits;
  }, [scan, colours]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: other colours are another picture
  useEffect(() => invalidate(), [coloured, colours, invalidate]);
  const planes = useClipPlanes();
  // Seen through, both sides take two drawings of all of it: what goes all round shows as much by one.
  const outside = useMemo(() => scan !== null && showsItsOutside(scan.surface), [scan]);
  const wire = useMemo(() => (scan && edges ? new WireframeGeometry(scan.surface) : null), [scan, edges]);
  useEffect(() => () => wire?.dispose(), [wire]);
  if (!scan) return null;
  const solid = opacity > 0.995;
  return (
    <group matrix={matrix ?? undefined} matrixAutoUpdate={false}>
      <mesh ref={mesh} geometry={scan.surface} visible={opacity > 0.01} renderOrder={solid ? 0 : 2}>
        <meshLambertMaterial
          key={`${coloured}`}
          flatShading={isCoarse(scan.surface)}
          color={coloured ? "#ffffff" : palette.scan}
          vertexColors={coloured}
          transparent={!solid}
          opacity={opacity}
          depthWrite={solid}
          side={!solid && outside && planes.length === 0 ? FrontSide : DoubleSide}
          clippingPlanes={planes}
          onBeforeCompile={darkBacks}
        />
      </mesh>
      {wire && (
        <lineSegments geometry={wire} visible={opacity > 0.01}>
          <lineBasicMaterial color={palette.ink} transparent opacity={0.22} clippingPlanes={planes} />
        </lineSegments>
      )}
    </group>
  );
}
