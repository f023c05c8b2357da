/** Where files lie in the data folder. Paths are made from hashes and numbers only, never from a person's names. */
import { join } from 'node:path';

export class Storage {
  constructor(readonly root: string) {}

  readonly uploads = (): string => join(this.root, 'uploads');
  readonly original = (hash: string): string => join(this.root, 'originals', hash);
  readonly derived = (hash: string): string => join(this.root, 'media', hash);
  readonly delivery = (id: number): string => join(this.root, 'deliveries', String(id));
}
