import { Button } from "antd";
import { factsOf } from "../api/facts";
import { useOpenSection } from "../section/useOpenSection";
import { share } from "../units";
import type { KindView } from "./kindView";
import { some } from "./rows";

const rows: KindView["rows"] = (facts) => {
  const told = factsOf(facts, "sector");
  if (!told) return [];
  return some(
    ["Alike around the axis", `${told.alike}, one of ${told.angle.toFixed(2)}°`],
    told.agree != null && ["Agrees with the next one", share(told.agree)],
  );
};

/** Its outline, square to the axis and through its middle. */
const Actions: KindView["Actions"] = ({ step, state }) => {
  const section = useOpenSection();
  const told = factsOf(state.facts, "sector");
  const axis = (step.params as { axis?: { id: string } | null }).axis;
  if (!told || !axis) return null;
  return (
    <Button type="primary" onClick={() => section.across(axis.id, told.middle)}>
      Cut across it
    </Button>
  );
};

const Word: KindView["Word"] = ({ state }) => {
  const told = factsOf(state.facts, "sector");
  return told && <>one of {told.alike}</>;
};

export const view: KindView = { rows, Word, Actions, wordAlone: true, waits: (params) => !params.axis };
