import { App as AntApp } from "antd";
import { useCallback, useEffect, useMemo, useRef } from "react";
import { Link, useParams } from "react-router";
import type { Vec3 } from "../api/build";
import { api, type Edit, got, ProblemError } from "../api/client";
import { type Job, useEdit, useJob, useMove } from "../api/queries";
import { MeasureSheet } from "../construct/MeasureSheet";
import { CaliperDesk } from "../desk/CaliperDesk";
import { PhotoDesk } from "../photo/PhotoDesk";
import { usePhoto } from "../photo/store";
import { RegionsSheet } from "../regions/RegionsSheet";
import { SectionSheet } from "../section/SectionSheet";
import { takenLoops } from "../section/taken";
import { useSection } from "../section/useSection";
import type { Palette } from "../theme";
import { ProblemNote } from "../ui/ProblemNote";
import type { Unit } from "../units";
import { packU4 } from "../view/buffers";
import { STILL } from "../view/pose";
import { CheckpointSheet } from "./CheckpointSheet";
import { Bench, type BenchContext, useBench } from "./context";
import { DeliverSheet } from "./DeliverSheet";
import { DraftSheet } from "./DraftSheet";
import { FitStrip } from "./FitStrip";
import { RepairSheet } from "./RepairSheet";
import { ScannerSheet } from "./ScannerSheet";
import { ScanSheet } from "./ScanSheet";
import { StepList } from "./StepList";
import { StepSheet } from "./StepSheet";
import { regionFacts } from "./stepValues";
import {
  plainSection,
  resetBench,
  type SectionDraft,
  useArmed,
  useLook,
  usePicks,
  useSelecting,
  useTool,
} from "./stores";
import { TopBar } from "./TopBar";
import { useGrow } from "./useGrow";
import { useShownBodies } from "./useShownBodies";
import { ValuesSheet } from "./ValuesSheet";
import { View } from "./View";

export function BenchPage({ palette }: { palette: Palette }) {
  const { id = "" } = useParams();
  const { data: job, error } = useJob(id);
  useEffect(() => {
    resetBench();
    return resetBench;
  }, []);
  if (error instanceof ProblemError)
    return (
      <main className="alone">
        <ProblemNote problem={error.problem} />
        <Link to="/">Back to the shelf</Link>
      </main>
    );
  if (!job) return <main className="alone quiet">opening the job …</main>;
  return <Provided job={job} palette={palette} />;
}

function Provided({ job, palette }: { job: Job; palette: Palette }) {
  const { message, modal } = AntApp.useApp();
  const { mutateAsync } = useEdit(job.id);
  const tell = useCallback(
    (error: unknown) => {
      const said = error instanceof ProblemError ? [error.problem, ...error.also] : [];
      const lines = said.map((p) => `${p.message}${p.remedy ? `. Try: ${p.remedy}` : ""}`);
      message.error(lines.join(" · ") || String(error), lines.length > 1 ? 10 : 6);
    },
    [message],
  );
  const edit = useCallback(
    async (change: Edit): Promise<boolean> => {
      const { asOf, set } = useLook.getState();
      // While the job is seen as of a step, what is new goes right after it.
      const placed = change.op === "add-step" && asOf && !change.after ? { ...change, after: asOf } : change;
      try {
        await mutateAsync(placed);
        if (placed.op === "add-step" && asOf && placed.id) set({ asOf: placed.id });
        return true;
      } catch (e) {
        if (e instanceof ProblemError && e.problem.code === "stale-revision")
          modal.confirm({
            title: "The job was changed somewhere else",
            content:
              "In another window or by another sign-in. The newer state is shown now; your change is not in it yet.",
            okText: "Make my change again",
            cancelText: "Leave it out",
            onOk: () => edit(change).then(() => undefined),
          });
        else tell(e);
        return false;
      }
    },
    [mutateAsync, tell, modal],
  );
  const chosen = useLook((s) => s.scan);
  const asOf = useLook((s) => s.asOf);
  const value = useMemo<BenchContext>(() => {
    const scans = job.recipe.evidence.filter((e) => e.kind === "scan");
    const scanId = (scans.find((e) => e.id === chosen) ?? scans[0])?.id ?? "";
    const result = job.build.result;
    const then = asOf ? result?.steps.find((s) => s.id === asOf)?.scans?.[scanId] : undefined;
    const into = result?.merged?.[scanId];
    return {
      job,
      palette,
      unit: job.recipe.unit as Unit,
      scanId,
      // A scan that went into another can still be looked at as it came.
      scanKey: then ?? result?.scans[scanId] ?? (into ? result?.raw?.[scanId] : undefined) ?? "",
      pose: result?.poses?.[scanId] ?? STILL,
      edit,
      tell,
    };
  }, [job, palette, edit, tell, chosen, asOf]);
  return (
    <Bench.Provider value={value}>
      <Workbench />
    </Bench.Provider>
  );
}

