import createClient, { type Middleware } from "openapi-fetch";
import type { components, paths } from "./generated/schema";

/** The API's types by name. */
export type Api = components["schemas"];

/** One fault the server named: where, and what is wrong. */
export type Fault = { pointer: string; line: number; code: string; message: string };

/** An answer that was not what was asked for, as an RFC 9457 problem. */
export class ProblemError extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    readonly title: string,
    readonly detail: string,
    readonly faults: readonly Fault[],
  ) {
    super(`${title} ${detail}`);
  }
}

let antiforgeryToken = "";

/** Keeps the token that every change carries; a new sign-in brings a new one. */
export function keepAntiforgeryToken(token: string) {
  antiforgeryToken = token;
}

const antiforgery: Middleware = {
  onRequest({ request }) {
    if (request.method !== "GET") request.headers.set("X-Relevo-Antiforgery", antiforgeryToken);
    return request;
  },
};

/** Every call of the screens goes through this client. */
export const api = createClient<paths>({ baseUrl: "/" });
api.use(antiforgery);

/** Reads a problem out of whatever an answer held. */
export function problemOf(status: number, body: unknown): ProblemError {
  const problem = (typeof body === "object" && body !== null ? body : {}) as Partial<
    Record<"code" | "title" | "detail", string>
  > & { errors?: Fault[] };
  return new ProblemError(
    status,
    problem.code ?? "no-answer",
    problem.title ?? "The server gave no useful answer.",
    problem.detail ?? "Try again in a moment.",
    problem.errors ?? [],
  );
}

type Answer<T> = { data?: T; error?: unknown; response: Response };

/** The answer's data, or a thrown problem. */
export async function take<T>(call: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>;
  try {
    answer = await call;
  } catch {
    throw new ProblemError(
      0,
      "unreachable",
      "The server cannot be reached.",
      "Nothing was lost. Try again in a moment.",
      [],
    );
  }
  if (!answer.response.ok) throw problemOf(answer.response.status, answer.error);
  return answer.data as T;
}

/** The headers of a change made on a revision that was seen. */
export function ifMatch(revision: number) {
  return { headers: { "If-Match": `"${revision}"` } };
}

/** Sends a file as it is, and tells how much of it has gone. Not through the typed client, which cannot stream an upload's progress. */
export function sendFile<T>(path: string, file: Blob, onProgress: (share: number) => void): Promise<T> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("POST", path);
    request.setRequestHeader("X-Relevo-Antiforgery", antiforgeryToken);
    request.setRequestHeader("Content-Type", "application/octet-stream");
    request.responseType = "json";
    request.upload.onprogress = (event) => onProgress(event.total > 0 ? event.loaded / event.total : 1);
    request.onload = () => {
      if (request.status >= 200 && request.status < 300) resolve(request.response as T);
      else reject(problemOf(request.status, request.response));
    };
    request.onerror = () =>
      reject(
        new ProblemError(
          0,
          "unreachable",
          "The file did not reach the server.",
          "Check the connection and drop it again.",
          [],
        ),
      );
    request.send(file);
  });
}

/** Asks for a file and hands it to the browser to keep. */
export async function saveFile(path: string, body: unknown, name: string): Promise<void> {
  const answer = await fetch(path, {
    method: "POST",
    headers: { "Content-Type": "application/json", "X-Relevo-Antiforgery": antiforgeryToken },
    body: JSON.stringify(body),
  });
  if (!answer.ok) throw problemOf(answer.status, await answer.json());
  const address = URL.createObjectURL(await answer.blob());
  const link = document.createElement("a");
  link.href = address;
  link.download = name;
  link.click();
  URL.revokeObjectURL(address);
}
