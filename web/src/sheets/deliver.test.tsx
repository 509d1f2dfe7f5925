import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it, vi } from "vitest";
import type { Job } from "../api/queries";
import { resetBench } from "../shell/reset";
import { type Asked, answering, onBench, problem, sampleJob } from "../test/bench";
import { DeliverSheet } from "./DeliverSheet";

interface Order {
  kind: string;
  unit: string;
  chord_mm: number;
  angle_deg: number;
}
const orderOf = (a: Asked) => a.body as Order;
/** Orders are written in the background: the first answer says so, the next that it is done. */
function desk(results: Record<string, unknown>) {
  const kinds = new Map<string, string>();
  return answering((asked) => {
    if (asked.method === "POST") {
      const id = `t${kinds.size}`;
      kinds.set(id, orderOf(asked).kind);
      return { id, status: "queued", problem: null, result: null };
    }
    const id = asked.url.match(/deliveries\/(t\d+)/)?.[1];
    const kind = id && kinds.get(id);
    if (!kind) return { id, status: "cancelled", problem: null, result: null };
    const made = results[kind];
    const failed = made && typeof made === "object" && "code" in made;
    return { id, status: failed ? "failed" : "done", problem: failed ? made : null, result: failed ? null : made };
  });
}
const orders = (log: Asked[], kind: string) =>
  log.filter((a) => a.method === "POST" && orderOf(a).kind === kind).map(orderOf);
const count = { facets: 1234, bytes: 61_884 };

describe("delivering", () => {
  let saved: string[];
  beforeEach(() => {
    resetBench();
    saved = [];
    vi.spyOn(HTMLAnchorElement.prototype, "click").mockImplementation(function (this: HTMLAnchorElement) {
      saved.push(this.href);
    });
  });

  it("says what there is, how well it fits, and how many facets it would be", async () => {
    const log = desk({ count });
    onBench(<DeliverSheet />);
    expect(screen.getByText("Block").nextSibling).toHaveTextContent("10,870 mm³");
    expect(screen.getByText(/inside ±0.10 mm/).nextSibling).toHaveTextContent("82.9 %");
    expect(screen.getByTestId("stl-count")).toHaveTextContent("counting facets …");
    await waitFor(() => expect(screen.getByTestId("stl-count")).toHaveTextContent("1,234 facets, 60 KB"));
    expect(orders(log, "count")).toEqual([{ kind: "count", unit: "mm", chord_mm: 0.05, angle_deg: 20 }]);
  });

  it("counts again when the fineness changes", async () => {
    const log = desk({ count });
    onBench(<DeliverSheet />);
    await waitFor(() => expect(screen.getByTestId("stl-count")).toHaveTextContent("1,234"));
    await userEvent.click(screen.getByText("fine"));
    await waitFor(() => expect(orders(log, "count")).toHaveLength(2));
    expect(orders(log, "count")[1]).toMatchObject({ chord_mm: 0.01, angle_deg: 8 });
  });

  it("writes a STEP file in the unit asked for, and offers it once it was read back", async () => {
    const log = desk({ count, step: { faces: 7, bytes: 20_480 } });
    onBench(<DeliverSheet />);
    await userEvent.click(screen.getByText("inch"));
    await userEvent.click(screen.getByRole("button", { name: "Download STEP" }));
    expect(
      await screen.findByText("STEP in inch · 7 faces · 20 KB · read back: closed, same size"),
    ).toBeInTheDocument();
    expect(orders(log, "step")[0]).toMatchObject({ unit: "inch" });
    expect(saved).toHaveLength(1);
    expect(saved[0]).toMatch(/\/api\/jobs\/j\/deliveries\/t\d+\/file$/);
  });

  it.each(["stl", "obj", "ply", "3mf"])("writes a mesh as %s", async (kind) => {
    const log = desk({ count, [kind]: count });
    onBench(<DeliverSheet />);
    const button = screen.getByRole("button", { name: new RegExp(`^${kind}$|${kind.toUpperCase()}$`, "i") });
    await waitFor(() => expect(button).toBeEnabled());
    await userEvent.click(button);
    expect(await screen.findByText(new RegExp(`${kind.toUpperCase()} in mm · 1,234 facets`))).toBeInTheDocument();
    expect(orders(log, kind)).toHaveLength(1);
  });

  it("says why a file could not be made, and offers none", async () => {
    const why = problem({ code: "body-broken", message: "the body would not close", got: "2 gaps", need: "none", remedy: "heal it" }); // biome-ignore format: one object
    desk({ count, step: why });
    onBench(<DeliverSheet />);
    await userEvent.click(screen.getByRole("button", { name: "Download STEP" }));
    expect(await screen.findByText(/the body would not close/)).toBeInTheDocument();
    expect(saved).toEqual([]);
    expect(await screen.findByRole("button", { name: /Download STEP/ })).toBeEnabled(); // it can be tried again
  });

  it("waits for the build, and says when there is nothing yet", () => {
    const log = desk({ count });
    const job = sampleJob();
    const result = { ...job.build.result!, bodies: [] };
    onBench(<DeliverSheet />, { ...job, build: { ...job.build, result } } as Job);
    expect(screen.getByText(/There is no body yet/)).toBeInTheDocument();
    for (const b of screen.getAllByRole("button", { name: /STEP|STL|OBJ|PLY|3MF/i })) expect(b).toBeDisabled();
    expect(log.filter((a) => a.method === "POST")).toEqual([]);
  });

  it("does not deliver what is out of date", () => {
    desk({ count });
    const job = sampleJob();
    onBench(<DeliverSheet />, { ...job, build: { ...job.build, current: false } });
    expect(screen.getByRole("button", { name: "Download STEP" })).toBeDisabled();
  });
});
