import { render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";
import type { MeshFileFacts, UploadOut } from "../api/client";
import { UnitQuestion } from "./UnitQuestion";
import { sizeIn } from "./UnitRows";

const facts: MeshFileFacts = {
  facets: 1200,
  vertices: 602,
  size: [2, 1, 0.5],
  area: 7,
  volume: 1,
  noise: 0,
  made: "scanned",
  open_edges: 0,
  closed: true,
  unit_guess: "inch",
  unit_said: false,
  warnings: [],
};
const upload: UploadOut = {
  id: "u1",
  name: "gland_nut.stl",
  size: 10,
  status: "done",
  progress: null,
  problem: null,
  facts,
};

describe("the unit question", () => {
  it("shows what each answer would make of the part", () => {
    expect(sizeIn([2, 1, 0.5], "inch", "mm")).toBe("50.8 × 25.4 × 12.7 mm");
    render(<UnitQuestion upload={upload} facts={facts} onDone={vi.fn()} onCancel={vi.fn()} />);
    expect(screen.getByText("50.8 × 25.4 × 12.7 mm")).toBeInTheDocument();
    expect(screen.getByText("proposed from its size")).toBeInTheDocument();
    expect(screen.getByRole("button", { name: "Begin the job in inch" })).toBeInTheDocument();
  });
  it("takes the person's answer over the proposal", async () => {
    render(<UnitQuestion upload={upload} facts={facts} onDone={vi.fn()} onCancel={vi.fn()} />);
    await userEvent.click(screen.getByRole("radio", { name: /^cm/ }));
    expect(screen.getByRole("button", { name: "Begin the job in cm" })).toBeInTheDocument();
  });
});
