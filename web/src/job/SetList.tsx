import { Button } from "antd";
import { useTakeSet } from "../pick/useTakeSet";
import { useBench } from "./context";

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
            <span className="quiet figures">{s.parts.length}</span>
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
