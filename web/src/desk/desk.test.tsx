import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import { resetBench } from "../shell/reset";
import { answering, onBench, sampleJob } from "../test/bench";
import { CaliperDesk } from "./CaliperDesk";
import { useFocus } from "./useDesk";

const facts = (part: Record<string, unknown>) => ({
  dimension: "length",
  n: 2,
  mean: 12.03,
  s: 0.01,
  u: 0.006,
  U95: 0.012,
  spread: 0.02,
  type_a: 0.005,
  resolution: 0.003,
  limit: 0.0115,
  pooled: 0,
  each: 12.03,
  outliers: [],
  methods: [],
  agree: true,
  instrument: "caliper",
  unit: "mm",
  tolerance: null,
  ...part,
});

const take = (value: number, part: Record<string, unknown> = {}) => ({
  value,
  unit: "mm",
  method: "jaws",
  note: "",
  struck: "",
  session: "day",
  ...part,
});

function deskJob() {
  const job = sampleJob();
  const reading = (id: string, name: string, takes: unknown[], more: Record<string, unknown> = {}) => ({
    id,
    kind: "reading",
    name,
    takes,
    note: "",
    measures: "outside",
    over: 1,
    ...more,
  });
  const evidence = [
    reading("rim", "rim_d", [take(12.02), take(12.04), take(13.1, { struck: "burr" })]),
    reading("deep", "depth_h", [take(8), take(8.2, { method: "depth rod" })]),
  ];
  const ways = [
    { method: "jaws", n: 1, mean: 8, u: 0.01, apart: -9.2 },
    { method: "depth rod", n: 1, mean: 8.2, u: 0.01, apart: 9.2 },
  ];
  const recipe = {
    ...job.recipe,
    evidence,
    instruments: [{ id: "tool", name: "Workshop caliper", resolution_mm: 0.01, limit_mm: 0.02, note: "" }],
    sessions: [{ id: "day", name: "Monday", instrument: "tool", zero_mm: 0 }],
  };
  const readings = { rim: facts({}), deep: facts({ mean: 8.1, methods: ways, agree: false, outliers: [1] }) };
  return { ...job, recipe, readings } as unknown as ReturnType<typeof sampleJob>;
}

const desk = {
  against: [{ reading: "rim", scan: 11.98, u_scan: 0.004, difference: 0.05, away: 7, what: "Ø of Rim" }],
  sessions: [{ session: "day", shift: 0.05, u: 0.006, pairs: 3, suspected: true, readings: ["rim_d"] }],
  scale: { scale: 0.003, u: 0.0004, pairs: 4, misfit: 1, significant: true, factor: 0.997 },
  sizes: [
    {
      figures: [
        { source: "drawing", name: "rim_drawn", value: 12, u: 0.03, tolerance: 0.05 },
        { source: "caliper", name: "rim_d", value: 12.03, u: 0.006, tolerance: null },
        { source: "scan", name: "Ø of Rim", value: 12.2, u: 0.01, tolerance: null },
      ],
      apart: 14.6,
      between: ["rim_d", "Ø of Rim"],
      out_of_tolerance: [],
      agree: false,
    },
  ],
  uncertain: {},
  standards: { rim: [{ label: "12 h9", value: 11.98, text: "12 mm", difference: 0.03, away: 5 }] },
  address: "/api/caliper/key",
  waiting: 0,
};

const reply = ({ url }: { url: string }) =>
  url.endsWith("/desk") ? desk : url.endsWith("/caliper") ? { waiting: 0 } : [];

