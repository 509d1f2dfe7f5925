import { Button } from "antd";
import { type NamedSet, useTakeSet, wholes } from "../pick/useTakeSet";
import { useAppearance } from "../view/appearance";
import { useBench } from "./context";

const facetsIn = (set: NamedSet) => set.parts.reduce((n, p) => n + (p.part === "facets" ? p.picked.count : 0), 0);

/** Hides and shows the bodies and the evidence of a set together. */
function Hide({ set }: { set: NamedSet }) {
  const { hidden, hide, show } = useAppearance();
  const ids = wholes(set);
  if (!ids.length) return null;
  const out = ids.every((id) => hidden.includes(id));
  return (
    <button
      type="button"
      className="link small"
      aria-label={`${out ? "Show" : "Hide"} ${set.name}`}
      onClick={() => (out ? show : hide)(ids)}
    >
      {out ? "Show" : "Hide"}
    </button>
  );
}

/** Choices that were given a name: a click chooses the same again. */
export function SetList() {
  const { job, edit } = useBench();
  const take = useTakeSet();
  const sets = job.recipe.sets ?? [];
  if (!sets.length) return null;
  return (
    <section aria-label="Named choices">
      <h2>Named choices</h2>
      <ul className="set-list">
        {sets.map((s) => (
          <li key={s.id}>
            <button type="button" className="link" onClick={() => void take(s)}>
              {s.name}
            </button>
            <span className="quiet figures">
              {facetsIn(s) ? `${facetsIn(s).toLocaleString("en")} facets` : s.parts.length}
            </span>
            <Hide set={s} />
            <Button
              size="small"
              type="text"
              aria-label={`Drop the choice ${s.name}`}
              onClick={() => void edit({ op: "drop-set", id: s.id })}
            >
              ×
            </Button>
          </li>
        ))}
      </ul>
    </section>
  );
}
