import createClient from "openapi-fetch";
import { heard, ownHeader } from "./key.ts";
import type { components, paths } from "./schema.d.ts";

type Schemas = components["schemas"];
export type Desk = Schemas["Desk"];
export type ColumnOut = Schemas["ColumnOut"];
export type Role = Schemas["Role"];
export type RowOut = Schemas["RowOut"];
export type Rows = Schemas["Rows"];
export type KeptRow = Schemas["KeptRow"];
export type ChosenSum = Schemas["ChosenSum"];
export type Estimate = Schemas["Estimate"];
export type Standing = Schemas["Standing"];
export type Slip = Schemas["SlipOut"];
export type Tally = Schemas["TallyOut"];
export type Stage = Schemas["Stage"];
export type Confirmation = Schemas["Confirmation"];
export type RoundInList = Schemas["RoundInList"];
export type WordingOut = Schemas["WordingOut"];
export type Counts = Schemas["Counts"];
export type Finding = Schemas["FindingOut"];
export type Place = Schemas["PlaceOut"];
export type FieldSpan = Schemas["FieldOut"];
export type Where = Schemas["Where"];
export type ComputedIn = Schemas["PutComputed"];
export type Catalogue = Schemas["Catalogue"];
export type Changes = Schemas["Changes"];
export type Change = Schemas["ChangeOut"];
export type Mark = RowOut["mark"];
export type FunctionOut = Schemas["FunctionOut"];
export type StartingPoint = Schemas["StartingPointOut"];
export type ColumnChange = Omit<Schemas["SetColumn"], "name">;
export type Combine = Schemas["CombineSettings"];
export type Aggregate = Schemas["Aggregate"];
export type Question = Schemas["QuestionOut"];
export type Order = Schemas["Order"];
export type Commas = Schemas["Commas"];
export type Glance = Schemas["GlanceOut"];
export type Newer = Schemas["NewerOut"];
export type NumberBatch = Schemas["NumberBatch"];
export type CellOut = Schemas["CellOut"];
export type ConditionTried = Schemas["ConditionTried"];
export type Rule = Schemas["LeaveOutRule"];
export type Pace = Schemas["PaceSettings"];
export type Hours = Schemas["HoursSettings"];
export type Weekday = Schemas["Weekday"];
export type RowForecast = Schemas["RowAhead"];
export type Forecast = Schemas["ForecastOut"];
export type PasteIn = Schemas["PasteIn"];
export type PasteOut = Schemas["PasteOut"];
export type DrawerWording = Schemas["DrawerWording"];
export type WordingTaken = Schemas["TakeIn"];
export type TextLine = Schemas["TextLineOut"];
export type Costly = Schemas["CostlyOut"];
export type Look = Schemas["TextsToRead"];
export type LookLine = Schemas["LookLineOut"];
export type Looked = Schemas["LookedOut"];
export type Rehearsed = Schemas["RehearsedOut"];
export type BesideKind = Schemas["Beside"];
export type BesideLine = Schemas["BesideLine"];
export type Mend = Schemas["Mend"];
export type Trials = Schemas["TrialsOut"];
export type LookCell = Schemas["LookCell"];
export type WordingOfRound = Schemas["WordingOfRound"];
export type WordingPut = Schemas["PutWording"];
export type StretchMade = Schemas["MakeStretch"];
export type CheckLevel = Schemas["CheckLevel"];
export type SetupIn = Schemas["SetUp"];

/** What went wrong, as the sentence the program wrote for the clerk. */
export class Trouble extends Error {
  readonly kind: string;
  /** What it says to programs besides. */
  readonly more: Record<string, unknown>;
  constructor(sentence: string, kind: string, more: Record<string, unknown> = {}) {
    super(sentence);
    this.kind = kind;
    this.more = more;
  }
}

export const api = createClient<paths>();
api.use({
  onRequest: ({ request }) => {
    for (const [name, value] of Object.entries(ownHeader())) request.headers.set(name, value);
    return request;
  },
  onResponse: ({ response }) => heard(response.status),
});

export const NO_ANSWER = "The program does not answer. Is it still running?";

type Answer<T> = { data?: T; error?: unknown; response: Response };

/** The data of an answer, or the clerk's sentence as an error. */
export async function told<T>(asking: Promise<Answer<T>>): Promise<T> {
  const answer = await asking.catch(() => {
    throw new Trouble(NO_ANSWER, "no answer");
  });
  if (!answer.response.ok) {
    const problem = answer.error as { detail?: string; kind?: string } | undefined;
    throw new Trouble(problem?.detail ?? NO_ANSWER, problem?.kind ?? "");
  }
  return answer.data as T;
}

/** Posts a form with files in it; what is undefined is left out. */
export async function posted<T>(path: string, parts: Record<string, File | string | number | undefined>): Promise<T> {
  const form = new FormData();
  for (const [name, part] of Object.entries(parts))
    if (part !== undefined) form.append(name, part instanceof File ? part : String(part));
  const answer = await fetch(path, { method: "POST", body: form, headers: ownHeader() }).catch(() => {
    throw new Trouble(NO_ANSWER, "no answer");
  });
  const body = (await answer.json().catch(() => ({}))) as T & { detail?: string; kind?: string };
  if (!answer.ok) throw new Trouble(body.detail ?? NO_ANSWER, body.kind ?? "");
  return body;
}

/** Whether asking once more may help: often when the round changes faster than it can be counted, else only once. */
export const askAgain = (times: number, error: unknown): boolean =>
  times < (error instanceof Trouble && error.kind === "superseded" ? 20 : 1);

/** What an error says to the clerk. */
export const sentenceOf = (error: unknown): string => (error instanceof Trouble ? error.message : NO_ANSWER);
