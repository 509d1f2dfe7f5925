import type { MeshFileFacts } from "../../api/client";
import { area, count, length, MM_PER, type Unit, volume, workedOut } from "../../units";

/** A scan's facts in the job's unit; they are kept in file units. */
export function factsInUnit(facts: MeshFileFacts, fileUnit: Unit, unit: Unit): [string, string][] {
  const k = MM_PER[fileUnit];
  return [
    ["Facets", count(facts.facets)],
    ["Size", `${facts.size.map((s) => length(s * k, unit).replace(` ${unit}`, "")).join(" × ")} ${unit}`],
    ["Area", area(facts.area * k * k, unit)],
    ["Volume", facts.volume === null ? "not closed" : volume(facts.volume * k ** 3, unit)],
    ["Open edges", count(facts.open_edges)],
    facts.made === "modelled"
      ? ["Vertices exact to", workedOut(facts.noise * k, unit)]
      : ["Noise (σ)", length(facts.noise * k, unit, 1)],
  ];
}
