import { Button } from "antd";
import { type FactsOf, factsOf } from "../api/facts";
import { useBench } from "../job/context";
import { ProblemNote } from "../ui/ProblemNote";
import { length, share } from "../units";
import { usePassing } from "./passing";
import { type AlignRole, useAlignPicking } from "./useAlignPicking";

interface Props {
  params: Record<string, unknown>;
  /** Facts of the step as it is built; a preview's come first. */
  facts: FactsOf<"align"> | null;
  onChange: (part: Record<string, unknown>) => void;
}

const ROLES: { role: AlignRole; label: string; most: number; help: string }[] = [
  { role: "primary", label: "Primary", most: 1, help: "a plane, or a hole" },
  { role: "secondary", label: "Secondary direction", most: 2, help: "a plane, a hole, or two holes" },
  { role: "also", label: "Also for the origin", most: 3, help: "more planes or bores that meet there" },
];

/** The surfaces an alignment rests on, picked on the scan, and what the scan does not agree to. */
export function AlignPicks({ params, facts, onChange }: Props) {
  const laid = usePassing((s) => s.laid);
  const said = factsOf(laid?.facts, "align") ?? facts;
  const { list, put, waiting, ask } = useAlignPicking(params, onChange);
  if (params.by !== "datum" && params.by !== undefined) return <AlignFacts said={said} />;
  return (
    <div className="align-picks">
      {ROLES.map(({ role, label, most, help }) => (
        <div key={role}>
          <div className="field-label">{label}</div>
          {list(role).map((p, i) => (
            <div className="value-line" key={p.seeds.join()}>
              <span className="face-said">{p.surface === "cylinder" ? "hole or outside cylinder" : p.surface}</span>
              <Button
                size="small"
                type="text"
                onClick={() =>
                  put(
                    role,
                    list(role).filter((_, k) => k !== i),
                  )
                }
              >
                Take out
              </Button>
            </div>
          ))}
          {list(role).length < most && (
            <div className="value-line">
              <span className="quiet small">{help}</span>
              <Button size="small" type={waiting(role) ? "primary" : "default"} onClick={() => ask(role, most)}>
                Pick
              </Button>
            </div>
          )}
        </div>
      ))}
      <AlignFacts said={said} />
    </div>
  );
}

/** How well the scan agrees with the placement, by whatever way it was found. */
function AlignFacts({ said: f }: { said: FactsOf<"align"> | null }) {
  const { unit } = useBench();
  const { looking, refused } = usePassing();
  const rows: [string, string, string][] = [];
  if (f?.tilt != null)
    rows.push(
      [
        "left-over tilt",
        `${f.tilt.toFixed(3)}°`,
        "How far the other surfaces are from square or parallel to the primary (largest)",
      ],
      ["left-over offset", length(f.offset ?? 0, unit, 1), "How far the picked surfaces miss the origin"],
    );
  if (f?.near != null)
    rows.push(
      ["has a counterpart", share(f.near), "Share of the scan with something near its mirror image"],
      ["agrees closely", share(f.agree ?? 0), "Share whose mirror image lies on the scan; wear makes it less"],
    );
  if (f?.rms_fit != null)
    rows.push(
      ["rms against the solid", length(f.rms_fit, unit, 1), "Of what rests on the solid"],
      ["95 % within", length(f.p95 ?? 0, unit, 1), "Of all of the scan"],
      ["rests on the solid", share(f.share ?? 0), "Share of the scan that the placement is held by"],
    );
  return (
    <>
      {looking && (
        <p className="quiet small" role="status">
          finding its place …
        </p>
      )}
      {refused && !looking && <ProblemNote problem={refused} />}
      {rows.length > 0 && (
        <dl className="fact-list">
          {rows.map(([name, value, help]) => (
            <div key={name}>
              <dt title={help}>{name}</dt>
              <dd>{value}</dd>
            </div>
          ))}
        </dl>
      )}
    </>
  );
}
