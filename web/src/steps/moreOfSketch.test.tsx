import { fireEvent, screen } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { useTool } from "../sheets/tool";
import { onBench } from "../test/bench";
import { MoreOfSketch } from "./MoreOfSketch";

describe("what else a sketch begins", () => {
  it("is every kind that declares it, but those with a button of their own", async () => {
    onBench(<MoreOfSketch sketch="sk" />);
    fireEvent.click(screen.getByRole("button", { name: "More …" }));
    const found = (await screen.findAllByRole("menuitem")).map((item) => item.textContent);
    expect(found).toEqual(expect.arrayContaining(["Sweep", "Loft", "Along a helix", "Cut"]));
    expect(found).not.toContain("Extrude");
  });

  it("opens a draft with the sketch where the kind wants it", async () => {
    onBench(<MoreOfSketch sketch="sk" />);
    fireEvent.click(screen.getByRole("button", { name: "More …" }));
    fireEvent.click(await screen.findByRole("menuitem", { name: "Loft" }));
    expect(useTool.getState().draft).toMatchObject({ kind: "loft", params: { sections: [{ id: "sk" }] } });
    fireEvent.click(screen.getByRole("button", { name: "More …" }));
    fireEvent.click(await screen.findByRole("menuitem", { name: "Cut" }));
    expect(useTool.getState().draft).toMatchObject({ kind: "cut", params: { by: "sketch", sketch: { id: "sk" } } });
  });
});
