import type { Desk } from "../api/client";
import { useBench } from "../job/context";
import { Copyable } from "../ui/Copyable";
import { Stamp } from "../ui/Stamp";
import { length } from "../units";
import { bare } from "./facts";

type Size = Desk["sizes"][number];
const ORDER = ["drawing", "caliper", "photo", "scan"] as const;

function verdict(size: Size): { text: string; far: boolean } {
  if (size.out_of_tolerance.length > 0)
    return { text: `▲ ${size.out_of_tolerance.join(", ")} outside the drawing's tolerance`, far: true };
  if (size.apart === null) return { text: "", far: false };
  const who = (size.between ?? []).join(" and ");
  return size.agree
    ? { text: `agree (${size.apart.toFixed(1)} u)`, far: false }
    : { text: `▲ ${who} are ${size.apart.toFixed(1)} u apart`, far: true };
}

/** Sizes that several sources tell, a row each: drawing, caliper, photo and scan side by side. */
export function SizesBeside({ desk }: { desk: Desk | undefined }) {
  const { unit } = useBench();
  if (!desk || desk.sizes.length === 0) return null;
  return (
    <section className="desk-part" aria-label="Sizes by source">
      <h2>One size, several sources</h2>
      <p className="quiet small">In brackets: less what the drawing states, {unit}.</p>
      <Copyable name="sizes by source">
        <table className="thread-rows sizes">
          <thead>
            <tr>
              {ORDER.map((s) => (
                <th key={s}>
                  <Stamp mark={s} /> {s}
                </th>
              ))}
              <th>Do they agree?</th>
            </tr>
          </thead>
          <tbody>
            {desk.sizes.map((size) => {
              const stated = size.figures.find((f) => f.source === "drawing");
              const { text, far } = verdict(size);
              return (
                <tr key={size.figures.map((f) => f.name).join()}>
                  {ORDER.map((source) => (
                    <td key={source} className="figures">
                      {size.figures
                        .filter((f) => f.source === source)
                        .map((f) => (
                          <div key={f.name}>
                            <b>{length(f.value, unit, source === "drawing" ? 0 : 1)}</b>{" "}
                            <span className="quiet">
                              ± {bare(f.tolerance ?? 2 * (f.u ?? 0), unit, f.tolerance ? 0 : 1)}
                            </span>
                            <div className="quiet small">
                              {f.name}
                              {stated && f !== stated && (
                                <span title="less the drawing"> ({bare(f.value - stated.value, unit, 1)})</span>
                              )}
                            </div>
                          </div>
                        ))}
                    </td>
                  ))}
                  <td className={far ? "above" : "quiet"}>{text}</td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </Copyable>
    </section>
  );
}
