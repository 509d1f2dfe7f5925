import { Button } from "antd";
import { useState } from "react";
import { useKinds } from "../api/kinds";
import { plainParams } from "../pick/starts";
import { useOpenExtrude } from "../section/useOpenExtrude";
import { useOpenSection } from "../section/useOpenSection";
import { useTool } from "../sheets/tool";
import { share as percent } from "../units";
import { useAppearance } from "../view/appearance";
import { useBench } from "./context";
import { type Next, whatNext } from "./whatNext";

const FOLDED = "what-comes-next-folded";

/** What comes next, in words, and the button that does it. */
function useSaid(): (next: Next) => { text: string; button: string; run: () => void } {
  const { scanId } = useBench();
  const kinds = useKinds();
  const { open, openDraft, select } = useTool.getState();
  const section = useOpenSection();
  const extrude = useOpenExtrude();
  const draft = (kind: string, more: Record<string, unknown>) => {
    const plain = plainParams((kinds[kind]?.fields ?? []).filter((f) => f.type !== "ref"));
    openDraft({ kind, params: { ...plain, scan: { id: scanId }, ...more } });
  };
  const repeat = ({ axis, body, alike }: Extract<Next, { what: "repeat" }>) => {
    const all = { body: { id: body }, bodies: [{ id: body }], operation: "add", by: "circle", axis: { id: axis } };
    openDraft({ kind: "repeat", params: { ...all, count: { text: String(alike), mark: "scan" } } });
  };
  return (next) => {
    switch (next.what) {
      case "mend":
        return { text: `'${next.name}' does not come out.`, button: "See why", run: () => select(next.step) };
      case "align":
        return { text: "Nothing later is easy on a tilted scan.", button: "Put it on its axes", run: () => draft("align", { primary: null, secondary: [], also: [] }) };
      case "solidify":
        return { text: "This mesh was modelled: every face of it is exact.", button: "Make it a solid", run: () => draft("solidify", {}) };
      case "regions":
        return { text: "Which facets are one plane, one hole, one fillet?", button: "Find the regions", run: () => open("regions") };
      case "section":
        return { text: `A section along '${next.name}' gives the first outline.`, button: "Cut along it", run: () => section.ofStep(next.region) };
      case "across":
        return { text: "One sector stands for all: its outline lies square to the axis.", button: "Cut across it", run: () => section.across(next.axis, next.middle) };
      case "repeat":
        return { text: `The scan has ${next.alike} of it around the axis.`, button: "Repeat it", run: () => repeat(next) };
      case "whole":
        return { text: "The scan still shows one sector of the part.", button: "Show all of it", run: () => draft("earlier", { before: { id: next.sector } }) };
      case "close":
        return { text: `'${next.name}' has no closed profile yet.`, button: "Open it", run: () => select(next.sketch) };
      case "extrude":
        return { text: `'${next.name}' can become a block.`, button: "Make it a block", run: () => extrude(next.sketch) };
      case "seat":
        return { text: "The block is rough: its faces can be moved onto the scan.", button: "Seat the faces", run: () => draft("seat", { body: { id: next.body }, pairs: [] }) };
      case "check":
        return { text: `${percent(next.share)} of the scan lies inside the tolerance.`, button: "See where", run: () => useAppearance.getState().set({ coloured: true }) };
      case "deliver":
        return { text: "STEP for machining, meshes for printing.", button: "Make the files", run: () => open("deliver") };
    }
  }; // biome-ignore format: a row a case
}

/** One quiet line above the steps: what usually comes next, with one action. It can be folded for good. */
export function WhatNext() {
  const { job } = useBench();
  const kinds = useKinds();
  const coloured = useAppearance((s) => s.coloured);
  const busy = useTool((s) => Boolean(s.draft || s.section || s.repair || s.copied));
  const said = useSaid();
  const [folded, setFolded] = useState(() => window.localStorage.getItem(FOLDED) === "yes");
  const next = whatNext(job, kinds, coloured);
  if (!next || busy) return null;
  const fold = (on: boolean) => {
    setFolded(on);
    window.localStorage.setItem(FOLDED, on ? "yes" : "no");
  };
  if (folded)
    return (
      <button type="button" className="link small next-folded" onClick={() => fold(false)}>
        What comes next
      </button>
    );
  const { text, button, run } = said(next);
  return (
    <section className="next" aria-label="What comes next">
      <span className="quiet">{text}</span>
      <Button size="small" onClick={run}>
        {button}
      </Button>
      <button
        type="button"
        className="link small"
        title="fold this line for good"
        aria-label="Fold what comes next"
        onClick={() => fold(true)}
      >
        ×
      </button>
    </section>
  );
}
