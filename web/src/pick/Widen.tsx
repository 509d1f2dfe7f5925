import { Button } from "antd";

export interface Way {
  /** Places of the parts in the body's list; the picked one is among them. */
  places: number[];
  /** After "all n". */
  text: string;
}

/** From one picked part to all that go together with it: ways that add nothing, or the same as another, are not offered. */
export function Widen({ ways, onTake }: { ways: readonly Way[]; onTake: (places: number[]) => void }) {
  const told = new Set<string>();
  return ways
    .filter(({ places }) => {
      const key = places.join();
      const fresh = places.length > 1 && !told.has(key);
      told.add(key);
      return fresh;
    })
    .map(({ places, text }) => (
      <Button key={text} size="small" type="text" onClick={() => onTake(places)}>
        All {places.length} {text}
      </Button>
    ));
}
