import { App as AntApp } from "antd";
import { useCallback, useEffect, useMemo, useRef } from "react";
import { Link, useParams } from "react-router";
import type { Vec3 } from "../api/build";
import { type Edit, ProblemError } from "../api/client";
import { type Job, useEdit, useJob, useMove } from "../api/queries";
import type { Palette } from "../theme";
import { ProblemNote } from "../ui/ProblemNote";
import type { Unit } from "../units";
import { Bench, type BenchContext, useBench } from "./context";
import { DeliverSheet } from "./DeliverSheet";
import { ExtrudeSheet } from "./ExtrudeSheet";
import { FitStrip } from "./FitStrip";
import { SectionSheet } from "./SectionSheet";
import { StepList } from "./StepList";
import { StepSheet } from "./StepSheet";
import { resetBench, useLook, usePicks, useTool } from "./stores";
import { TopBar } from "./TopBar";
import { takenLoops } from "./taken";
import { useGrow } from "./useGrow";
import { useSection } from "./useSection";
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
  const { message } = AntApp.useApp();
  const { mutateAsync } = useEdit(job.id);
  const tell = useCallback(
    (error: unknown) => {
      const text = error instanceof ProblemError ? error.problem : null;
      message.error(text ? `${text.message}${text.remedy ? `. Try: ${text.remedy}` : ""}` : String(error), 6);
    },
    [message],
  );
  const edit = useCallback(
    (change: Edit) =>
      mutateAsync(change).then(
        () => true,
        (e: unknown) => {
          tell(e);
          return false;
        },
      ),
    [mutateAsync, tell],
  );
  const value = useMemo<BenchContext>(
    () => ({ job, palette, unit: job.recipe.unit as Unit, scanId: job.recipe.evidence[0]?.id ?? "", edit, tell }),
    [job, palette, edit, tell],
  );
  return (
    <Bench.Provider value={value}>
      <Workbench />
    </Bench.Provider>
  );
}

function Workbench() {
  const { job, scanId, edit, unit, tell } = useBench();
  const move = useMove(job.id);
  const tool = useTool();
  const picks = usePicks();
  const look = useLook();
  const { grown } = useGrow();
  const section = useSection();
  const bodies = job.build.result?.bodies ?? [];

  // The first body should be seen through the scan, not hidden under it.
  const hadBody = useRef(false);
  const setLook = look.set;
  useEffect(() => {
    if (bodies.length > 0 && !hadBody.current) setLook({ scanOpacity: 0.35 });
    hadBody.current = bodies.length > 0;
  }, [bodies.length, setLook]);

  const keepRegion = async (): Promise<string | null> => {
    if (!grown) return null;
    const id = crypto.randomUUID();
    const params = {
      scan: { id: scanId },
      seeds: grown.source_seeds,
      removed: grown.source_removed,
      surface: picks.surface === "auto" ? grown.surface.kind : picks.surface,
      tolerance: picks.tolerance ? { text: picks.tolerance, mark: "assumed" } : null,
    };
    if (!(await edit({ op: "add-step", id, kind: "region", params }))) return null;
    picks.clear();
    return id;
  };
  const openSection = (region: string, origin: Vec3, normal: Vec3) =>
    tool.openSection({
      region,
      origin,
      normal,
      offset: unit === "inch" ? "-0.1 inch" : "-2 mm",
      tolerance: "",
      left: [],
    });
  const sectionOfPick = async () => {
    if (grown?.surface.kind !== "plane") return;
    const { origin, axis } = grown.surface;
    const id = await keepRegion();
    if (id) openSection(id, origin, axis);
  };
  const sectionOfStep = (region: string) => {
    const facts = job.build.result?.steps.find((s) => s.id === region)?.facts;
    if (facts) openSection(region, facts.origin, facts.axis);
  };
  const openExtrude = (sketch: string) => {
    picks.clear();
    const any = bodies.length > 0;
    const distance = unit === "inch" ? "0.4 inch" : "10 mm";
    tool.openExtrude({
      sketch,
      distance,
      symmetric: false,
      operation: any ? "add" : "new",
      body: bodies[0]?.id ?? null,
    });
  };
  const take = async () => {
    const draft = tool.section;
    if (!draft || !section.fitted) return;
    const id = crypto.randomUUID();
    const { fitted } = section;
    const params = {
      scan: { id: scanId },
      plane: { id: draft.region },
      offset: { text: draft.offset || "0", mark: "assumed" },
      tolerance: draft.tolerance ? { text: draft.tolerance, mark: "assumed" } : null,
      origin: fitted.origin,
      u_axis: fitted.u_axis,
      loops: takenLoops(fitted, draft.left),
    };
    if (await edit({ op: "add-step", id, kind: "outline", params })) openExtrude(id);
  };
  const extrude = async () => {
    const draft = tool.extrude;
    if (!draft) return;
    const body = draft.operation === "new" ? null : { id: draft.body ?? bodies[0]?.id };
    const params = {
      sketch: { id: draft.sketch },
      distance: { text: draft.distance, mark: "assumed" },
      symmetric: draft.symmetric,
      operation: draft.operation,
      body,
    };
    const id = crypto.randomUUID();
    if (await edit({ op: "add-step", id, kind: "extrude", params })) tool.select(id);
  };
  const moveHead = (direction: "undo" | "redo") => {
    tool.close();
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
    } else if (e.key === "Escape") {
      if (picks.seeds.length) picks.clear();
      else tool.close();
    } else if (e.key === "Enter" && !(e.target instanceof HTMLButtonElement)) {
      if (tool.section) void take();
      else if (tool.extrude) void extrude();
    }
  };
  useEffect(() => {
    const press = (e: KeyboardEvent) => keys.current(e);
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, []);

  const sheet = tool.section ? (
    <SectionSheet fitted={section.fitted} problem={section.problem} busy={section.busy} onTake={() => void take()} />
  ) : tool.extrude ? (
    <ExtrudeSheet onKeep={() => void extrude()} />
  ) : tool.delivering ? (
    <DeliverSheet />
  ) : tool.step ? (
    <StepSheet onSection={sectionOfStep} onExtrude={openExtrude} />
  ) : null;
  return (
    <div className={`bench${sheet ? " with-sheet" : ""}`} data-revision={job.revision} data-build={job.build.status}>
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
