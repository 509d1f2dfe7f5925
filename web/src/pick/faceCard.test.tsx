import { screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import type { FaceFacts } from "../api/client";
import { useTool } from "../sheets/tool";
import { resetBench } from "../shell/reset";
import { answering, emptyPreview, onBench } from "../test/bench";
import { setStage } from "../test/staged";
import { stage } from "../view/stage";
import { FaceCard } from "./FaceCard";
import { type FacePick, usePicks } from "./picks";

const face = (name: string, part: Partial<FaceFacts> = {}): FaceFacts => ({ name, label: `face ${name}`, kind: "plane", beside: [], area: 400, centre: [1, 2, 10], axis: [0, 0, 1], ...part }) as FaceFacts; // biome-ignore format: one object
const bore = (name: string, diameter: number, at: [number, number, number]) =>
  face(name, { kind: "cylinder", diameter, inside: true, origin: at, axis: [0, 0, 1], centre: at });
const all = [
  face("top"),
  bore("a", 8, [0, 0, 0]),
  bore("b", 8, [20, 0, 0]),
  bore("c", 12, [20, 0, -9]),
  face("wave", { kind: "freeform", axis: undefined }),
];
const pick = (index: number, body = "x"): FacePick => ({ body, key: `k-${body}`, index, face: all[index]! });
const chosen = () => usePicks.getState().faces.map((f) => f.face.name);

/** As the view shows it: while faces are picked. */
const Shown = () => (usePicks((s) => s.faces.length) ? <FaceCard /> : null);

function carded(...picks: FacePick[]) {
  picks.forEach((p, k) => {
    usePicks.getState().pickFace(p, [0, 0, 0], k > 0);
  });
  return onBench(<Shown />);
}

describe("the card of faces", () => {
  beforeEach(() => {
    resetBench();
    setStage();
    answering(({ url }) => (url.includes("/faces") ? all : emptyPreview)); // biome-ignore format: one answer
  });

  it("says what one face is and whose", () => {
    carded(pick(1));
    expect(screen.getByRole("heading")).toHaveTextContent(/8\.00 mm/);
    expect(screen.getByText("face a, on Block")).toBeInTheDocument();
  });

  it("adds up several, and says where they belong to more than one body", () => {
    carded(pick(0), pick(1), pick(2, "y"));
    expect(screen.getByRole("heading")).toHaveTextContent("3 faces");
    expect(screen.getByText(/together 1,200 mm², on several bodies/)).toBeInTheDocument();
    expect(screen.queryByRole("button", { name: /Seat/ })).not.toBeInTheDocument();
    expect(screen.queryByRole("button", { name: "The whole body" })).not.toBeInTheDocument();
  });

  it("seats just the faces that can be seated, with their names as pairs", async () => {
    carded(pick(0), pick(1), pick(4));
    await userEvent.click(screen.getByRole("button", { name: /Seat these 2/ }));
    const { draft } = useTool.getState();
    expect(draft).toMatchObject({ kind: "seat", params: { scan: { id: "s" }, body: { id: "x" } } });
    const { pairs } = draft!.params as { pairs: { face: { name: string } }[] };
    expect(pairs.map((p) => p.face.name)).toEqual(["top", "a"]);
    expect(chosen()).toEqual([]);
  });

  it("a freeform face alone cannot be seated, but gone to", async () => {
    carded(pick(4));
    expect(screen.queryByRole("button", { name: /Seat/ })).not.toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: /Go there/ }));
    expect(stage.now!.controls!.target.toArray()).toEqual([1, 2, 10]);
  });

  it("looks straight onto a plane", async () => {
    carded(pick(0));
    await userEvent.keyboard("9");
    expect(stage.now!.controls!.target.toArray()).toEqual([1, 2, 10]);
    const away = stage.now!.camera.position.clone().sub(stage.now!.controls!.target).normalize();
    expect(away.z).toBeGreaterThan(0.99);
  });

  it("widens to what shares its axis, its size or its kind", async () => {
    carded(pick(2));
    await userEvent.click(await screen.findByRole("button", { name: /All 2 of this size/ }));
    expect(chosen()).toEqual(["a", "b"]);
    usePicks.getState().pickFace(pick(2), [0, 0, 0], false);
    await userEvent.click(await screen.findByRole("button", { name: /All 2 on this axis/ }));
    expect(chosen()).toEqual(["b", "c"]);
    usePicks.getState().pickFace(pick(2), [0, 0, 0], false);
    await userEvent.click(await screen.findByRole("button", { name: /All 3 / }));
    expect(chosen()).toEqual(["a", "b", "c"]);
  });

  it("goes up to the body, and lets go", async () => {
    carded(pick(0));
    await userEvent.click(screen.getByRole("button", { name: "The whole body" }));
    expect(usePicks.getState()).toMatchObject({ faces: [], bodies: [{ body: "x", key: "k-x" }] });
  });

  it("lets go of everything", async () => {
    carded(pick(0), pick(1));
    await userEvent.click(screen.getByRole("button", { name: /Clear selection/ }));
    expect(chosen()).toEqual([]);
  });

  it("gives each thing to do a digit of its own", () => {
    carded(pick(0));
    const digits = [...document.querySelectorAll(".card-actions kbd")].map((k) => k.textContent);
    expect(new Set(digits).size).toBe(digits.length);
    expect(screen.getByRole("button", { name: /Draw on it/ })).toBeInTheDocument();
    expect(screen.getByRole("button", { name: /Move faces/ })).toBeInTheDocument();
  });

  it("keeps what is seldom wanted under More, and begins that too", async () => {
    carded(pick(0));
    expect(screen.queryByRole("button", { name: "Thicken" })).not.toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "More …" }));
    await userEvent.click(await screen.findByText("Thicken"));
    expect(useTool.getState().draft).toMatchObject({ kind: "thicken", params: { faces: [{ name: "top" }] } });
  });

  it("offers with two faces what joins two", async () => {
    carded(pick(0), pick(4));
    await userEvent.click(screen.getByRole("button", { name: /Fillet between faces/ }));
    expect(useTool.getState().draft).toMatchObject({
      kind: "face_fillet",
      params: { first: { name: "top" }, second: { name: "wave" } },
    });
  });

  it("begins every kind that takes such a face, told which body it is", async () => {
    carded(pick(0));
    const cut = screen.getByRole("button", { name: /Cut/ });
    await userEvent.click(cut);
    expect(useTool.getState().draft).toMatchObject({ kind: "cut", params: { body: { id: "x" } } });
  });
});