function Workbench() {
  const { job, scanId, scanKey, edit, unit, tell } = useBench();
  const move = useMove(job.id);
  const tool = useTool();
  const picks = usePicks();
  const look = useLook();
  const { grown } = useGrow();
  const section = useSection();
  const { armed, arm } = useArmed();
  const bodies = useShownBodies();

  // The first body should be seen through the scan, not hidden under it.
  const hadBody = useRef(false);
  const setLook = look.set;
  useEffect(() => {
    if (bodies.length > 0 && !hadBody.current) setLook({ scanOpacity: 0.35 });
    hadBody.current = bodies.length > 0;
  }, [bodies.length, setLook]);

  // A step that undo took away cannot be looked at any more.
  const gone = look.asOf !== null && !job.recipe.steps.some((s) => s.id === look.asOf);
  useEffect(() => {
    if (gone) setLook({ asOf: null });
  }, [gone, setLook]);

  const keepRegion = async (): Promise<string | null> => {
    if (!grown) return null;
    const id = crypto.randomUUID();
    const surface = picks.surface === "auto" ? grown.surface.kind : picks.surface;
    let params: Record<string, unknown> = {
      scan: { id: scanId },
      seeds: grown.source_seeds,
      removed: grown.source_removed,
      surface,
      tolerance: picks.tolerance ? { text: picks.tolerance, mark: "assumed" } : null,
    };
    if (picks.hand) {
      const body = { scan: scanKey, facets: packU4(picks.hand), surface };
      try {
        const kept = await got(
          api.POST("/api/jobs/{job_id}/keep-picked", { params: { path: { job_id: job.id } }, body }),
        );
        params = { scan: { id: scanId }, picked: kept, surface };
      } catch (e) {
        tell(e);
        return null;
      }
    }
    if (!(await edit({ op: "add-step", id, kind: "region", params }))) return null;
    picks.clear();
    useSelecting.getState().set({ by: "click" });
    return id;
  };
  const openSection = (region: string | null, origin: Vec3, normal: Vec3, part: Partial<SectionDraft> = {}) =>
    tool.openSection({
      ...plainSection,
      region,
      origin,
      normal,
      offset: unit === "inch" ? "-0.1 inch" : "-2 mm",
      ...part,
    });
  const sectionOfPick = async () => {
    if (grown?.surface.kind !== "plane") return;
    const { origin, axis } = grown.surface;
    const id = await keepRegion();
    if (id) openSection(id, origin, axis);
  };
  const sectionOfStep = (region: string, part: Partial<SectionDraft> = {}) => {
    const facts = regionFacts(job.build.result?.steps ?? [], region);
    if (!facts) return;
    const round = facts.shape === "axis" || ["cylinder", "cone", "torus"].includes(facts.kind);
    const plane = round ? { source: "radial" as const, offset: "0 mm" } : {};
    openSection(region, facts.origin, facts.axis ?? facts.direction, { ...plane, ...part });
  };
  const openExtrude = (sketch: string) => {
    picks.clear();
    const text = unit === "inch" ? "0.4 inch" : "10 mm";
    tool.openDraft({
      kind: "extrude",
      params: {
        sketch: { id: sketch },
        extent: "distance",
        distance: { text, mark: "assumed" },
        symmetric: false,
        operation: bodies.length > 0 ? "add" : "new",
        bodies: bodies.slice(0, 1).map((b) => ({ id: b.id })),
      },
    });
  };
  const take = async () => {
    const draft = tool.section;
    if (!draft || !section.fitted) return;
    const id = crypto.randomUUID();
    const { fitted } = section;
    const offset = { text: draft.offset || "0", mark: draft.mark ?? "assumed", note: draft.note ?? "" };
    const turned = draft.source === "section" && (draft.turnU !== 0 || draft.turnV !== 0);
    const plane = crypto.randomUUID();
    const deg = (x: number) => ({ text: `${x} deg`, mark: "assumed" });
    // A plane that is turned or free in space becomes a step of its own: it can be changed and used again.
    const made = draft.region
      ? { by: "parallel", plane: { id: draft.region }, turn_u: deg(draft.turnU), turn_v: deg(draft.turnV) }
      : {
          by: "free",
          scan: { id: scanId },
          origin: draft.origin,
          normal: draft.normal,
          pose: fitted.pose,
          turn_u: deg(draft.turnU),
          turn_v: deg(draft.turnV),
        };
    const own = turned || !draft.region;
    const params = {
      scan: { id: scanId },
      source: draft.source,
      ...(draft.source === "radial" ? { axis: { id: draft.region } } : { plane: { id: own ? plane : draft.region } }),
      offset,
      tolerance: draft.tolerance ? { text: draft.tolerance, mark: "assumed" } : null,
      origin: fitted.origin,
      u_axis: fitted.u_axis,
      pose: fitted.pose,
      loops: takenLoops(fitted, draft.left, draft.edited),
    };
    const steps = [
      ...(own ? [{ op: "add-step" as const, id: plane, kind: "plane", params: made }] : []),
      { op: "add-step" as const, id, kind: "outline", params },
    ];
    const kept = await (own ? edit({ op: "add-steps", steps }) : edit(steps[0]!));
    if (kept && draft.source !== "radial") openExtrude(id);
    else if (kept) tool.select(id);
  };
  const keepDraft = async () => {
    const draft = tool.draft;
    if (!draft) return;
    const id = crypto.randomUUID();
    const kept = await edit({ op: "add-step", id, ...draft });
    if (kept && draft.kind === "measurement") tool.open("measure");
    else if (kept) tool.select(id);
  };
  const moveHead = (direction: "undo" | "redo") => {
    if (tool.panel !== "desk" && tool.panel !== "photo") tool.close();
    picks.clear();
    move.mutate(direction, { onError: tell });
  };

  const keys = useRef<(e: KeyboardEvent) => void>(() => undefined);
  keys.current = (e) => {
    if (e.target instanceof HTMLInputElement || e.target instanceof HTMLTextAreaElement) return;
    if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "z") {
      e.preventDefault();
      moveHead(e.shiftKey ? "redo" : "undo");
    } else if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "y") {
      e.preventDefault();
      moveHead("redo");
    } else if (e.key === "Escape" && (tool.panel === "desk" || tool.panel === "photo")) {
      usePhoto.getState().use("look"); // a desk is a place, not a sheet: it is left by its button
    } else if (e.key === "Escape") {
      if (armed) arm(null);
      else if (picks.seeds.length || picks.hand || picks.faces.length || picks.edges.length) picks.clear();
      else if (tool.section || tool.draft || tool.step || tool.panel || tool.repair) tool.close();
      else if (look.asOf) look.set({ asOf: null });
    } else if (e.key === "Enter" && !(e.target instanceof HTMLButtonElement)) {
      if (tool.section) void take();
      else if (tool.draft) void keepDraft();
    }
  };
  useEffect(() => {
    const press = (e: KeyboardEvent) => keys.current(e);
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, []);

  const sheet = tool.section ? (
    <SectionSheet fitted={section.fitted} problem={section.problem} busy={section.busy} onTake={() => void take()} />
  ) : tool.draft ? (
    <DraftSheet after={look.asOf} onKeep={() => void keepDraft()} />
  ) : tool.panel === "deliver" ? (
    <DeliverSheet />
  ) : tool.panel === "checkpoints" ? (
    <CheckpointSheet />
  ) : tool.panel === "values" ? (
    <ValuesSheet />
  ) : tool.panel === "scan" ? (
    <ScanSheet key={scanId} />
  ) : tool.panel === "regions" ? (
    <RegionsSheet />
  ) : tool.panel === "measure" ? (
    <MeasureSheet />
  ) : tool.panel === "scanner" ? (
    <ScannerSheet />
  ) : tool.repair ? (
    <RepairSheet key={tool.repair.step + tool.repair.place} {...tool.repair} />
  ) : tool.step ? (
    <StepSheet onSection={sectionOfStep} onExtrude={openExtrude} />
  ) : null;
  if (tool.panel === "desk" || tool.panel === "photo")
    return (
      <div className="bench at-desk" data-revision={job.revision} data-build={job.build.status}>
        <TopBar onMove={moveHead} />
        {tool.panel === "desk" ? <CaliperDesk /> : <PhotoDesk />}
      </div>
    );
  const seating = tool.draft?.kind === "seat" || job.recipe.steps.find((s) => s.id === tool.step)?.kind === "seat";
  const wide =
    tool.panel === "values" ||
    tool.panel === "regions" ||
    tool.panel === "checkpoints" ||
    tool.repair !== null ||
    seating;
  return (
    <div
      className={`bench${sheet ? (wide ? " with-sheet with-wide-sheet" : " with-sheet") : ""}`}
      data-revision={job.revision}
      data-build={job.build.status}
    >
      <TopBar onMove={moveHead} />
      <StepList />
      <View
        raw={section.raw}
        fitted={section.fitted}
        onKeepRegion={() => void keepRegion()}
        onSection={() => void sectionOfPick()}
      />
      {sheet}
      <FitStrip />
    </div>
  );
}
