/** The one way to the server: JSON in, JSON out, failures as sentences. */
export class ApiFailure extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly details?: unknown,
  ) {
    super(message);
  }
}

const AWAY = 'The server does not answer; your edits are kept here and saved when it is back.';

function failureOf(response: Response, value: unknown): ApiFailure {
  const e = value as { code?: string; message?: string; details?: unknown } | null;
  return new ApiFailure(
    response.status,
    e?.code ?? 'unknown',
    e?.message ?? `The server answered ${response.status}.`,
    e?.details,
  );
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

export async function api<T>(method: 'GET' | 'POST' | 'PUT' | 'DELETE', path: string, body?: unknown): Promise<T> {
  const response = await reach(`/api${path}`, {
    method,
    ...(body === undefined ? {} : { body: JSON.stringify(body), headers: { 'Content-Type': 'application/json' } }),
  });
  const value = (await response.json().catch(() => null)) as unknown;
  if (response.ok) return value as T;
  throw failureOf(response, value);
}

/** Sends text as it is. */
export async function sendText<T>(path: string, text: string): Promise<T> {
  const response = await reach(`/api${path}`, {
    method: 'POST',
    body: text,
    headers: { 'Content-Type': 'text/plain' },
  });
  const value = (await response.json().catch(() => null)) as unknown;
  if (response.ok) return value as T;
  throw failureOf(response, value);
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
