import { Button } from "antd";
import { Glyph } from "../ui/Glyph";
import { area } from "../units";
import { faceOn, goTo } from "../view/stage";
import { useBench } from "./context";
import { faceRef, faceTitle } from "./stepValues";
import { usePicks, useTool } from "./stores";
import { useCardKeys } from "./useCardKeys";

/** Faces of bodies that are picked, and what can be done with just those. */
export function FaceCard() {
  const { job, unit, scanId } = useBench();
  const { faces, clear } = usePicks();
  const openDraft = useTool((s) => s.openDraft);
  const first = faces[0]!;
  const one = faces.length === 1;
  const body = job.build.result?.bodies.find((b) => b.id === first.body)?.name ?? "the body";
  const sameBody = faces.every((f) => f.body === first.body);
  const seatable = faces.filter((f) => f.face.kind === "plane" || f.face.kind === "cylinder");
  const seat = (chosen: typeof faces) => {
    clear();
    openDraft({
      kind: "seat",
      params: {
        scan: { id: scanId },
        body: { id: first.body },
        tilt: { text: "3 deg", mark: "assumed" },
        pairs: chosen.map((f) => ({ face: faceRef(f.body, f.face), region: null, seeds: [] })),
      },
    });
  };
  const cut = () => {
    clear();
    openDraft({
      kind: "cut",
      params: {
        body: { id: first.body },
        face: faceRef(first.body, first.face),
        plane: null,
        offset: { text: unit === "inch" ? "-0.1 inch" : "-2 mm", mark: "assumed" },
        keep: "back",
      },
    });
  };
  const actions = [
    ...(sameBody && seatable.length && scanId
      ? [
          { key: "1", text: one ? "Seat on the scan" : `Seat these ${seatable.length}`, run: () => seat(seatable) },
          { key: "2", text: "Seat all faces", run: () => seat([]) },
        ]
      : []),
    ...(one && first.face.kind === "plane"
      ? [
          { key: "3", text: "Cut along it", run: cut },
          {
            key: "4",
            text: "Look at it",
            run: () => first.face.axis && faceOn(first.face.centre as never, first.face.axis as never),
          },
        ]
      : [{ key: "4", text: "Go there", run: () => goTo(first.face.centre as never) }]),
  ];
  useCardKeys(actions);
  return (
    <section className="card" aria-label="Selection">
      <header>
        <Glyph kind={first.face.kind} />
        <h3>{one ? faceTitle(first.face, unit) : `${faces.length} faces`}</h3>
      </header>
      <p className="quiet">
        {one
          ? `${first.face.label}, on ${body}`
          : `together ${area(
              faces.reduce((sum, f) => sum + f.face.area, 0),
              unit,
            )}, on ${sameBody ? body : "several bodies"}`}
      </p>
      <div className="card-actions">
        {actions.map((a) => (
          <Button key={a.key} size="small" onClick={a.run}>
            <kbd>{a.key}</kbd> {a.text}
          </Button>
        ))}
        <Button size="small" type="text" onClick={clear}>
          <kbd>Esc</kbd> Let go
        </Button>
      </div>
      <p className="quiet small">Shift-click takes more faces · right-click lists what lies behind</p>
    </section>
  );
}
