import { Button, Dropdown } from "antd";
import { useKinds } from "../api/kinds";
import { useBench } from "../job/context";
import { usePicks } from "../pick/picks";
import { plainParams } from "../pick/starts";
import { useTool } from "../sheets/tool";

const OWN_BUTTON = ["align", "merge", "mend"];

/** Steps that change the scan: put on its axes, merged with others, mended one way or another. */
export function ScanWork() {
  const { job, scanId } = useBench();
  const openDraft = useTool((s) => s.openDraft);
  const hand = usePicks((s) => s.hand);
  const kinds = useKinds();
  const merged = job.build.result?.merged;
  const others = job.recipe.evidence.filter((s) => s.kind === "scan" && s.id !== scanId && !merged?.[s.id]);
  const more = Object.values(kinds).filter((k) => k.makes === "scan" && !OWN_BUTTON.includes(k.id));
  const draft = (kind: string, params: Record<string, unknown> = {}) => {
    const fields = (kinds[kind]?.fields ?? []).filter((f) => f.type !== "ref");
    openDraft({ kind, params: { ...plainParams(fields), scan: { id: scanId }, ...params } });
  };
  return (
    <>
      <div className="field-label">Work on it</div>
      <div className="button-rows">
        <Button onClick={() => draft("align", { primary: null, secondary: [], also: [] })}>Put on its axes</Button>
        <Button disabled={others.length === 0} onClick={() => draft("merge", { others: [] })}>
          Merge scans
        </Button>
        <Dropdown
          menu={{
            items: more.map((k) => ({ key: k.id, label: k.title, title: k.help })),
            onClick: ({ key }) => draft(key, key === "trim" && hand ? { by: "facets" } : {}),
          }}
        >
          <Button>More mends ▾</Button>
        </Dropdown>
      </div>
    </>
  );
}
