import { Button } from "antd";
import { useKinds } from "../api/kinds";
import { useTool } from "../sheets/tool";

/** A step whose sheet was closed after something had been chosen in it, by a click beside it say: it can be taken up again. */
export function PutDown() {
  const kinds = useKinds();
  const { putDown, takeUp, forget } = useTool();
  const busy = useTool((s) => Boolean(s.draft || s.section || s.repair || s.copied));
  const kind = putDown && kinds[putDown.kind];
  if (!kind || busy) return null;
  return (
    <section className="next" aria-label="Put down">
      <span className="quiet">{`'${kind.title}' was put down half done.`}</span>
      <Button size="small" onClick={takeUp}>
        Take it up again
      </Button>
      <button
        type="button"
        className="link small"
        title="let it go"
        aria-label={`Let '${kind.title}' go`}
        onClick={forget}
      >
        ×
      </button>
    </section>
  );
}
