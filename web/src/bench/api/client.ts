// The one typed client, made from the API's own schema.

import createClient, { type Middleware } from "openapi-fetch";
import type { components, paths } from "./schema";

export type JobHead = components["schemas"]["JobHead"];
export type Job = JobHead &
  components["schemas"]["IsolateOut"] &
  components["schemas"]["PicturesOut"] &
  components["schemas"]["TouchFacetOut"] &
  components["schemas"]["ComparisonsOut"] &
  components["schemas"]["DocumentsOut"];
export type JobLine = components["schemas"]["JobLine"];
export type JobPage = components["schemas"]["JobPage"];
export type TodayOut = components["schemas"]["Today"];
export type JobChange = components["schemas"]["JobChange"];
export type Run = components["schemas"]["RunOut"];
export type Photo = components["schemas"]["PhotoOut"];
export type Inspection = components["schemas"]["Inspection"];
export type Finding = components["schemas"]["Finding"];
export type NextShot = components["schemas"]["NextShot"];
export type Verdict = components["schemas"]["Verdict"];
export type Vocabulary = components["schemas"]["Vocabulary"];
export type Check = Vocabulary["checks"][number];
export type Evidence = Job["evidence"][number];
export type Rates = components["schemas"]["RatesOut"];
export type Conditions = components["schemas"]["Conditions"];
export type StationState = components["schemas"]["StationState"];
export type MatchState = components["schemas"]["MatchState"];
export type FitState = components["schemas"]["FitState"];
export type Proving = components["schemas"]["ProvingOut"];
export type MadeReport = components["schemas"]["MadeReportOut"];
export type OwnerLink = components["schemas"]["LinkOut"];
export type Before = components["schemas"]["BeforeOut"];
export type TouchLimit = components["schemas"]["TouchLimit"];
export type LookedBack = components["schemas"]["LookedBack"];
export type Me = components["schemas"]["Me"];
export type Access = components["schemas"]["AccessOut"];
export type Entry = components["schemas"]["EntryOut"];
export type Panel = components["schemas"]["PanelOut"];
export type PanelImport = components["schemas"]["ImportOut"];
export type PanelOffer = components["schemas"]["OfferOut"];
export type Buying = components["schemas"]["BuyingState"];
export type RankedOffer = components["schemas"]["RankedOut"];
export type Order = components["schemas"]["OrderOut"];
export type QuoteLine = components["schemas"]["QuoteLine"];
export type Device = components["schemas"]["DeviceOut"];
export type DeviceLook = components["schemas"]["DeviceLook"];
export type Supplier = components["schemas"]["SupplierOut"];
export type BuildFinder = components["schemas"]["FinderOut"];
export type ProcedureOut = components["schemas"]["ProcedureOut"];
export type JobClock = components["schemas"]["JobClock"];
export type Reading = components["schemas"]["ReadingOut"];
export type PanelSource = components["schemas"]["ValueSource"]["source"];
export type LabelCode = components["schemas"]["LabelCodeOut"];
export type DataSheetLine = components["schemas"]["DataSheetLine"];
export type PastVersion = components["schemas"]["PastVersion"];
export type LabelRead = components["schemas"]["LabelOut"];
export type Back = components["schemas"]["Back"];
export type Profile = components["schemas"]["Profile"];
export type OfferedProfile = components["schemas"]["ProfileOut"];
export type DotRule = components["schemas"]["DotRule"];
export type Touch = components["schemas"]["TouchOut"];
export type Stroke = components["schemas"]["Stroke"];
export type ChoiceOut = components["schemas"]["ChoiceOut"];
export type HouseRule = components["schemas"]["RuleOut"];
export type Shop = components["schemas"]["ShopOut"];
export type Person = components["schemas"]["PersonOut"];
export type PersonChange = components["schemas"]["PersonChange"];
export type Recheck = components["schemas"]["RecheckOut"];
export type Stage = Run["stage"];
export type StationId = StationState["id"];

export type Condition = components["schemas"]["ConditionOut"];
export type Code = components["schemas"]["CodeOut"];

export const AWAY_WORDS = "The server does not answer. Check the network; what you entered stays here.";

/** A failure as the server tells it: `message` may be shown as it is. */
export class Problem extends Error {
  constructor(
    readonly status: number,
    message: string,
    readonly code: string,
  ) {
    super(message);
  }
}

export const cookie = (name: string): string =>
  document.cookie
    .split("; ")
    .find((part) => part.startsWith(`${name}=`))
    ?.slice(name.length + 1) ?? "";

const guard: Middleware = {
  onRequest({ request }) {
    if (request.method !== "GET") request.headers.set("X-CSRFToken", cookie("csrftoken"));
    return request;
  },
  async onResponse({ response }) {
    if (response.ok) return response;
    throw await problemOf(response);
  },
};

export async function problemOf(response: Response): Promise<Problem> {
  let detail = "";
  let code = "";
  try {
    const body = (await response.json()) as { detail?: string; type?: string };
    detail = body.detail ?? "";
    code = body.type?.split("/").pop() ?? "";
  } catch {
    /* not ours: told by its status below */
  }
  return new Problem(response.status, detail || `The server answered ${response.status}. Try again.`, code);
}

export const client = createClient<paths>({
  baseUrl: window.location.origin,
  fetch: (request: Request) => fetch(request),
});
client.use(guard);

/** What came back, or a failure; openapi-fetch leaves data undefined only when the guard has thrown. It also widens the
 * schema's tuples to arrays, so the type is named by the caller, from the schema. */
export async function got<T>(answer: Promise<{ data?: unknown }>): Promise<T> {
  try {
    return (await answer).data as T;
  } catch (error) {
    if (error instanceof Problem) throw error;
    throw new Problem(0, AWAY_WORDS, "offline");
  }
}
