/** The typed client of the API, with its errors as sentences. */
import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type Portrait = Schemas["PortraitOut"];
export type Pass = Schemas["PassOut"];
export type Touch = Schemas["Touch"];
/** A place in pixels of the original. */
export type Point = [number, number];
export type Change = Schemas["OutcomeOut"]["changes"][number];
export type Outcome = Schemas["OutcomeOut"];
export type Pixels = Schemas["PixelsOut"];
export type Operation = Schemas["GestureIn"]["operation"];
export type Area = Schemas["Ground"]["areas"][number];
export type Face = NonNullable<Schemas["AddPass"]["face"]>;
export type Take = Schemas["TakeOut"];
export type Preferences = Schemas["PreferencesBody"];
export type Brush = Schemas["Brush"];
export type Kept = Schemas["Kept"];
export type Kind = Schemas["KindOut"];
export type Setting = Schemas["SettingOut"];
export type Delivery = Schemas["DeliveryOut"];
export type DeliveryWish = Schemas["DeliveryIn"];
export type Session = Schemas["SessionOut"];

/** An answer that isn't a success: `status` 0 means that the server can't be reached. */
export class ApiError extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
  ) {
    super(message);
  }
}

export const UNREACHABLE = "The studio can't be reached. Is it still running?";

export function csrfToken(): string {
  return /(?:^|; )csrftoken=([^;]+)/.exec(document.cookie)?.[1] ?? "";
}

export const client = createClient<paths>({ baseUrl: "" });
client.use({
  onRequest({ request }) {
    if (request.method !== "GET") request.headers.set("X-CSRFToken", csrfToken());
    return request;
  },
});

interface Answer<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

export function problemOf(status: number, body: unknown): ApiError {
  const known = body as { code?: string; message?: string } | undefined;
  return new ApiError(
    status,
    known?.code ?? "unknown",
    known?.message ?? "The studio gave an answer that can't be understood. Try again.",
  );
}

/** Await an answer and return its data, or throw an ApiError. */
export async function unwrap<T>(call: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>;
  try {
    answer = await call;
  } catch (error) {
    if (error instanceof DOMException && error.name === "AbortError") throw error;
    throw new ApiError(0, "unreachable", UNREACHABLE);
  }
  if (answer.response.ok) return answer.data as T;
  throw problemOf(answer.response.status, answer.error);
}

/** As `unwrap`, for answers whose fixed pairs of numbers the client's types don't keep. */
export function unwrapAs<T>(call: Promise<Answer<unknown>>): Promise<T> {
  return unwrap(call) as Promise<T>;
}

/** Post at once, in this very turn, and return the answer's data, or throw an ApiError. */
export async function postNow<T>(url: string, body: unknown): Promise<T> {
  let response: Response;
  try {
    response = await fetch(url, {
      method: "POST",
      body: JSON.stringify(body),
      headers: { "Content-Type": "application/json", "X-CSRFToken": csrfToken() },
    });
  } catch {
    throw new ApiError(0, "unreachable", UNREACHABLE);
  }
  const answer: unknown = await response.json().catch(() => undefined);
  if (!response.ok || answer === undefined) throw problemOf(response.ok ? 502 : response.status, answer);
  return answer as T;
}

/** Fetch a picture; throws an ApiError, or AbortError when `signal` ends it. */
export async function fetchPicture(
  url: string,
  signal: AbortSignal,
  body?: unknown,
): Promise<ImageBitmap> {
  let response: Response;
  try {
    response = await fetch(url, {
      signal,
      method: body === undefined ? "GET" : "POST",
      body: body === undefined ? undefined : JSON.stringify(body),
      headers:
        body === undefined
          ? {}
          : { "Content-Type": "application/json", "X-CSRFToken": csrfToken() },
    });
  } catch (error) {
    if (error instanceof DOMException && error.name === "AbortError") throw error;
    throw new ApiError(0, "unreachable", UNREACHABLE);
  }
  if (!response.ok) throw problemOf(response.status, await response.json().catch(() => undefined));
  // Something newer was asked for, or saved: no picture, and no error that a browser would list.
  if (response.status === 204) {
    throw new ApiError(response.headers.has("Portrait-Revision") ? 409 : 499, "overtaken", "");
  }
  return createImageBitmap(await response.blob());
}
export type Finding = Schemas["FindingOut"];
