import { Button } from "antd";
import type { StepFacts, StepState } from "../api/build";
import type { Step } from "../api/client";
import { factsOf } from "../api/facts";
import { useKinds } from "../api/kinds";
import { useBench } from "../job/context";
import { plainParams } from "../pick/starts";
import { useBegin } from "../sheets/useBegin";
import { Copyable } from "../ui/Copyable";
import { length, type Unit } from "../units";
import { formulaNameOf } from "../values/naming";
import type { KindView, PartProps } from "./kindView";
import { PickedFacets } from "./PickedFacets";
import { some } from "./rows";

type Picked = { blob: string; count: number } | null | undefined;
const FAR_U = 3;

/** The facets of the wall, and the standard threads near what was measured, to take one. */
function Below({ params, state, onChange }: PartProps) {
  const { unit } = useBench();
  const facts = factsOf(state?.facts, "thread");
  return (
    <>
      <PickedFacets value={(params.picked as Picked) ?? null} onChange={(picked) => onChange({ picked })} />
      {facts && (
        <Copyable name="threads">
          <table className="threads-near figures">
            <thead>
              <tr>
                <th>standard</th>
                <th>Ø off, {unit}</th>
                <th>pitch off, {unit}</th>
                <th>in u</th>
                <th />
              </tr>
            </thead>
            <tbody>
              {facts.near.map((t) => (
                <tr key={t.designation}>
                  <td>
                    <b>{t.designation}</b>
                  </td>
                  <td>{length(t.major_off, unit).replace(` ${unit}`, "")}</td>
                  <td>{length(t.pitch_off, unit, 1).replace(` ${unit}`, "")}</td>
                  <td className={t.difference_u > FAR_U ? "above" : ""}>
                    {t.difference_u.toFixed(1)}
                    {t.difference_u > FAR_U && " ▲"}
                  </td>
                  <td>
                    {facts.taken_as === t.designation ? (
                      <Button size="small" onClick={() => onChange({ taken_as: "" })}>
                        Taken
                      </Button>
                    ) : (
                      <Button size="small" onClick={() => onChange({ taken_as: t.designation })}>
                        Take it
                      </Button>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </Copyable>
      )}
    </>
  );
}

function rows(facts: StepFacts, unit: Unit) {
  const f = factsOf(facts, "thread");
  if (!f) return [];
  const around = (mm: number, u: number, digits: number) =>
    `${length(mm, unit, digits)} ± ${length(2 * u, unit, digits)}`;
  return some(
    ["Measured major Ø", around(f.measured_major, f.u_diameter, 0)],
    ["Measured minor Ø", around(f.measured_minor, f.u_diameter, 0)],
    ["Measured pitch", around(f.measured_pitch, f.u_pitch, 1)],
    f.taken_as !== "" && ["Taken as", `${f.taken_as}: Ø ${length(f.major, unit)} × ${length(f.pitch, unit, 1)}`],
    ["Hand", `${f.hand}${f.starts > 1 ? `, ${f.starts} starts` : ""}`],
    ["Length seen", length(f.length, unit)],
    ["Depth seen", `${(100 * f.depth).toFixed(0)} % of the basic profile`],
    ["rms", length(f.rms, unit, 1)],
  );
}

/** What it is taken as, or what was measured. */
function Word({ state }: { state: StepState }) {
  const { unit } = useBench();
  const facts = factsOf(state.facts, "thread");
  if (!facts) return null;
  return (
    <>{facts.taken_as || `Ø ${length(facts.major, unit).replace(` ${unit}`, "")} × ${length(facts.pitch, unit, 1)}`}</>
  );
}

/** The same thread on a body: as the standard one it is taken as, else by what was measured, which it then follows. */
function Actions({ step, state }: { step: Step; state: StepState }) {
  const kinds = useKinds();
  const begin = useBegin();
  const facts = factsOf(state.facts, "thread");
  if (!facts) return null;
  const own = formulaNameOf(step.name);
  const make = () =>
    begin(kinds.threaded, {
      ...plainParams(kinds.threaded?.fields ?? []),
      size: facts.taken_as ? "standard" : "typed",
      thread: facts.taken_as,
      major: { text: `${own}.major`, mark: "scan" },
      pitch: { text: `${own}.pitch`, mark: "scan" },
      hand: facts.hand,
      starts: { text: String(facts.starts), mark: "scan" },
    });
  return <Button onClick={make}>Make this thread on a body</Button>;
}

export const view: KindView = {
  Below,
  rows,
  Word,
  Actions,
  wordAlone: true,
  wide: true,
  waits: (params) => !params.picked,
};
