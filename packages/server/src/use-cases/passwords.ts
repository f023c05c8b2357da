/** Passwords and tokens: what is kept of them is of no use to whoever reads it. */
import { createHash, randomBytes } from 'node:crypto';
import { hash, verify } from '@node-rs/argon2';

/** As the package numbers the variants. */
const ARGON2ID = 2;
/**
 * Argon2id with 19 MiB (in KiB here), two passes and one lane: the least that the OWASP Password Storage Cheat Sheet asks
 * for, section "Argon2id"; the function itself is RFC 9106.
 */
const COST = { algorithm: ARGON2ID, memoryCost: 19_456, timeCost: 2, parallelism: 1 };
/** Bytes of a token; RFC 6749, section 10.10, asks for 128 bits of chance and recommends 160. */
const TOKEN_BYTES = 32;

/** @returns in the PHC string format */
export function hashPassword(password: string): Promise<string> {
  return hash(password.normalize('NFKC'), COST);
}

let nobodys: Promise<string> | null = null;

/** @param kept null where there is no such person, which takes as long: nobody learns who exists from the time */
export async function isPassword(kept: string | null, password: string): Promise<boolean> {
  nobodys ??= hashPassword(newToken());
  const isIt = await verify(kept ?? (await nobodys), password.normalize('NFKC'));
  return isIt && kept !== null;
}

/** 43 letters, digits, `-` and `_`. */
export function newToken(): string {
  return randomBytes(TOKEN_BYTES).toString('base64url');
}

/** What is kept of a token. Its chance needs no slow hash. */
export function hashToken(token: string): string {
  return createHash('sha256').update(token).digest('hex');
}
