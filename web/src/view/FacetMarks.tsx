import { useMemo } from "react";
import { useBench } from "../job/context";
import { usePicks } from "../pick/picks";
import { useGrow } from "../pick/useGrow";
import { useRegion } from "../pick/useRegion";
import { facetsOf, useRegions } from "../regions/store";
import { useTool } from "../sheets/tool";
import type { ScanGeometry } from "./geometry";
import { usePointed } from "./pointed";
import { RegionOverlay } from "./RegionOverlay";
import { RegionsSkin } from "./RegionsSkin";
import { ResidualSkin } from "./ResidualSkin";

/** Residuals of the region whose sheet is open; while facets are painted it shows as it is, so that the paint stands out. */
export function useShownResiduals() {
  const { section, step } = useTool();
  const hand = usePicks((s) => s.hand);
  const residuals = usePointed((s) => s.residuals);
  return section || hand || !step ? null : residuals;
}

/** How noisy the scan in the view is, facet by facet, while that is looked at. */
export function useShownNoise() {
  const { scanKey } = useBench();
  const noise = usePointed((s) => s.noise);
  return noise?.scan === scanKey ? noise : null;
}

/** Facets that are marked on the scan: regions found, picked, chosen or painted, residuals, a finding. */
export function FacetMarks({ scan }: { scan: ScanGeometry }) {
  const { palette, scanKey } = useBench();
  const { section, step, panel } = useTool();
  const hand = usePicks((s) => s.hand);
  const marked = usePointed((s) => s.marked);
  const { facets } = useGrow();
  const chosen = useRegion(section ? section.region : step);
  const residuals = useShownResiduals();
  const noise = useShownNoise();
  const { scan: segmented, labels, found, hidden, chosen: rows } = useRegions();
  const shown = useMemo(
    () => (found?.regions ?? []).map((r) => ({ kind: r.kind, hidden: hidden.includes(r.kind) })),
    [found, hidden],
  );
  const inHand = useMemo(() => marked && Uint32Array.from(marked.facets), [marked]);
  const all = panel === "regions" && segmented === scanKey ? labels : null;
  const region = facets ?? (section || step ? chosen : null);
  const overlay = (of: Uint32Array, opacity: number) => (
    <RegionOverlay scan={scan} facets={of} colour={palette.active} opacity={opacity} />
  );
  return (
    <>
      {all && <RegionsSkin scan={scan} labels={all} regions={shown} palette={palette} />}
      {inHand && inHand.length > 0 && overlay(inHand, 0.85)}
      {all && rows.length > 0 && overlay(facetsOf(all, rows), 0.75)}
      {noise && <ResidualSkin {...noise} scan={scan} palette={palette} />}
      {residuals && <ResidualSkin scan={scan} {...residuals} palette={palette} />}
      {hand && chosen && step && overlay(chosen, 0.28)}
      {region && !residuals && overlay(region, facets ? 0.62 : 0.28)}
    </>
  );
}
