/** The typed client. A problem from the server becomes a ProblemError with its place, reason and remedy. */
import createClient, { type Middleware } from "openapi-fetch";
import type { components, paths } from "./schema";

export type JobOut = components["schemas"]["JobOut"];
export type Card = components["schemas"]["Card"];
export type UploadOut = components["schemas"]["UploadOut"];
export type GrowOut = components["schemas"]["GrowOut"];
export type SectionOut = components["schemas"]["SectionOut"];
export type WorkOut = components["schemas"]["WorkOut"];
export type LoopOut = components["schemas"]["LoopOut"];
export type PieceOut = components["schemas"]["PieceOut"];
export type DeliveryTask = components["schemas"]["DeliveryTask"];
export type MeshFileFacts = components["schemas"]["MeshFileFacts"];
export type SolidFileFacts = components["schemas"]["SolidFileFacts"];
export type ReadingFacts = components["schemas"]["ReadingFacts"];
export type MethodFacts = components["schemas"]["MethodFacts"];
export type Found = components["schemas"]["Found"];
export type FoundRegion = components["schemas"]["FoundRegion"];
export type Proposed = components["schemas"]["Proposed"];
export type MovedScan = components["schemas"]["MovedScan"];
export type PracticeResult = components["schemas"]["PracticeResult"];
export type Edit = components["schemas"]["EditIn"]["edit"];
/** One operation of an edit, by its name. */
export type EditOf<Op extends Edit["op"]> = Extract<Edit, { op: Op }>;
export type SetPicture = EditOf<"set-picture">;
export type SetReading = EditOf<"set-reading">;
export type Step = components["schemas"]["Step"];
export type FaceFacts = components["schemas"]["FaceFacts"];
export type Candidate = components["schemas"]["CandidateOut"];
export type Change = components["schemas"]["ChangeOut"];
export type Checkpoint = components["schemas"]["CheckpointOut"];
export type Recipe = components["schemas"]["Recipe"];
export type Variant = components["schemas"]["Variant"];
export type Setting = components["schemas"]["Setting"];
export type Column = components["schemas"]["Column"];
export type Repair = components["schemas"]["RepairOut"];
export type Preview = components["schemas"]["PreviewOut"];
export type NamedValue = components["schemas"]["NamedValue"];
export type Reading = components["schemas"]["Reading"];
export type Probe = components["schemas"]["Probe"];
export type Value = components["schemas"]["Value"];
export type Mark = Value["mark"];
export type Health = components["schemas"]["HealthOut"];
export type Defect = components["schemas"]["DefectOut"];
export type DefectPlace = components["schemas"]["PlaceOut"];
export type Desk = components["schemas"]["DeskOut"];
export type Take = components["schemas"]["Take"];
export type Session = components["schemas"]["Session"];
export type Instrument = components["schemas"]["Instrument"];
export type CaliperState = components["schemas"]["CaliperState"];
export type Picture = components["schemas"]["Picture"];
export type PictureMark = components["schemas"]["PictureMark"];
export type PictureOut = components["schemas"]["PictureOut"];
export type MarkOut = components["schemas"]["MarkOut"];
export type MarkKind = PictureMark["kind"];
export type ThreadNear = components["schemas"]["ThreadOut"];

type Told = components["schemas"]["Problem"];
export type Where = Partial<components["schemas"]["Where"]>;
/** As the server tells it; what the browser itself has to say of it may be less. */
export type Problem = { code: string; message: string; where?: Where } & Partial<
  Pick<Told, "got" | "need" | "remedy" | "offer">
>;

export class ProblemError extends Error {
  readonly problem: Problem;
  readonly status: number;
  /** What else is wrong in the same form. */
  readonly also: Problem[];

  constructor(problem: Problem, status: number, also: Problem[] = []) {
    super(problem.message);
    this.problem = problem;
    this.status = status;
    this.also = also;
  }
}

let csrf = "";
export function setCsrf(token: string) {
  csrf = token;
}
export function csrfToken(): string {
  return csrf;
}

const guard: Middleware = {
  onRequest({ request }) {
    if (request.method !== "GET") request.headers.set("X-CSRFToken", csrf);
    return request;
  },
  async onResponse({ response }) {
    if (response.ok) return undefined;
    let problem: Problem = { code: "crashed", message: `The server answered ${response.status}.`, remedy: "try again" };
    let also: Problem[] = [];
    try {
      const body = (await response.clone().json()) as { problem?: Problem; also?: Problem[] };
      if (body.problem) problem = body.problem;
      also = body.also ?? [];
    } catch {
      // not JSON: the plain answer above has to do
    }
    throw new ProblemError(problem, response.status, also);
  },
};

export const api = createClient<paths>({
  baseUrl: globalThis.location.origin,
  fetch: (request) => globalThis.fetch(request),
});
api.use(guard);

/** Data of an answer; errors have been thrown by the guard already. */
export async function got<T>(answer: Promise<{ data?: T }>): Promise<T> {
  const { data } = await answer;
  if (data === undefined) throw new ProblemError({ code: "crashed", message: "The server sent nothing." }, 500);
  return data;
}

/** A file sent with progress (fetch cannot tell how far an upload is). */
export function upload(file: File, onProgress: (part: number) => void): Promise<UploadOut> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("POST", "/api/uploads");
    request.setRequestHeader("X-CSRFToken", csrf);
    request.upload.onprogress = (e) => onProgress(e.total ? e.loaded / e.total : 0);
    request.onerror = () => reject(new ProblemError({ code: "crashed", message: "The server did not answer." }, 0));
    request.onload = () => {
      const body = JSON.parse(request.responseText || "{}");
      if (request.status < 300) resolve(body as UploadOut);
      else reject(new ProblemError(body.problem ?? { code: "crashed", message: "The upload failed." }, request.status));
    };
    const form = new FormData();
    form.append("file", file);
    request.send(form);
  });
}