describe("the caliper desk", () => {
  beforeEach(() => {
    resetBench();
    useFocus.setState({ reading: null, session: null, stuck: 0 });
  });

  it("shows readings with their figures, doubts and what the scan says", async () => {
    answering(reply);
    onBench(<CaliperDesk />, deskJob());
    const row = (await screen.findByRole("button", { name: "rim_d" })).closest("tr")!;
    expect(within(row).getByText("12.030")).toBeInTheDocument();
    expect(within(row).getByText("(1 struck)", { exact: false })).toBeInTheDocument();
    expect(await within(row).findByText(/\+0\.050/)).toBeInTheDocument();
    expect(screen.getByText(/1 take apart, ways disagree/)).toBeInTheDocument();
  });

  it("a take is struck out with a reason, and none without", async () => {
    answering(reply);
    const edit = onBench(<CaliperDesk />, deskJob());
    await userEvent.click(await screen.findByRole("button", { name: "12.04 mm" }));
    const strike = await screen.findByRole("button", { name: "Strike out" });
    expect(strike).toBeDisabled();
    await userEvent.type(screen.getByRole("textbox", { name: "Why it is struck out" }), "slipped");
    await userEvent.click(strike);
    expect(edit).toHaveBeenCalledWith({ op: "strike-take", id: "rim", take: 1, reason: "slipped" });
  });

  it("a typed take goes to the reading in focus and into the session; nonsense goes nowhere", async () => {
    answering(reply);
    const edit = onBench(<CaliperDesk />, deskJob());
    const field = await screen.findByRole("textbox", { name: "Next take of rim_d" });
    await userEvent.type(field, "12,05{Enter}");
    await waitFor(() => expect(edit).toHaveBeenCalled());
    const sent = edit.mock.calls[0]![0] as unknown as { op: string; take: Record<string, unknown> };
    expect(sent.op).toBe("add-take");
    expect(sent.take).toMatchObject({ value: 12.05, unit: "mm", session: "day", method: "jaws" });
    edit.mockClear();
    await userEvent.type(field, "about 12{Enter}");
    expect(edit).not.toHaveBeenCalled();
    expect(screen.getByText(/A take is a number/)).toBeInTheDocument();
  });

  it("ways that disagree stand side by side", async () => {
    answering(reply);
    onBench(<CaliperDesk />, deskJob());
    await userEvent.click(await screen.findByRole("button", { name: "depth_h" }));
    expect(await screen.findByText("depth rod · 1 take")).toBeInTheDocument();
    expect(screen.getByText("+9.2 u apart")).toBeInTheDocument();
    expect(screen.getByText(/do not measure the same thing/)).toBeInTheDocument();
  });

  it("a zero in doubt is put right for the session, and the scan's scale by a step", async () => {
    answering(reply);
    const edit = onBench(<CaliperDesk />, deskJob());
    await userEvent.click(await screen.findByRole("button", { name: /Take 0\.050 mm off its takes/ }));
    expect(edit).toHaveBeenCalledWith({
      op: "set-session",
      session: { id: "day", name: "Monday", instrument: "tool", zero_mm: 0.05 },
    });
    await userEvent.click(screen.getByRole("button", { name: "Correct it by a step" }));
    const step = edit.mock.calls.at(-1)![0] as unknown as { kind: string; params: { factor: { text: string } } };
    expect(step.kind).toBe("rescale");
    expect(step.params.factor.text).toBe("0.997000");
  });

  it("drawing, caliper and scan of one size stand in one row, and what cannot be true is said", async () => {
    answering(reply);
    onBench(<CaliperDesk />, deskJob());
    const table = await screen.findByRole("region", { name: "Sizes by source" });
    expect(within(table).getByText("rim_d and Ø of Rim are 14.6 u apart", { exact: false })).toBeInTheDocument();
    expect(within(table).getByText("(0.030)")).toBeInTheDocument();
  });

  it("the simulated caliper measures and sends", async () => {
    const state = { resolution_mm: 0.01, zero_mm: 0.03, unit: "mm", shown_mm: 25.04, taken: 1 };
    const asked = answering((a) =>
      a.url.endsWith("/simulated")
        ? { state, line: (a.body as { press: string }).press === "send" ? "25.04 mm" : null }
        : reply(a),
    );
    onBench(<CaliperDesk />, deskJob());
    await userEvent.click(await screen.findByRole("button", { name: "Measure" }));
    expect(await screen.findByText("25.04")).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "Send" }));
    expect(await screen.findByText(/Sent 25\.04 mm/)).toBeInTheDocument();
    const presses = asked.filter((a) => a.url.endsWith("/simulated")).map((a) => (a.body as { press: string }).press);
    expect(presses).toEqual(["measure", "send"]);
  });

  it("a made part's sizes give what its making adds, kept as named values", async () => {
    const correction = {
      scale: 1,
      u_scale: 0,
      outside: 0.12,
      u_outside: 0.01,
      inside: null,
      u_inside: null,
      rms: 0.004,
      pairs: 1,
    };
    const asked = answering((a) => (a.url.endsWith("/made-again") ? correction : reply(a)));
    const edit = onBench(<CaliperDesk />, deskJob());
    await userEvent.click(await screen.findByRole("button", { name: "Add a size" }));
    await userEvent.click(screen.getByRole("button", { name: "What did making add?" }));
    expect(await screen.findByText(/outside 0\.120 mm ± 0\.020/)).toBeInTheDocument();
    expect(asked.find((a) => a.url.endsWith("/made-again"))!.body).toEqual([
      { reading: "rim", model: 12, inside: false },
    ]);
    await userEvent.click(screen.getByRole("button", { name: "Keep as named values" }));
    await waitFor(() => expect(edit).toHaveBeenCalledTimes(2));
    expect(edit.mock.calls[1]![0]).toMatchObject({ op: "set-value", name: "made_outside", dimension: "length" });
  });
});
