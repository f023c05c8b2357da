/** SHA-256 of files, as hexadecimal digits. */
import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';

/** Bytes of a file, both ends inclusive; all of them when left out. */
export interface Stretch {
  readonly path: string;
  readonly start?: number;
  readonly end?: number;
}

/** Of several files, or stretches of them, as one run of bytes. */
export async function checksumOf(stretches: readonly Stretch[]): Promise<string> {
  const hash = createHash('sha256');
  for (const { path, ...range } of stretches)
    for await (const bytes of createReadStream(path, range)) hash.update(bytes as Buffer);
  return hash.digest('hex');
}

/** SHA-256 of a file, hexadecimal. */
export function checksum(path: string): Promise<string> {
  return checksumOf([{ path }]);
}
