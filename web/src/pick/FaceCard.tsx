import { Button } from "antd";
import { useKinds } from "../api/kinds";
import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import { useBegin } from "../sheets/useBegin";
import { useNewSketch } from "../sketch/useNewSketch";
import { faceRef, faceTitle } from "../steps/stepValues";
import { useFaces } from "../steps/useFaces";
import { Glyph } from "../ui/Glyph";
import { plural, surfaceName } from "../ui/surfaces";
import { area } from "../units";
import { faceOn, goTo } from "../view/stage";
import { coaxial, facesOfSize, ofKind } from "./alike";
import { byFaces } from "./begunBy";
import { MoreKinds } from "./MoreKinds";
import { usePicks } from "./picks";
import { SaveSet } from "./SaveSet";
import type { Begun } from "./starts";
import { useCardKeys } from "./useCardKeys";
import { Widen } from "./Widen";

/** Digits that the card has for kinds of steps; the others stand for the same thing on every card. */
const FREE = ["3", "4", "5", "6", "8", "0"];

/** Faces of bodies that are picked, and what can be done with just those. */
export function FaceCard() {
  const { job, unit, scanId } = useBench();
  const { faces, anchor, clear, setParts } = usePicks();
  const openDraft = useTool((s) => s.openDraft);
  const open = useBegin();
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
  const all = useFaces(one ? first.key : null);
  const ways = [
    { places: coaxial(all, first.face), text: "on this axis" },
    { places: facesOfSize(all, first.face), text: "of this size" },
    { places: ofKind(all, first.face), text: plural(surfaceName(first.face.kind, first.face.inside === true)) },
  ];
  const take = (places: number[]) =>
    setParts({ faces: places.map((index) => ({ ...first, index, face: all[index]! })) }, anchor, "replace");
  const whole = () => setParts({ bodies: [{ body: first.body, key: first.key }] }, anchor, "replace");
  const kinds = useKinds();
  const draw = useNewSketch();
  const started = byFaces(kinds, faces);
  const begin = ({ kind, params }: Begun) => open(kind, params);
  const actions = [
    ...(sameBody && seatable.length && scanId
      ? [
          { key: "1", text: one ? "Seat on the scan" : `Seat these ${seatable.length}`, run: () => seat(seatable) },
          { key: "2", text: "Seat all faces", run: () => seat([]) },
        ]
      : []),
    ...(one && first.face.kind === "plane"
      ? [{ key: "7", text: "Draw on it", run: () => void draw(faceRef(first.body, first.face)) }]
      : []),
    ...started
      .filter((s) => !s.seldom)
      .map((s, k) => ({ key: FREE[k] ?? "", text: s.kind.title, run: () => begin(s) })),
    ...(one && first.face.kind === "plane"
      ? [
          {
            key: "9",
            text: "Look at it",
            run: () => first.face.axis && faceOn(first.face.centre, first.face.axis),
          },
        ]
      : [{ key: "9", text: "Go there", run: () => goTo(first.face.centre) }]),
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
          <Button key={a.text} size="small" onClick={a.run}>
            {a.key && <kbd>{a.key}</kbd>} {a.text}
          </Button>
        ))}
        <MoreKinds offers={started.filter((s) => s.seldom)} onBegin={begin} size="small" />
      </div>
      <div className="card-actions">
        {one && <Widen ways={ways} onTake={take} />}
        {sameBody && (
          <Button size="small" type="text" onClick={whole}>
            The whole body
          </Button>
        )}
        <SaveSet />
        <Button size="small" type="text" onClick={clear}>
          <kbd>Esc</kbd> Clear selection
        </Button>
      </div>
      <p className="quiet small">Shift-click takes more faces · right-click lists what lies behind</p>
    </section>
  );
}
