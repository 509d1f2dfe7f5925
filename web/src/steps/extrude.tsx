import { sketchFacts } from "../api/facts";
import { useBench } from "../job/context";
import { ProblemNote } from "../ui/ProblemNote";
import { area } from "../units";
import { showPlace } from "../view/showPlace";
import type { KindView, PartProps } from "./kindView";

/** What of the sketch there is to extrude. */
function Profiles({ params, step }: PartProps) {
  const { job, unit } = useBench();
  const sketch = job.build.result?.steps.find((s) => s.id === (params.sketch as { id: string } | null)?.id);
  const facts = sketchFacts(sketch?.facts);
  if (step || !sketch) return null;
  const open = sketch.problems[0];
  return (
    <>
      <p className="quiet">
        {facts?.profiles
          ? `${sketch.name}: ${facts.profiles} ${facts.profiles === 1 ? "profile" : "profiles"}, ${area(facts.area ?? 0, unit)}`
          : "This sketch has no closed profile yet."}
      </p>
      {open && <ProblemNote problem={open} onGo={showPlace} />}
    </>
  );
}

/** Through everything: then the distance only says which way. Up to something: then it says nothing. */
const instead: KindView["instead"] = (params, nameOf) => {
  if (params.extent === "through") return "through";
  if (params.extent !== "until") return null;
  const region = params.until_region as { id: string } | null;
  const face = params.until_face as { body: string; kind: string } | null;
  if (params.until_point || params.until_point_spot) return "ends at a point";
  return `ends at ${region ? nameOf(region.id) : face ? `${face.kind || "face"} of ${nameOf(face.body)}` : "…"}`;
};

/** Until something that has not been chosen yet. */
const waits: KindView["waits"] = (params) =>
  params.extent === "until" &&
  ![params.until_region, params.until_face, params.until_point, params.until_point_spot].some(Boolean) &&
  "choose what it ends at: a surface, a face, or a point";

export const view: KindView = { slots: { sketch: Profiles }, instead, waits };
