// Every request goes through here: it carries the CSRF token, and a refusal becomes a Refused with its sentence.
import createClient, { type Middleware } from "openapi-fetch";
import type { paths, Problem } from "./schema";

export class Refused extends Error {
  constructor(
    readonly status: number,
    readonly problem: Problem,
  ) {
    super(problem.detail);
  }
}

export function sentence(error: unknown): string {
  if (error instanceof Refused) return error.message;
  return "The server cannot be reached. Nothing was lost; try again in a moment.";
}

function csrfToken(): string {
  return /(?:^|; )convoy_csrf=([^;]*)/.exec(document.cookie)?.[1] ?? "";
}

const carry: Middleware = {
  onRequest({ request }) {
    request.headers.set("X-CSRFToken", csrfToken());
    return request;
  },
  async onResponse({ response }) {
    if (response.ok) return;
    const unread: Problem = {
      code: "unread",
      detail: "The server gave an answer that cannot be read. Nothing was lost; try again.",
      facts: {},
    };
    throw new Refused(response.status, await response.json().catch(() => unread));
  },
};

export const api = createClient<paths>({ baseUrl: window.location.origin });
api.use(carry);

/** The data of an answer; refusals were thrown before. */
export async function data<T>(answer: Promise<{ data?: T }>): Promise<T> {
  return (await answer).data as T;
}

interface AccountAnswer {
  errors?: { message: string; param?: string }[];
}

const ACCOUNT_WORDS: [RegExp, string][] = [
  [/email.*password.*not correct/i, "The address or the password is wrong."],
  [/too many/i, "Too many tries in a short time. Wait a minute and try again."],
  [/already registered/i, "There is an account with this address already. Sign in instead."],
];

/** Sign-in, sign-up and password go to the accounts service; its errors become one sentence. */
export async function account(path: string, body?: object, method = "POST"): Promise<void> {
  const response = await fetch(`/_allauth/browser/v1/${path}`, {
    method,
    headers: { "Content-Type": "application/json", "X-CSRFToken": csrfToken() },
    body: body ? JSON.stringify(body) : null,
  });
  // Signing out is answered with 401, because the caller is then signed out.
  if (response.ok || response.status === 409 || (method === "DELETE" && response.status === 401)) return;
  const answer = (await response.json().catch(() => ({}))) as AccountAnswer;
  const raw = (answer.errors ?? []).map((error) => error.message).join(" ");
  const detail = ACCOUNT_WORDS.find(([pattern]) => pattern.test(raw))?.[1] ?? raw;
  throw new Refused(response.status, {
    code: "account",
    detail: detail || "This did not work. Reload the page and try again.",
    facts: {},
  });
}
