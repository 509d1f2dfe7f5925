import { screen, waitFor } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { resetBench } from "../shell/reset";
import { answering, onBench, sampleJob } from "../test/bench";
import { blockFaces } from "../test/staged";
import { MouthOfRegion } from "./MouthOfRegion";
import { faceRef } from "./stepValues";

const [, , , , top, bottom] = blockFaces.map((f) => ({ ...f, inside: null, diameter: null, origin: null })) as never[];
const begun = { by: "axes", axes: [{ id: "r" }], face: null };
const nothing = { body: null, face: null, until: null, depth: null };

async function asked(found: object, params: Record<string, unknown> = begun, step: unknown = null) {
  const log = answering(() => ({ ...nothing, ...found }));
  const change = vi.fn();
  onBench(<MouthOfRegion params={params} step={step as never} state={undefined} onChange={change} />);
  return { log, change };
}

describe("a hole begun from what a bore has left", () => {
  beforeEach(resetBench);

  it("goes through from the face that it was scanned at", async () => {
    const { log, change } = await asked({ body: "x", face: top });
    await waitFor(() =>
      expect(change).toHaveBeenCalledExactlyOnceWith({ face: faceRef("x", top!), extent: "through" }),
    );
    expect(log.map((a) => a.body)).toEqual([{ region: "r", bodies: { x: "k3" } }]);
    expect(await screen.findByText(/the scanned hole begins at/)).toBeInTheDocument();
  });

  it("is as deep as it was scanned, where that is less than the material", async () => {
    const { change } = await asked({ body: "x", face: top, depth: 6.25 });
    await waitFor(() => expect(change).toHaveBeenCalled());
    expect(change.mock.calls[0]![0]).toMatchObject({ extent: "blind", depth: { text: "6.25 mm", mark: "scan" } });
  });

  it("ends at the far face of its own lug", async () => {
    const { change } = await asked({ body: "x", face: top, until: bottom });
    await waitFor(() => expect(change).toHaveBeenCalled());
    expect(change.mock.calls[0]![0]).toMatchObject({ extent: "until", until_face: { name: "-z" }, bottom: "flat" });
  });

  it("says where no body has material, and changes nothing", async () => {
    const { change } = await asked({});
    expect(await screen.findByText(/No body has material/)).toBeInTheDocument();
    expect(change).not.toHaveBeenCalled();
  });

  it.each([
    ["a face is chosen", { ...begun, face: { body: "x", name: "+z" } }, null],
    ["it lies elsewhere", { ...begun, by: "centre" }, null],
    ["it is on an axis that is no region", { ...begun, axes: [{ id: "o" }] }, null],
    ["it has several axes", { ...begun, axes: [{ id: "r" }, { id: "r2" }] }, null],
    ["the step is there", begun, sampleJob().recipe.steps[2]],
  ])("is not looked up where %s", async (_, params, step) => {
    const { log, change } = await asked({ body: "x", face: top }, params, step);
    await Promise.resolve();
    expect([log, change.mock.calls]).toEqual([[], []]);
  });
});
