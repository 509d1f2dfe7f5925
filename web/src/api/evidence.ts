/** What files of evidence hold. No React. */
import type { MeshFileFacts, SolidFileFacts } from "./client";
import type { Job } from "./queries";

type FileFacts = MeshFileFacts | SolidFileFacts | null | undefined;

export const meshFile = (facts: FileFacts): MeshFileFacts | null => (facts && !("bodies" in facts) ? facts : null);
export const solidFile = (facts: FileFacts): SolidFileFacts | null => (facts && "bodies" in facts ? facts : null);

/** Of one piece of evidence; none while the file is not read. */
export const fileOf = (job: Job, id: string): FileFacts => job.evidence_facts.find((f) => f.id === id)?.facts;
