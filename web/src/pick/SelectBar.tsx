import { Segmented, Tooltip } from "antd";
import { useBench } from "../job/context";
import { useShownBodies } from "../view/useShownBodies";
import { type SelectBy, type SelectWhat, useSelecting } from "./selecting";

/** How the pointer selects, and what of what it is drawn around. */
export function SelectBar() {
  const selecting = useSelecting();
  const { scanKey } = useBench();
  const bodies = useShownBodies();
  return (
    <>
      <Segmented<SelectBy>
        size="small"
        aria-label="Select by"
        value={selecting.by}
        onChange={(by) =>
          selecting.set({
            by,
            ...(by === "lasso" && !scanKey ? { what: "edges" } : {}),
            ...(by === "brush" ? { what: "facets" } : {}),
          })
        }
        options={[
          { label: "Click", value: "click", title: "a click grows a region or picks a face" },
          { label: "Lasso", value: "lasso", title: "draw around facets" },
          { label: "Brush", value: "brush", title: "paint over facets" },
        ]}
      />
      {selecting.by === "lasso" && bodies.length > 0 && (
        <>
          <Segmented<SelectWhat>
            size="small"
            aria-label="What the lasso takes"
            value={selecting.what}
            onChange={(what) => selecting.set({ what })}
            options={[...(scanKey ? (["facets"] as const) : []), "edges", "faces", "bodies"]}
          />
          {selecting.what !== "facets" && (
            <Segmented
              size="small"
              aria-label="How much has to lie inside"
              value={selecting.whole ? "whole" : "touched"}
              onChange={(v) => selecting.set({ whole: v === "whole" })}
              options={[
                { label: "all inside", value: "whole", title: "what lies inside as a whole" },
                { label: "touched", value: "touched", title: "also what lies inside in part" },
              ]}
            />
          )}
        </>
      )}
      {selecting.by !== "click" && (
        <Tooltip title="Through takes facets on the far side as well">
          <Segmented
            size="small"
            aria-label="How deep"
            value={selecting.through ? "through" : "visible"}
            onChange={(v) => selecting.set({ through: v === "through" })}
            options={["visible", "through"]}
          />
        </Tooltip>
      )}
    </>
  );
}
