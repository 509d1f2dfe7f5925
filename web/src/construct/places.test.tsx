import { act, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { beforeEach, describe, expect, it } from "vitest";
import type { Field } from "../api/kinds";
import { useArmed } from "../pick/armed";
import { resetBench } from "../shell/reset";
import { answering, onBench } from "../test/bench";
import { PlacesField } from "./PlacesField";

const field = { name: "points", label: "At", help: "", type: "refs", reference: "point", ids: true, parts: ["vertex"], fields: [], when: {} } as unknown as Field; // biome-ignore format: one object
const corner = (name: string) => ({ body: "b", vertex: name, place: [0, 0, 0] as [number, number, number] });

/** Keeps the list as a sheet does. */
function Sheet({ start = [] as unknown[] }) {
  const [points, set] = useState(start);
  const offers = [
    { value: "p1", label: "Datum point" },
    { value: "p2", label: "Other point" },
  ];
  return (
    <>
      <PlacesField field={field} value={points} offers={offers} step={null} onChange={(p) => set(p.points as [])} />
      <output>{JSON.stringify(points)}</output>
    </>
  );
}
const kept = () => JSON.parse(screen.getByRole("status").textContent ?? "[]");
const tap = (name: string) => act(() => useArmed.getState().armed?.onPart?.(corner(name) as never));

describe("places in a list", () => {
  beforeEach(() => {
    resetBench();
    answering(() => null);
  });

  it("are picked one after the other until it is stopped, and taken out by a second click", async () => {
    onBench(<Sheet />);
    await userEvent.click(screen.getByRole("button", { name: "Pick in the view" }));
    tap("c1");
    tap("c2");
    tap("c3");
    expect(kept().map((p: { vertex: string }) => p.vertex)).toEqual(["c1", "c2", "c3"]);
    tap("c2");
    expect(kept().map((p: { vertex: string }) => p.vertex)).toEqual(["c1", "c3"]);
    await userEvent.click(screen.getByRole("button", { name: "Done picking" }));
    expect(useArmed.getState().armed).toBeNull();
  });

  it("are added from what stands above, each once, and removed by their row", async () => {
    onBench(<Sheet start={[{ id: "p2" }]} />);
    await userEvent.click(screen.getByRole("combobox", { name: "Add to at" }));
    expect(screen.queryByTitle("Other point")).toBeNull();
    await userEvent.click(screen.getByTitle("Datum point"));
    expect(kept()).toEqual([{ id: "p2" }, { id: "p1" }]);
    await userEvent.click(screen.getAllByRole("button", { name: /^Remove 1/ })[0]!);
    expect(kept()).toEqual([{ id: "p1" }]);
  });
});
