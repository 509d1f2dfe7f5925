import { fireEvent, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it, vi } from "vitest";
import type { Job } from "../api/queries";
import { useSeen } from "../job/seen";
import { useTool } from "../sheets/tool";
import { resetBench } from "../shell/reset";
import { type Asked, answering, onBench, problem, result, sampleJob } from "../test/bench";
import { usePointed } from "../view/pointed";
import { ScannerSheet } from "./ScannerSheet";
import { ScanSheet } from "./ScanSheet";

const scan = (id: string, name: string) => ({ id, kind: "scan", name, unit: "mm", role: "part", leave: [], blob: `b-${id}` }); // biome-ignore format: one object
const health = {
  scan: "k0",
  facets: 32_362,
  noise: 0.03,
  unit_guess: null as string | null,
  defects: [
    { kind: "hole", count: 1, blocking: true, places: [{ point: [1, 2, 3], normal: [0, 0, 1], size: 4, facets: [1], source: [7], left: false }] },
  ],
}; // biome-ignore format: one object

/** The sample job with one scan, or two. */
function scanned(part: Partial<typeof result> = {}, ...more: ReturnType<typeof scan>[]): Job {
  const job = sampleJob();
  const evidence = [scan("s", "Cover"), ...more];
  return {
    ...job,
    recipe: { ...job.recipe, evidence },
    build: { ...job.build, result: { ...result, health: { s: "h1" }, ...part } },
  } as unknown as Job;
}
const answers = (own: (a: Asked) => unknown = () => undefined) =>
  answering((a) => own(a) ?? (a.url.includes("/health") ? health : []));

describe("the sheet of a scan", () => {
  beforeEach(resetBench);

  it("says how large and how rough it is, and what blocks", async () => {
    answers();
    onBench(<ScanSheet />, scanned());
    expect(screen.getByRole("heading", { name: "Cover" })).toBeInTheDocument();
    expect(screen.getByText("looking the scan over …")).toBeInTheDocument();
    expect(await screen.findByText("32,362 facets · noise 0.030 mm")).toBeInTheDocument();
    expect(screen.getByText("blocks")).toBeInTheDocument();
  });

  it("mends what blocks as a step, holes too when that is ticked, and opens it", async () => {
    answers();
    const edit = onBench(<ScanSheet />, scanned());
    await userEvent.click(await screen.findByRole("checkbox", { name: "fill every hole too" }));
    await userEvent.click(screen.getByRole("button", { name: "Mend what blocks" }));
    const sent = edit.mock.lastCall![0] as { op: string; id: string };
    expect(sent).toMatchObject({ op: "add-step", kind: "mend", params: { scan: { id: "s" }, holes: true } });
    await waitFor(() => expect(useTool.getState().step).toBe(sent.id));
  });

  it("stays where the step was refused", async () => {
    answers();
    const edit = onBench(<ScanSheet />, scanned());
    edit.mockResolvedValue(false);
    await userEvent.click(await screen.findByRole("button", { name: "Mend what blocks" }));
    expect(useTool.getState().step).toBeNull();
  });

  it("doubts a unit by its size, and takes the other one at a click", async () => {
    answers((a) => (a.url.includes("/health") ? { ...health, unit_guess: "inch" } : undefined));
    const edit = onBench(<ScanSheet />, scanned());
    expect(await screen.findByText("Its size looks like inch, not mm.")).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "It is in inch" }));
    expect(edit).toHaveBeenCalledWith({ op: "set-scan", id: "s", unit: "inch" });
  });

  it("compares with the raw scan once something was mended, not before", async () => {
    answers();
    onBench(<ScanSheet />, scanned({ raw: { s: "k0" }, scans: { s: "k9" } }));
    expect(screen.getByRole("button", { name: "Compare with the raw scan" })).toBeInTheDocument();
    resetBench();
  });

  it("of an untouched scan there is nothing to compare", () => {
    answers();
    onBench(<ScanSheet />, scanned());
    expect(screen.queryByRole("button", { name: "Compare with the raw scan" })).not.toBeInTheDocument();
  });

  it("goes over to another scan, and forgets what was marked", async () => {
    answers();
    usePointed.getState().set({ marked: { point: [0, 0, 0], size: 1, facets: [] } as never });
    onBench(<ScanSheet />, scanned({}, scan("s2", "Underside")));
    await userEvent.click(screen.getByRole("combobox", { name: "Scan to work on" }));
    await userEvent.click(await screen.findByTitle("Underside"));
    expect(useSeen.getState().scan).toBe("s2");
    expect(usePointed.getState().marked).toBeNull();
  });

  it("is not there without a scan, and leads to the virtual scanner", async () => {
    answers();
    onBench(<ScanSheet />, sampleJob());
    expect(screen.queryByRole("region", { name: "Scan" })).not.toBeInTheDocument();
    onBench(<ScanSheet />, scanned());
    await userEvent.click(screen.getByRole("button", { name: "Virtual scanner" }));
    expect(useTool.getState().panel).toBe("scanner");
  });
});

