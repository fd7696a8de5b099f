import type { Fault } from "../api/client";

/** What a screen asked: "PUT /api/people/1", with its body and the revision it was made on. */
export type Asked = { what: string; body: unknown; revision: string | null };

type Given = string | readonly unknown[] | Readonly<Record<string, unknown>> | Refusal;
type Answer = Given | ((asked: Asked) => Given);

let answers: Record<string, Answer> = {};

/** Everything that was asked, in its order. */
let everything: Asked[] = [];

/** Says what is answered, by "GET /api/fields"; a path may have its query. What is said later comes first. */
export function serve(more: Record<string, Answer>) {
  answers = { ...answers, ...more };
}

/** Changes that were asked for. */
export function changes() {
  return everything.filter((asked) => !asked.what.startsWith("GET "));
}

/** The body of the last change that was asked for. */
export function lastBody() {
  return changes().at(-1)?.body;
}

/** How often something was asked. */
export function timesAsked(what: string) {
  return everything.filter((asked) => asked.what === what).length;
}

/** A refusal as the server makes one. */
export class Refusal {
  constructor(
    readonly status: number,
    readonly title: string,
    readonly detail: string,
    readonly errors: readonly Fault[] = [],
  ) {}
}

/** Nothing is known or was asked any more. */
export function forget() {
  answers = {};
  everything = [];
}

function bodyOf(request: Request, text: string): unknown {
  if (text === "") return null;
  return request.headers.get("Content-Type") === "application/json" ? (JSON.parse(text) as unknown) : text;
}

/** Answers as was said; what nobody said anything of is refused with its name. */
export async function answer(request: Request): Promise<Response> {
  const url = new URL(request.url);
  const path = `${request.method} ${decodeURIComponent(url.pathname)}`;
  const text = await request.text();
  const asked: Asked = {
    what: path,
    body: bodyOf(request, text),
    revision: request.headers.get("If-Match"),
  };
  everything.push(asked);
  const said = answers[`${path}${url.search}`] ?? answers[path] ?? new Refusal(404, `Nobody answers ${path}.`, "");
  const given = typeof said === "function" ? said(asked) : said;
  if (given instanceof Refusal)
    return Response.json({ title: given.title, detail: given.detail, errors: given.errors }, { status: given.status });
  return given === "" ? new Response(null, { status: 204 }) : Response.json(given);
}
