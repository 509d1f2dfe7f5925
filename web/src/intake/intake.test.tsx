import { act, fireEvent, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { EvidenceList } from "../job/EvidenceList";
import { useTool } from "../sheets/tool";
import { resetBench } from "../shell/reset";
import { onBench, sampleJob } from "../test/bench";
import { DropAnywhere } from "./DropAnywhere";
import { ANY_FILE, accept, firstOf, sortOf } from "./files";
import { useWaiting } from "./waiting";

const file = (name: string) => new File(["x"], name);
const names = (files: File[]) => files.map((f) => f.name);

describe("what a file is", () => {
  it("goes by its ending, whatever its case", () => {
    expect(["a.STL", "b.step", "photo.JPG", "readings.csv", "c.obj.gz", "plate.DXF", "notes.txt"].map(sortOf)).toEqual([
      "mesh",
      "solid",
      "picture",
      "table",
      "mesh",
      "flat",
      null,
    ]);
    expect(accept("table", "solid")).toBe(".csv,.step,.stp,.iges,.igs");
    for (const ending of ANY_FILE.split(",")) expect(sortOf(`part${ending}`)).not.toBeNull();
  });

  it("of several the first scan or solid begins the job and the others follow in their order", () => {
    const { first, rest } = firstOf(["sizes.csv", "upper.stl", "lower.stl", "seen.jpg"].map(file));
    expect(first?.name).toBe("upper.stl");
    expect(names(rest)).toEqual(["sizes.csv", "lower.stl", "seen.jpg"]);
    expect(firstOf([file("seen.jpg")]).first).toBeNull();
  });
});

describe("files dropped on the bench", () => {
  beforeEach(resetBench);
  afterEach(() => vi.unstubAllGlobals());

  const sent: { url: string; name: string }[] = [];
  const answering = (refused: string | null) => {
    sent.length = 0;
    vi.stubGlobal("fetch", async (url: string, { body }: { body: FormData }) => {
      const name = (body.get("file") as File).name;
      sent.push({ url, name });
      const problem = { code: "bad-file", message: "no table" };
      const bad = name === refused;
      return new Response(JSON.stringify(bad ? { problem } : sampleJob({ version: 3 + sent.length })), {
        status: bad ? 422 : 200,
      });
    });
  };
  const drop = (files: File[]) => {
    const zone = screen.getByText("the bench");
    const dataTransfer = { types: ["Files"], files };
    fireEvent.dragOver(zone, { dataTransfer });
    expect(screen.getByText(/^Drop: scans/)).toBeInTheDocument();
    fireEvent.drop(zone, { dataTransfer });
  };

  it("go through the door of their sort one after another, each on what the last one left", async () => {
    answering(null);
    onBench(<DropAnywhere>the bench</DropAnywhere>);
    drop(["sizes.csv", "print.pdf", "seen.png"].map(file));
    await waitFor(() => expect(sent).toHaveLength(3));
    expect(sent.map((s) => s.url)).toEqual([
      "/api/jobs/j/readings.csv?version=3",
      "/api/jobs/j/pictures?version=4&role=drawing",
      "/api/jobs/j/pictures?version=5&role=photo",
    ]);
    await waitFor(() => expect(screen.queryByRole("status")).toBeNull());
  });

  it("are not held up by one that is refused, or by one that is nothing we know", async () => {
    answering("bad.csv");
    onBench(<DropAnywhere>the bench</DropAnywhere>);
    drop(["notes.txt", "bad.csv", "good.csv"].map(file));
    await waitFor(() => expect(sent.map((s) => s.name)).toEqual(["bad.csv", "good.csv"]));
  });

  it("that have waited since the shelf are brought in when the bench opens, once", async () => {
    answering(null);
    act(() => useWaiting.getState().wait([file("sizes.csv")]));
    onBench(<DropAnywhere>the bench</DropAnywhere>);
    await waitFor(() => expect(sent).toHaveLength(1));
    expect(useWaiting.getState().files).toEqual([]);
  });

  it("are not all that may be dragged: text is left alone", () => {
    answering(null);
    onBench(<DropAnywhere>the bench</DropAnywhere>);
    fireEvent.dragOver(screen.getByText("the bench"), { dataTransfer: { types: ["text/plain"] } });
    expect(screen.queryByText(/^Drop: scans/)).toBeNull();
  });
});

describe("the evidence list", () => {
  beforeEach(resetBench);

  it("has the desks as doors, and says how many values there are", async () => {
    const job = sampleJob();
    const values = [{ id: "v", name: "bore_d", value: { text: "18 mm", mark: "intent", note: "" } }] as never;
    onBench(<EvidenceList />, { ...job, recipe: { ...job.recipe, values } });
    await userEvent.click(screen.getByRole("button", { name: "By caliper" }));
    expect(useTool.getState().panel).toBe("desk");
    await userEvent.click(screen.getByRole("button", { name: "By photo" }));
    expect(useTool.getState().panel).toBe("photo");
    await userEvent.click(screen.getByRole("button", { name: "Readings (1)" }));
    expect(useTool.getState().panel).toBe("values");
  });
});
