import { useQuery } from "@tanstack/react-query";
import { Button, Segmented, Select } from "antd";
import { useState } from "react";
import { api, got, type Reading, type ThreadNear } from "../api/client";
import { useBench } from "../job/context";
import { Copyable } from "../ui/Copyable";
import { length, MM_PER } from "../units";
import { bare, inU, type ReadingFacts } from "./facts";

interface Props {
  readings: Reading[];
  facts: Record<string, ReadingFacts>;
}

/** Which standard thread two readings speak for. */
export function ThreadFinder({ readings, facts }: Props) {
  const { job } = useBench();
  const lengths = readings.filter((r) => facts[r.id]?.dimension === "length");
  const [diameter, setDiameter] = useState<string | null>(null);
  const [pitch, setPitch] = useState<string | null>(lengths.find((r) => r.measures === "span")?.id ?? null);
  const [inside, setInside] = useState(false);
  const { data = [] } = useQuery({
    queryKey: ["threads", job.id, job.revision, diameter, pitch, inside],
    enabled: diameter !== null && pitch !== null,
    queryFn: () =>
      got(
        api.POST("/api/jobs/{job_id}/threads", {
          params: { path: { job_id: job.id } },
          body: { diameter: diameter!, pitch: pitch!, inside },
        }),
      ),
  });
  const options = lengths.map((r) => ({ value: r.id, label: r.name }));
  return (
    <section className="desk-part" aria-label="Thread">
      <div className="desk-part-head">
        <h2>Which thread is it?</h2>
      </div>
      <div className="value-line thread-ask">
        <Segmented
          size="small"
          value={inside ? "nut" : "bolt"}
          options={["bolt", "nut"]}
          onChange={(v) => setInside(v === "nut")}
        />
        <Select
          size="small"
          aria-label="Diameter of the thread"
          placeholder={inside ? "hole between the crests" : "diameter over the crests"}
          value={diameter}
          options={options}
          onChange={setDiameter}
        />
        <Select
          size="small"
          aria-label="Pitch of the thread"
          placeholder="pitch, or a span over gaps"
          value={pitch}
          options={options}
          onChange={setPitch}
        />
      </div>
      {data.length > 0 && <ThreadRows found={data} measuredPitch={facts[pitch!]?.each} />}
    </section>
  );
}

function ThreadRows({ found, measuredPitch }: { found: ThreadNear[]; measuredPitch: number | undefined }) {
  const { job, unit, edit } = useBench();
  const take = async (t: ThreadNear) => {
    const taken = new Set([...(job.recipe.values ?? []), ...job.recipe.evidence].map((x) => x.name));
    const put = (base: string, mm: number) => {
      const name = taken.has(base) ? `${base}_std` : base;
      const value = { text: `${Number(mm.toFixed(4))} mm`, mark: "standard" as const, note: t.designation };
      return edit({ op: "set-value", id: crypto.randomUUID(), name, dimension: "length", value, note: t.designation });
    };
    if (await put("thread_d", t.major)) await put("thread_pitch", t.pitch);
  };
  return (
    <Copyable name="threads">
      <table className="thread-rows figures">
        <thead>
          <tr>
            <th>thread</th>
            <th>major, {unit}</th>
            <th>pitch, {unit}</th>
            <th>diameter off</th>
            <th>pitch off</th>
            <th>tap drill</th>
            <th>clearance, {unit}</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {found.slice(0, 4).map((t, k) => (
            <tr key={t.designation} className={k === 0 ? "first" : ""}>
              <td>
                <b>{t.designation}</b>
              </td>
              <td>{bare(t.major, unit)}</td>
              <td title={t.series.startsWith("ISO") ? "" : `${(MM_PER.inch / t.pitch).toFixed(1)} per inch`}>
                {bare(t.pitch, unit)}
              </td>
              <td>{length(t.difference, unit)}</td>
              <td className={inU(t.pitch_away).far ? "above" : "below"}>
                {inU(t.pitch_away).text}
                {inU(t.pitch_away).far ? " ▲" : ""}
              </td>
              <td>{t.tap_drill}</td>
              <td>{t.clearance.map((c) => bare(c, unit, -1)).join(" · ") || "–"}</td>
              <td>
                <Button size="small" onClick={() => void take(t)}>
                  Take it
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
        <caption>
          Measured pitch {measuredPitch === undefined ? "–" : length(measuredPitch, unit, 1)}. A bolt is cut below its
          nominal diameter and wears at the crests; its pitch decides.
        </caption>
      </table>
    </Copyable>
  );
}
