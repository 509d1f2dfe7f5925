import { Button } from "antd";
import type { Variant } from "../api/client";
import { useBench } from "../job/context";
import { signed } from "../units";
import { NameInput } from "../values/NameInput";

interface Props {
  variant: Variant;
  shown: { id: string; largest: number | null } | null;
  onLook: (id: string) => void;
}

/** A variant's name, and what can be done with it as a whole. */
export function VariantHead({ variant: v, shown, onLook }: Props) {
  const { unit, edit } = useBench();
  const looked = shown?.id === v.id ? shown : null;
  return (
    <th scope="col" className="variant-head">
      <div className="value-line">
        <NameInput name={v.name} onCommit={(name) => void edit({ op: "put-variant", id: v.id, name })} />
        <Button
          size="small"
          type="text"
          aria-label={`Drop the variant ${v.name}`}
          onClick={() => void edit({ op: "drop-variant", id: v.id })}
        >
          ×
        </Button>
      </div>
      <div className="variant-acts">
        <Button size="small" type="link" aria-pressed={looked !== null} onClick={() => onLook(v.id)}>
          {looked ? "Hide" : "What moves"}
        </Button>
        <Button size="small" type="link" onClick={() => void edit({ op: "take-variant", id: v.id })}>
          Take it
        </Button>
      </div>
      {looked && (
        <div className="quiet small figures">
          {looked.largest === null
            ? "measuring …"
            : looked.largest
              ? `most ${signed(looked.largest, unit, 1)}`
              : "nothing moves"}
        </div>
      )}
    </th>
  );
}
