import { useEffect, useMemo } from "react";
import { Plane, Vector3 } from "three";
import { cutOfMesh } from "../clip/CutLines";
import { useClip } from "../clip/clip";
import { LengthHandle } from "../handles/LengthHandle";
import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import type { Palette } from "../theme";
import { typed } from "../units";
import { unpackF4 } from "../view/buffers";
import { FatLines } from "../view/FatLines";
import { PlaceShapes } from "../view/PlaceShapes";
import { polylineSegments } from "../view/paths";
import { stage } from "../view/stage";
import { useShownBodies } from "../view/useShownBodies";
import type { SectionDraft } from "./draft";
import { frameOf, movedAlong, turned } from "./plane";
import { useSeveral } from "./useSection";

interface Props {
  draft: SectionDraft;
  /** mm; not a number while a formula is typed that only the server knows. */
  offset: number;
  size: number;
  palette: Palette;
  /** The scan's cut: pairs of points. */
  cut: Float32Array;
}

function joined(parts: Float32Array[]): Float32Array {
  const out = new Float32Array(parts.reduce((n, a) => n + a.length, 0));
  let at = 0;
  for (const a of parts) {
    out.set(a, at);
    at += a.length;
  }
  return out;
}

/** The section plane with what moves and turns it, its cuts through bodies, other planes, and the view opened at it. */
export function SectionInView({ draft, offset, size, palette, cut }: Props) {
  const { unit } = useBench();
  const recut = useTool((s) => s.recut);
  const bodies = useShownBodies();
  const several = useSeveral();
  const t = useMemo(() => turned(draft.normal, draft.turnU, draft.turnV), [draft.normal, draft.turnU, draft.turnV]);
  const known = Number.isFinite(offset);
  const at = useMemo(() => movedAlong(draft.origin, t.normal, known ? offset : 0), [draft.origin, t, offset, known]);
  const section = draft.source === "section";

  useEffect(() => {
    if (!draft.clip || !section || !known) return undefined;
    // A hair in front of the plane, so that the cut itself is seen.
    const n = new Vector3(...t.normal);
    const { pass } = useClip.getState();
    pass(new Plane(n.clone().negate(), n.dot(new Vector3(...at)) + size * 4e-4));
    return () => pass(null);
  }, [draft.clip, section, known, t, at, size]);

  // biome-ignore lint/correctness/useExhaustiveDependencies: the bodies on the stage follow the list
  const ofBodies = useMemo(() => {
    if (!section) return new Float32Array();
    return joined([...stage.bodies.values()].map((b) => cutOfMesh(b.mesh, at, t.normal)));
  }, [section, at, t, bodies]);
  const others = useMemo(
    () => joined(several.flatMap((p) => p.cuts.map((c) => polylineSegments(unpackF4(c.points), c.closed)))),
    [several],
  );
  const knob = size * 0.3;
  const rad = Math.PI / 180;
  const frame = useMemo(() => frameOf(cut, at, t.u, t.v), [cut, at, t]);
  const plane = {
    id: "section",
    name: "",
    shape: section || draft.source === "silhouette" ? ("plane" as const) : ("axis" as const),
    origin: section && frame ? frame.middle : at,
    direction: t.normal,
    reach: section && frame ? frame.reach : size * 0.36,
    passing: true,
  };
  return (
    <group>
      <PlaceShapes places={[plane]} measures={[]} curves={[]} chosen={null} size={size} palette={palette} />
      {ofBodies.length > 0 && <FatLines segments={ofBodies} colour={palette.plum} width={2} />}
      {others.length > 0 && <FatLines segments={others} colour={palette.ink} width={1} opacity={0.7} />}
      {known && draft.source !== "radial" && (
        <LengthHandle
          origin={draft.origin}
          direction={t.normal}
          at={offset}
          colour={palette.active}
          onDrag={(mm) => recut({ offset: typed(Math.round(mm * 20) / 20, unit) })}
          onRelease={() => undefined}
        />
      )}
      {known && section && (
        <>
          <LengthHandle
            origin={movedAlong(movedAlong(draft.origin, t.v, knob), draft.normal, offset)}
            direction={draft.normal}
            at={knob * Math.sin(draft.turnU * rad)}
            colour={palette.plum}
            onDrag={(mm) => recut({ turnU: angle(mm, knob) })}
            onRelease={() => undefined}
          />
          <LengthHandle
            origin={movedAlong(movedAlong(draft.origin, t.u, knob), draft.normal, offset)}
            direction={draft.normal}
            at={-knob * Math.sin(draft.turnV * rad)}
            colour={palette.plum}
            onDrag={(mm) => recut({ turnV: angle(-mm, knob) })}
            onRelease={() => undefined}
          />
        </>
      )}
    </group>
  );
}

/** Half degrees, by how far a knob was pulled along the normal. */
const angle = (mm: number, arm: number): number =>
  Math.round((2 * Math.asin(Math.max(-1, Math.min(1, mm / arm))) * 180) / Math.PI) / 2;
