/** The one way to the server: JSON in, JSON out, failures as sentences. */
export class ApiFailure extends Error {
  constructor(readonly status: number, readonly code: string, message: string, readonly details?: unknown) {
    super(message);
  }
}

export async function api<T>(method: 'GET' | 'POST' | 'PUT' | 'DELETE', path: string, body?: unknown): Promise<T> {
  let response: Response;
  try {
    response = await fetch(`/api${path}`, { method, ...(body === undefined ? {} : { body: JSON.stringify(body), headers: { 'Content-Type': 'application/json' } }) });
  } catch {
    throw new ApiFailure(0, 'offline', 'The server does not answer; your edits are kept here and saved when it is back.');
  }
  const value = (await response.json().catch(() => null)) as unknown;
  if (response.ok) return value as T;
  const e = value as { code?: string; message?: string; details?: unknown } | null;
  throw new ApiFailure(response.status, e?.code ?? 'unknown', e?.message ?? `The server answered ${response.status}.`, e?.details);
}

export function sentence(e: unknown): string {
  return e instanceof Error ? e.message : String(e);
}
