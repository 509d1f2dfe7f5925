import { fireEvent, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import { useTool } from "../sheets/tool";
import { resetBench } from "../shell/reset";
import { onBench, sampleJob } from "../test/bench";
import { branchOf, mass } from "./branch";
import { Things } from "./Things";

const grown = () => {
  const job = sampleJob();
  const result = job.build.result!;
  const [first] = result.steps;
  const [body] = result.bodies;
  const steps = ["Plate", "Looked at", "Boss"].map((name, k) => ({
    ...first!,
    id: `s${k}`,
    name,
    after: { [body!.id]: k < 2 ? "k1" : "k2" },
  }));
  return { ...job, build: { ...job.build, result: { ...result, steps, bodies: [{ ...body!, mass: 1234.5 }] } } };
};

describe("a body's branch", () => {
  beforeEach(resetBench);

  it("has the steps that left it otherwise than it was", () => {
    const job = grown();
    expect(branchOf(job, job.build.result!.bodies[0]!.id).map((s) => s.name)).toEqual(["Plate", "Boss"]);
    expect(branchOf(job, "nobody")).toEqual([]);
  });

  it("weighs in grams and kilograms", () => {
    expect([mass(0.123456), mass(999.4), mass(1234.5)]).toEqual(["0.1235 g", "999.4 g", "1.234 kg"]);
  });

  it("unfolds under its row, leads to a step, and keeps what it is made of", async () => {
    const job = grown();
    const body = job.build.result!.bodies[0]!;
    const edit = onBench(<Things />, job);
    await userEvent.click(screen.getByRole("button", { name: `What ${body.name} is made of` }));
    expect(screen.getByText("1.234 kg")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Boss" }));
    expect(useTool.getState().step).toBe("s2");
    const material = screen.getByRole("combobox", { name: `Material of ${body.name}` });
    await userEvent.type(material, "brass");
    fireEvent.blur(material);
    expect(edit).toHaveBeenCalledWith({ op: "set-body", id: body.id, material: "brass" });
    const density = screen.getByRole("spinbutton", { name: `Density of ${body.name}` });
    await userEvent.type(density, "8.4");
    fireEvent.blur(density);
    expect(edit).toHaveBeenLastCalledWith({ op: "set-body", id: body.id, density: 8.4 });
  });
});
