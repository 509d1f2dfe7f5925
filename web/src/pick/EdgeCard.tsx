import { Button } from "antd";
import { useKinds } from "../api/kinds";
import { useBench } from "../job/context";
import { useBegin } from "../sheets/useBegin";
import { Glyph } from "../ui/Glyph";
import { length } from "../units";
import { goTo } from "../view/stage";
import { coaxial, edgesOfSize, ofKind } from "./alike";
import { byEdges } from "./begunBy";
import { chainOf, edgeTitle } from "./parts";
import { type EdgePick, usePicks } from "./picks";
import { SaveSet } from "./SaveSet";
import { useBorders } from "./useBorders";
import { useCardKeys } from "./useCardKeys";
import { Widen } from "./Widen";

const EDGES: Record<string, string> = { line: "straight edges", circle: "round edges" };

/** Edges of bodies that are picked, and what can be begun with just those. */
export function EdgeCard() {
  const edges = usePicks((s) => s.edges);
  return edges.length > 0 ? <Card edges={edges} /> : null;
}

function Card({ edges }: { edges: readonly EdgePick[] }) {
  const { job, unit } = useBench();
  const { clear, anchor, setParts } = usePicks();
  const begin = useBegin();
  const kinds = useKinds();
  const first = edges[0]!;
  const borders = useBorders(first.key);
  const one = edges.length === 1;
  const body = job.build.result?.bodies.find((b) => b.id === first.body)?.name ?? "the body";
  const smooth = edges.some((e) => e.edge.smooth);
  const border = edges.some((e) => e.edge.border);
  const ways = borders
    ? [
        { places: chainOf(borders, first.index), text: "that run on" },
        { places: edgesOfSize(borders.edges, first.edge), text: "of this size" },
        { places: coaxial(borders.edges, first.edge), text: "on this axis" },
        { places: ofKind(borders.edges, first.edge), text: EDGES[first.edge.kind] ?? "curved ones" },
      ]
    : [];
  const take = (places: number[]) =>
    borders &&
    setParts({ edges: places.map((index) => ({ ...first, index, edge: borders.edges[index]! })) }, anchor, "replace");
  const actions = [
    ...byEdges(kinds, edges).map(({ kind, params }, k) => ({
      key: String(k + 1),
      text: kind.title,
      hint: kind.help,
      run: () => {
        begin(kind, params);
      },
    })),
  ];
  useCardKeys(actions);
  const total = edges.reduce((sum, e) => sum + e.edge.length, 0);
  return (
    <section className="card" aria-label="Selection">
      <header>
        <Glyph kind="edge" />
        <h3>{one ? edgeTitle(first.edge, unit) : `${edges.length} edges`}</h3>
      </header>
      <p className="quiet">{one ? `${first.edge.label}, on ${body}` : `together ${length(total, unit)}, on ${body}`}</p>
      {one && first.edge.kind === "circle" && <p className="figures">{length(first.edge.length, unit)} long</p>}
      {border && <p className="quiet">The body is open here: only one face ends at it.</p>}
      {smooth && <p className="quiet">The faces run into one another here: there is no edge to work on.</p>}
      <div className="card-actions">
        {actions.map((a) => (
          <Button key={a.key} size="small" onClick={a.run} title={a.hint}>
            <kbd>{a.key}</kbd> {a.text}
          </Button>
        ))}
        <Button size="small" onClick={() => first.edge.centre && goTo(first.edge.centre)}>
          Go there
        </Button>
      </div>
      <div className="card-actions">
        {one && <Widen ways={ways} onTake={take} />}
        <SaveSet />
        <Button size="small" type="text" onClick={clear}>
          <kbd>Esc</kbd> Clear selection
        </Button>
      </div>
      <p className="quiet small">Shift-click takes more edges · right-click lists what lies behind</p>
    </section>
  );
}
