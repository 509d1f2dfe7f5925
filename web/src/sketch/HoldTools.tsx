import { Button, Input, Popover } from "antd";
import { useState } from "react";
import { endsOf, type Shown } from "./drawing";
import { RELATIONS, type RelationKind, relationOf, type SizeKind, sizesOf } from "./relations";
import { entitiesIn, useHand, useHandOf } from "./store";
import type { Do } from "./stroke";

const SIZE_WORDS: Record<SizeKind, string> = {
  distance: "distance",
  "horizontal-distance": "distance along the first axis",
  "vertical-distance": "distance along the second axis",
  length: "length",
  angle: "angle",
  radius: "radius",
  diameter: "diameter",
  "arc-length": "length of the arc",
};

/** What can be held of what is chosen: a size, and every relation that makes sense for just that. */
export function HoldTools({ shown, act }: { shown: Shown; act: Do }) {
  const { chosen, set } = useHandOf("chosen", "set");
  const of = entitiesIn(shown, chosen);
  const relations = (Object.keys(RELATIONS) as RelationKind[]).flatMap((kind) => {
    const args = relationOf(shown.drawing, of, kind);
    return args ? [{ kind, args }] : [];
  });
  const relate = (kind: RelationKind, args: string[]) => {
    set({ chosen: [] });
    void act([{ act: "relate", kind, of: args, value: null }]);
  };
  const parts = of.filter(
    (id) =>
      endsOf(shown.drawing, id).length > 0 && ["arc", "ellipse"].includes(shown.drawing.entities?.[id]?.kind ?? ""),
  );
  const following = (shown.drawing.taken ?? []).flatMap((l) => l.pieces.filter((p) => p.taken).map((p) => p.id));
  const led = of.filter((id) => following.includes(id) || shown.drawing.entities?.[id]?.linked);
  const helper = of.some(
    (id) => "construction" in (shown.drawing.entities?.[id] ?? {}) && shown.drawing.entities?.[id]?.construction,
  );
  return (
    <>
      <NewSize shown={shown} of={of} act={act} />
      {relations.map((r) => (
        <Button key={r.kind} size="small" title={RELATIONS[r.kind].help} onClick={() => relate(r.kind, r.args)}>
          {RELATIONS[r.kind].word}
        </Button>
      ))}
      {parts.length > 0 && parts.length === of.length && (
        <Button size="small" title="arcs become circles" onClick={() => void act([{ act: "complete", of: parts }])}>
          whole
        </Button>
      )}
      {led.length > 0 && (
        <Button
          size="small"
          title="these follow the scan, the body or the sketch they come from no longer"
          onClick={() => void act([{ act: "detach", of: led }])}
        >
          detach
        </Button>
      )}
      {of.length > 0 && (
        <Button
          size="small"
          title="lines and curves that only help bound nothing"
          onClick={() => void act([{ act: "construction", of, on: !helper }])}
        >
          {helper ? "drawn again" : "only a helper"}
        </Button>
      )}
    </>
  );
}

/** A size of what is chosen, typed at once or left to read. */
function NewSize({ shown, of, act }: { shown: Shown; of: string[]; act: Do }) {
  const sizes = sizesOf(shown.drawing, of);
  const [open, setOpen] = useState(false);
  const add = (s: (typeof sizes)[number], value: string | null) => {
    setOpen(false);
    useHand.getState().set({ chosen: [] });
    void act([{ act: "size", kind: s.kind, of: s.of, value, supplement: s.supplement ?? false }]);
  };
  const content = (
    <div className="new-size">
      {sizes.map((s, k) => (
        <span key={s.kind} className="way-field">
          {SIZE_WORDS[s.kind]}
          <Input
            size="small"
            className="figure-input"
            aria-label={`New ${SIZE_WORDS[s.kind]}`}
            autoFocus={k === 0}
            placeholder="value"
            onKeyDown={(e) => {
              e.stopPropagation();
              if (e.key === "Enter" && e.currentTarget.value.trim()) add(s, e.currentTarget.value.trim());
              if (e.key === "Escape") setOpen(false);
            }}
          />
          <Button size="small" type="text" title="a reference size drives nothing" onClick={() => add(s, null)}>
            only read it
          </Button>
        </span>
      ))}
    </div>
  );
  return (
    <Popover
      open={open && sizes.length > 0}
      onOpenChange={setOpen}
      trigger="click"
      placement="top"
      destroyOnHidden
      content={content}
    >
      <Button size="small" disabled={sizes.length === 0} type={sizes.length ? "primary" : "default"}>
        Size …
      </Button>
    </Popover>
  );
}
