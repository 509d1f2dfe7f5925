import { Button } from "antd";
import { useState } from "react";
import { useBench } from "../job/context";
import { useArmed } from "../pick/armed";
import { PartsList } from "../pick/PartsList";
import { FieldLabel, type FieldProps } from "./FieldLabel";
import { faceRef } from "./stepValues";

/** A face of a body, picked in the view. */
export function FaceField({ field, value, onChange }: FieldProps) {
  const { armed, arm } = useArmed();
  const { job } = useBench();
  const ref = value as { name: string; kind: string; body: string } | null;
  const body = job.recipe.steps.find((s) => s.id === ref?.body)?.name;
  const hint = `Click a face on a body: ${field.label.toLowerCase()}`;
  const [listed, setListed] = useState(false);
  const waiting = armed?.hint === hint;
  return (
    <div>
      <FieldLabel field={field} />
      <div className="value-line">
        <span className="face-said">{ref ? `${ref.kind || "face"} of ${body ?? "a body"}` : "none"}</span>
        <Button
          size="small"
          type={waiting ? "primary" : "default"}
          onClick={() =>
            arm(
              waiting
                ? null
                : {
                    hint,
                    onFace: (pick) => {
                      onChange({ [field.name]: faceRef(pick.body, pick.face) });
                      arm(null);
                    },
                  },
            )
          }
        >
          {waiting ? "click it in the view" : ref ? "Pick another" : "Pick"}
        </Button>
        {waiting && (
          <Button size="small" type="text" aria-expanded={listed} onClick={() => setListed(!listed)}>
            {listed ? "Close the list" : "From a list"}
          </Button>
        )}
        {ref && !waiting && (
          <Button size="small" type="text" onClick={() => onChange({ [field.name]: null })}>
            Clear
          </Button>
        )}
      </div>
      {waiting && listed && <PartsList chosen={ref ? [ref.name] : []} />}
    </div>
  );
}
