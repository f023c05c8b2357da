/** The one way to the server: JSON in, JSON out, failures as sentences. */
import type { AnswerOf, BodyOf, ParametersOf, RouteName } from '@yarlop/contracts/routes';

export class ApiFailure extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly details?: unknown,
  ) {
    super(message);
  }

  /** The server does not know this browser any more. */
  get isSignedOut(): boolean {
    return this.code === 'sign-in';
  }
}

const AWAY = 'The server does not answer; your edits are kept here and saved when it is back.';

/** Told to the window with a failure that {@link ApiFailure.isSignedOut} says so of. */
export const SIGNED_OUT = 'yarlop:signed-out';

function failureOf(response: Response, value: unknown): ApiFailure {
  const e = value as { code?: string; message?: string; details?: unknown } | null;
  const failure = new ApiFailure(
    response.status,
    e?.code ?? 'unknown',
    e?.message ?? `The server answered ${response.status}.`,
    e?.details,
  );
  if (failure.isSignedOut) window.dispatchEvent(new Event(SIGNED_OUT));
  return failure;
}

/** @throws ApiFailure when nobody answers; what the asking page gave up itself stays an AbortError */
export async function reach(url: string, how: RequestInit = {}): Promise<Response> {
  try {
    return await fetch(url, how);
  } catch (e) {
    if (e instanceof Error && e.name === 'AbortError') throw e;
    throw new ApiFailure(0, 'offline', AWAY);
  }
}

/** What a route is asked with: the variable parts of its address where it has any, and a body. */
type Asked<R extends RouteName> = keyof ParametersOf<R> extends never
  ? readonly [body?: BodyOf<R>]
  : readonly [parameters: ParametersOf<R>, body?: BodyOf<R>];

/** The one typed client: a route by its name in the contract, its answer as the contract has it. @throws ApiFailure */
export async function api<R extends RouteName>(route: R, ...asked: Asked<R>): Promise<AnswerOf<R>> {
  const [method, pattern] = route.split(' ') as [string, string];
  const hasParameters = pattern.includes(':');
  const parameters = (hasParameters ? asked[0] : {}) as Readonly<Record<string, string | number>>;
  const body = hasParameters ? asked[1] : asked[0];
  const path = pattern.replace(/:(\w+)/g, (_, name: string) => encodeURIComponent(parameters[name]!));
  const response = await reach(`/api${path}`, {
    method,
    ...(body === undefined ? {} : { body: JSON.stringify(body), headers: { 'Content-Type': 'application/json' } }),
  });
  return told(response);
}

/** What was answered. @throws ApiFailure where that is a refusal */
async function told<T>(response: Response): Promise<T> {
  const value = (await response.json().catch(() => null)) as unknown;
  if (response.ok) return value as T;
  throw failureOf(response, value);
}

/** Brings in a colour table as it is. @throws ApiFailure */
export async function sendTable(name: string, text: string): Promise<AnswerOf<'POST /tables'>> {
  const headers = { 'Content-Type': 'text/plain' };
  return told(await reach(`/api/tables?name=${encodeURIComponent(name)}`, { method: 'POST', body: text, headers }));
}

/** A request that is answered line by line while it is worked on; `ended` aborts it. */
export async function stream<T>(
  path: string,
  body: unknown,
  ended: AbortSignal,
  hear: (line: T) => void,
): Promise<void> {
  const response = await reach(`/api${path}`, {
    method: 'POST',
    body: JSON.stringify(body),
    headers: { 'Content-Type': 'application/json' },
    signal: ended,
  });
  if (!response.ok || !response.body) throw failureOf(response, await response.json().catch(() => null));
  const reader = response.body.pipeThrough(new TextDecoderStream()).getReader();
  let rest = '';
  for (;;) {
    const { value, done } = await reader.read();
    if (done) return;
    const lines = (rest + value).split('\n');
    rest = lines.pop()!;
    for (const l of lines) hear(JSON.parse(l) as T);
  }
}

/** Fills `into` from an answer of as many bytes. @param told how many are there */
export async function bytes(
  path: string,
  body: unknown,
  ended: AbortSignal,
  into: Uint8Array,
  told: (n: number) => void,
): Promise<void> {
  const response = await reach(`/api${path}`, {
    method: 'POST',
    body: JSON.stringify(body),
    headers: { 'Content-Type': 'application/json' },
    signal: ended,
  });
  if (!response.ok || !response.body) throw failureOf(response, await response.json().catch(() => null));
  const reader = response.body.getReader();
  let at = 0;
  for (;;) {
    const { value, done } = await reader.read();
    if (done) break;
    into.set(value, at);
    told((at += value.length));
  }
  if (at !== into.length) throw new ApiFailure(0, 'cut-off', 'The pictures were cut off on their way; try again.');
}

export function sentence(e: unknown): string {
  return e instanceof Error ? e.message : String(e);
}