const made = { facets: 45_210, faces: 24, faces_seen: 21, upload: "u1" };
const scanner = (outcome: unknown, failed = false) =>
  answering((a) => {
    if (a.url.includes("/truth-models")) return [{ blob: "t1", name: "Valve block" }];
    if (a.method === "POST" && a.url.endsWith("/practice")) return { id: "p1", status: "queued", problem: null, result: null }; // biome-ignore format: one answer
    if (a.url.includes("/practice/p1"))
      return { id: "p1", status: failed ? "failed" : "done", problem: failed ? outcome : null, result: failed ? null : outcome }; // biome-ignore format: one answer
    return null;
  });
const ordered = (log: Asked[]) => log.find((a) => a.method === "POST" && a.url.endsWith("/practice"))?.body as { solid: unknown; settings: Record<string, unknown> }; // biome-ignore format: one line

describe("the virtual scanner", () => {
  beforeEach(resetBench);

  it("scans the body of the job as it stands, as finely as was set, and says what was seen", async () => {
    const log = scanner(made);
    onBench(<ScannerSheet />, scanned());
    const noise = screen.getByRole("spinbutton", { name: /Noise/ });
    fireEvent.change(noise, { target: { value: "0.05" } });
    fireEvent.blur(noise);
    await userEvent.click(screen.getByRole("button", { name: "Scan" }));
    expect(await screen.findByText("45,210 facets; 21 of 24 faces were seen.")).toBeInTheDocument();
    expect(ordered(log)).toMatchObject({ solid: { kind: "body", key: "k3", name: "Block" }, settings: { noise: 0.05, spacing: 0.9, seed: 1 } }); // biome-ignore format: one object
    expect(screen.getByRole("button", { name: "Bring it into this job" })).toBeInTheDocument();
  });

  it("scans a truth model that is chosen", async () => {
    const log = scanner(made);
    onBench(<ScannerSheet />, scanned());
    await userEvent.click(screen.getByRole("combobox", { name: "Solid to scan" }));
    await userEvent.click(await screen.findByTitle("Valve block (truth model)"));
    await userEvent.click(screen.getByRole("button", { name: "Scan" }));
    await screen.findByText(/45,210 facets/);
    expect(ordered(log)).toMatchObject({ solid: { kind: "step", key: "t1", name: "Valve block" } });
  });

  it("without any solid there is nothing to scan until one is chosen", () => {
    scanner(made);
    onBench(<ScannerSheet />, scanned({ bodies: [] }));
    expect(screen.getByRole("button", { name: "Scan" })).toBeDisabled();
  });

  it("tells why it could not, and can be tried again", async () => {
    scanner(problem({ code: "crashed", message: "the scanner gave up" }), true);
    const tell = vi.fn();
    onBench(<ScannerSheet />, scanned(), tell);
    await userEvent.click(screen.getByRole("button", { name: "Scan" }));
    await waitFor(() => expect(tell).toHaveBeenCalled());
    expect((tell.mock.lastCall![0] as Error).message).toMatch(/the scanner gave up/);
    expect(screen.queryByRole("button", { name: "Bring it into this job" })).not.toBeInTheDocument();
    expect(screen.getByRole("button", { name: /Scan$/ })).toBeEnabled();
  });
});
