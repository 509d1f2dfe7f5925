import { act, screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { BoxGeometry, Mesh } from "three";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { usePicks } from "../pick/picks";
import { useTool } from "../sheets/tool";
import { resetBench } from "../shell/reset";
import { onBench } from "../test/bench";
import { useAppearance } from "../view/appearance";
import { stage } from "../view/stage";
import { Actions } from "./Actions";
import { type Action, fits, found } from "./action";
import { useOpenList } from "./open";
import { usePinned } from "./pinned";

const action = (title: string, help = "", part: Partial<Action> = {}): Action => ({ id: title, group: "Look", title, help, run: vi.fn(), ...part }); // biome-ignore format: one object

describe("a search for actions", () => {
  it("wants every word, and counts the title more than what it does", () => {
    const [hide, show] = [
      action("Hide the chosen", "what is picked"),
      action("Show everything", "nothing stays hidden"),
    ];
    expect(fits(hide, "hide")).toBeGreaterThan(fits(show, "hid"));
    expect(fits(hide, "hide picked")).toBeGreaterThan(0);
    expect(fits(hide, "hide nothing")).toBe(0);
    expect(found([show, hide], "hid").map((a) => a.title)).toEqual(["Hide the chosen", "Show everything"]);
    expect(found([show, hide], "")).toHaveLength(2);
  });
});

describe("actions on the bench", () => {
  const home = vi.fn();
  const move = vi.fn();
  const bench = () => onBench(<Actions onHome={home} onMove={move} />);
  beforeEach(() => {
    resetBench();
    useOpenList.getState().set(null);
    home.mockClear();
  });

  it("are found by name and taken with Enter", async () => {
    bench();
    await userEvent.keyboard("/");
    const box = screen.getByRole("combobox", { name: "Search actions" });
    await userEvent.type(box, "deliv");
    expect(screen.getAllByRole("option")[0]).toHaveTextContent("Deliver");
    await userEvent.keyboard("{Enter}");
    expect(useTool.getState().panel).toBe("deliver");
    expect(useOpenList.getState().open).toBeNull();
  });

  it("begin a step with the face that is picked, where it is begun so, and else with nothing", async () => {
    bench();
    const face = { name: "pad.end[p1]", kind: "plane", label: "Pad, end", area: 1, centre: [0, 0, 0], beside: [] };
    const pick = { body: "b1", key: "k1", index: 0, face: face as never };
    const search = async (text: string) => {
      await userEvent.keyboard("/");
      await userEvent.type(screen.getByRole("combobox", { name: "Search actions" }), `${text}{Enter}`);
    };
    act(() => usePicks.getState().setParts({ faces: [pick] }, null, "replace"));
    await search("level faces");
    expect(useTool.getState().draft?.params.lead).toMatchObject({ body: "b1", name: "pad.end[p1]" });
    expect(usePicks.getState().faces).toEqual([]);
    act(() => useTool.getState().close());
    await search("level faces");
    expect(useTool.getState().draft?.kind).toBe("level");
    expect(useTool.getState().draft?.params.lead).toBeUndefined();
  });

  it("cut the scan across its longest extent, whatever is chosen", async () => {
    stage.scan = new Mesh(new BoxGeometry(20, 84, 18).translate(0, 30, 9));
    stage.scan.geometry.computeBoundingBox();
    bench();
    await userEvent.keyboard("/");
    await userEvent.type(screen.getByRole("combobox", { name: "Search actions" }), "section part{Enter}");
    expect(useTool.getState().section).toMatchObject({
      region: null,
      origin: [0, 30, 9],
      normal: [0, 1, 0],
      clip: true,
    });
    act(() => useTool.getState().close());
    stage.scan = null;
  });

  it("are pinned to a short row, which the browser keeps, and taken off again", async () => {
    window.localStorage.removeItem("pinned-actions");
    usePinned.setState({ ids: [] });
    bench();
    expect(screen.queryByRole("toolbar", { name: "Pinned actions" })).toBeNull();
    await userEvent.keyboard("/");
    await userEvent.type(
      screen.getByRole("combobox", { name: "Search actions" }),
      "deliv{Control>}{Enter}{/Control}{Escape}",
    );
    expect(useTool.getState().panel).toBeNull(); // pinned, not done
    const row = screen.getByRole("toolbar", { name: "Pinned actions" });
    await userEvent.click(within(row).getByRole("button", { name: /Deliver/ }));
    expect(useTool.getState().panel).toBe("deliver");
    expect(JSON.parse(window.localStorage.getItem("pinned-actions")!)).toHaveLength(1);
    act(() => usePinned.getState().toggle(usePinned.getState().ids[0]!));
    expect(screen.queryByRole("toolbar", { name: "Pinned actions" })).toBeNull();
  });

  it("are pinned eight at most: the oldest goes", () => {
    usePinned.setState({ ids: [] });
    for (let n = 0; n < 10; n++) usePinned.getState().toggle(`a${n}`);
    expect(usePinned.getState().ids).toEqual(["a2", "a3", "a4", "a5", "a6", "a7", "a8", "a9"]);
    usePinned.setState({ ids: [] });
  });

  it("begin every kind of step that can be begun from nothing", async () => {
    bench();
    await userEvent.keyboard("/");
    await userEvent.type(screen.getByRole("combobox"), "chamfer");
    await userEvent.keyboard("{Enter}");
    expect(useTool.getState().draft).toMatchObject({ kind: "chamfer", params: { by: "equal" } });
  });

  it("have keys, which stand on one page and wait while something is typed", async () => {
    bench();
    await userEvent.keyboard("w");
    expect(home).toHaveBeenCalledTimes(1);
    await userEvent.keyboard("?");
    expect(screen.getByText("Show the chosen alone")).toBeInTheDocument();
    await userEvent.keyboard("w");
    expect(home).toHaveBeenCalledTimes(1);
  });

  it("hide what is chosen, show it alone, and bring everything back", async () => {
    bench();
    await userEvent.keyboard("x");
    expect(useAppearance.getState().hidden).toEqual([]); // nothing is chosen
    act(() => useTool.getState().select("x"));
    await userEvent.keyboard("x");
    expect(useAppearance.getState().hidden).toEqual(["x"]);
    await userEvent.keyboard("X");
    expect(useAppearance.getState().hidden).toEqual([]);
    act(() => usePicks.getState().start(3, [0, 0, 0]));
    await userEvent.keyboard("o");
    expect(useAppearance.getState().hidden).toEqual(["x"]); // the body; the scan is what was picked
    await userEvent.keyboard("/");
    await userEvent.type(screen.getByRole("combobox"), "show all bodies");
    await userEvent.keyboard("{Enter}");
    expect(useAppearance.getState().hidden).toEqual([]);
  });

  it("turn the view by a digit after q", async () => {
    bench();
    await userEvent.keyboard("q");
    expect(screen.getByRole("toolbar", { name: "Look from" })).toHaveTextContent("5top");
    await userEvent.keyboard("5");
    expect(useOpenList.getState().open).toBeNull();
  });
});
