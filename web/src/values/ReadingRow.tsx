import { Button, Input } from "antd";
import type { Reading, SetReading } from "../api/client";
import { type ReadingFacts, readingText } from "../desk/facts";
import { TakeList } from "../desk/TakeList";
import { useBench } from "../job/context";
import { Stamp } from "../ui/Stamp";
import { NameInput } from "./NameInput";

/** A reading with its takes, its note and what uses it. */
export function ReadingRow({
  reading: r,
  facts: f,
  usedBy: by,
}: {
  reading: Reading;
  facts: ReadingFacts | undefined;
  usedBy: string[];
}) {
  const { unit, edit } = useBench();
  const takes = r.takes ?? [];
  const set = (part: Partial<SetReading>) => void edit({ op: "set-reading", id: r.id, ...part });
  return (
    <div className="named">
      <div className="value-line">
        <Stamp mark="caliper" />
        <NameInput name={r.name} onCommit={(name) => set({ name })} />
        <span className="figures reading-mean">{readingText(f, unit)}</span>
        <Button
          size="small"
          type="text"
          aria-label={`Delete ${r.name}`}
          onClick={() => void edit({ op: "delete-value", id: r.id })}
        >
          ×
        </Button>
      </div>
      <TakeList reading={r} facts={f} />
      <Input
        size="small"
        variant="borderless"
        aria-label={`Note on ${r.name}`}
        placeholder="where and how it was measured"
        defaultValue={r.note}
        onKeyDown={(e) => e.stopPropagation()}
        onBlur={(e) => e.target.value !== r.note && set({ note: e.target.value })}
      />
      <div className="named-note">
        <span>
          {takes.length} {takes.length === 1 ? "take" : "takes"}
        </span>
        <span>{by.length ? `used by ${by.join(", ")}` : "not used yet"}</span>
      </div>
    </div>
  );
}
