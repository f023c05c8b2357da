/** Who is signed in, of a request. */
import type { Request } from 'express';

export interface SignedIn {
  readonly id: number;
  readonly name: string;
  readonly isAdmin: boolean;
}

const known = new WeakMap<object, SignedIn>();

export function rememberPerson(req: Request, person: SignedIn): void {
  known.set(req, person);
}

/** Null where nobody is signed in, or the installation has no accounts. */
export function personOf(req: Request): SignedIn | null {
  return known.get(req) ?? null;
}

/** What a person's work, streams and requests are counted under. */
export function keyOfPerson(id: number): string {
  return `person-${id}`;
}
