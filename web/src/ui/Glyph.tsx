/** Our own small drawings for kinds of steps and regions. */
const PATHS: Record<string, string> = {
  scan: "M2 13 L5 4 L11 3 L14 10 L8 14 Z M5 4 L8 14 M11 3 L8 9 L2 13 M8 9 L14 10",
  region: "M2.5 11.5 L6 4.5 L14 4.5 L10.5 11.5 Z",
  plane: "M2.5 11.5 L6 4.5 L14 4.5 L10.5 11.5 Z",
  cylinder: "M4 4.5 v7 a4 1.8 0 0 0 8 0 v-7 M4 4.5 a4 1.8 0 0 0 8 0 a4 1.8 0 0 0 -8 0",
  cone: "M5.5 3.5 L2.5 12 a5.5 2 0 0 0 11 0 L10.5 3.5 a2.5 1 0 0 0 -5 0 a2.5 1 0 0 0 5 0",
  sphere: "M8 2.5 a5.5 5.5 0 1 0 0.01 0 M2.7 8.6 a5.4 2.2 0 0 0 10.6 0",
  torus: "M8 4.5 a6 3.6 0 1 0 0.01 0 M8 7.2 a2.4 1 0 1 0 0.01 0",
  freeform: "M2 11.5 C4 4 6.5 4 8 8 S12 12 14 4.5",
  thread: "M4.5 2 L11.5 4 L4.5 6 L11.5 8 L4.5 10 L11.5 12 L4.5 14",
  traced: "M2.5 12.5 L5 4.5 L9 6.5 L13.5 3 M2.5 12.5 L12.5 11.5 L13.5 3",
  sketch: "M3 12.5 V6 a3 3 0 0 1 3 -3 h7 M3 12.5 h7 M13 3 v5 M9.5 14 l4 -4",
  extrude: "M2.5 13.5 h8 l3 -2.5 h-8 Z M6 9.5 V2.5 M3.8 4.8 L6 2.5 L8.2 4.8",
  seat: "M2.5 13.5 h11 M4 10.5 h8 V7 h-8 Z M8 2 v3.2 M6.3 3.8 L8 5.4 L9.7 3.8",
  axis: "M2 14 L5.5 10.5 M6.8 9.2 L7.4 8.6 M8.6 7.4 L14 2",
  point: "M8 3 V13 M3 8 H13 M4.8 4.8 L11.2 11.2 M11.2 4.8 L4.8 11.2",
  curve: "M2 12.5 C3.5 5 6.5 4.5 8 8 S12 11.5 14 4 M2 11 v3 M8 6.5 v3 M14 2.5 v3",
  measurement: "M2 5 V11 M14 5 V11 M2 8 H14 M4.2 6.2 L2 8 L4.2 9.8 M11.8 6.2 L14 8 L11.8 9.8",
  intent: "M8 2.5 L13.5 8 L8 13.5 L2.5 8 Z M8 5.6 L10.4 8 L8 10.4 L5.6 8 Z",
  rib: "M3 2.5 V13.5 H14 M3 4.5 L12 13.5 M5.8 7.3 V13.5 M8.8 10.3 V13.5",
  cut: "M3 4.5 h10 v8 H3 Z M1.5 11 L14.5 6",
  align: "M4 12.5 V3 M4 12.5 H14 M2.5 4.8 L4 2.8 L5.5 4.8 M12.2 11 L14.2 12.5 L12.2 14 M4 12.5 L8.5 7.5",
  merge: "M2.5 5 h6 v6 h-6 Z M7 8 h6.5 v5.5 H7 Z",
  mend: "M2 13 L5 4 L11 3 L14 10 L8 14 Z M6 8.5 h4.5 M8.2 6.3 v4.5",
  edge: "M2.5 12 L13.5 4 M2.5 12 L6 14 M13.5 4 L14 8",
  fillet: "M2.5 3.5 H7 a6.5 6.5 0 0 1 6.5 6.5 V13.5 M2.5 3.5 V13.5 H13.5",
  chamfer: "M2.5 3.5 H8 L13.5 9 V13.5 H2.5 Z",
  solid: "M3 5.5 L8 3 L13 5.5 V11 L8 13.5 L3 11 Z M8 5.5 v5 M5.8 8.6 L8 10.8 L10.2 8.6",
  revolve: "M8 1.5 V14.5 M9.5 4 h3 v8 h-3 M5.5 4.5 C2.2 6 2.2 10 5.5 11.5 M3.6 12 L5.6 11.6 L5.2 9.6",
  sweep: "M2.5 10.5 h4 v4 h-4 Z M4.5 10.5 C4.5 5 8 4 13.5 4 M11.6 2.2 L13.6 4 L11.6 5.8",
  coil: "M3 13 C3 10.5 13 11.5 13 9 S3 9 3 6.8 S13 6.8 13 4.4 S8 2.6 5.5 3",
  loft: "M2.5 13.5 h11 l-2 -2 h-7 Z M6 4.5 h4 l-0.8 -1.6 h-2.4 Z M3.5 12 C4.5 9 5.5 7.5 6 4.5 M12.5 12 C11.5 9 10.5 7.5 10 4.5",
  primitive: "M2.5 8.5 h6 v5 h-6 Z M10.8 2.5 a3.4 3.4 0 1 0 0.01 0",
  combine: "M2.5 6 h7 v7 h-7 Z M9.8 9.5 a3.6 3.6 0 1 0 -3.6 -3.6",
  shift: "M3 13.5 V8.5 h10 v5 M3 6 h10 M8 6 V1.8 M6.2 3.6 L8 1.8 L9.8 3.6",
  move: "M2.5 8.5 h5 v5 h-5 Z M9 2.5 h4.5 v4.5 H9 Z M6.5 7 L9.6 4 M7.6 3.6 L9.8 3.8 L9.8 6",
  level: "M2 13.5 h12 M3.5 13.5 V7.5 h3 v6 M9.5 13.5 V7.5 h3 v6 M2 5 h12",
  coaxial: "M8 2.5 a5.5 5.5 0 1 0 0.01 0 M8 5.5 a2.5 2.5 0 1 0 0.01 0 M8 0.5 V15.5",
  repeat: "M2 3 h4 v4 H2 Z M10 3 h4 v4 h-4 Z M2 10 h4 v4 H2 Z M10 10 h4 v4 h-4 Z",
  shell: "M2 3.5 h3 v7.5 h6 V3.5 h3 v10.5 H2 Z",
  thicken: "M2 12.5 C5 7.5 8 6.5 14 6.5 M2 8.5 C5 3.5 8 2.5 14 2.5 M2 12.5 V8.5 M14 6.5 V2.5",
  relief: "M2 11.5 h3 V7.5 h6 v4 h3 M8 5.5 V1.5 M6.4 3.1 L8 1.5 L9.6 3.1",
  full_round: "M4 14 V7.5 a4 4 0 0 1 8 0 V14 M4 3.5 h8",
  face_fillet: "M2.5 2.5 V7 a6.5 6.5 0 0 0 6.5 6.5 H14 M2.5 10.5 L5.5 13.5",
  threaded: "M4.5 2 V14 M11.5 2 V14 M4.5 4 L11.5 2.5 M4.5 7 L11.5 5.5 M4.5 10 L11.5 8.5 M4.5 13 L11.5 11.5",
  draft: "M2 13.5 h12 M4 13.5 L6 3 h4 L12 13.5 M6 3 L6 13.5",
  cavity: "M2 2.5 h12 v11 H2 Z M5 5.5 h6 v5 H5 Z M7 2.5 v3 M9 2.5 v3",
  hole: "M2 4.5 h3.5 v7.5 L8 14 L10.5 12 V4.5 H14 M5.5 4.5 C6.5 3.4 9.5 3.4 10.5 4.5",
  copy: "M2.5 5.5 h7.5 v8 h-7.5 Z M5.5 5.5 V2.5 h8 v8 h-3.5",
  body: "M3 5.5 L8 3 L13 5.5 V11 L8 13.5 L3 11 Z M3 5.5 L8 8 L13 5.5 M8 8 V13.5",
};

const MENDS = [
  "weld",
  "orient",
  "drop",
  "split",
  "patch",
  "fill",
  "smooth",
  "decimate",
  "refine",
  "offset-scan",
  "trim",
];

/** The drawing of a kind of step; all mends share one. */
export const glyphOf = (kind: string): string => (MENDS.includes(kind) ? "mend" : kind);

export function Glyph({ kind }: { kind: string }) {
  return (
    <svg className="glyph" viewBox="0 0 16 16" aria-hidden="true">
      <path d={PATHS[kind] ?? PATHS.body} />
    </svg>
  );
}
