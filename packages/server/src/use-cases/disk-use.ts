/** What takes up the disk: by production, what nothing needs, what lies in the bin; and what is free. */
import { resolve } from 'node:path';
import type { Context } from '../context';
import { folderBytes } from '../files-below';
import { freeBytes } from '../free-bytes';
import * as bin from '../sql/bin';
import { listBin } from './bin';

export interface ProductionUse {
  readonly id: number;
  readonly name: string;
  /** as they were brought in */
  readonly originals: number;
  /** what was made of them for work: can be made again */
  readonly working: number;
  readonly deliveries: number;
}

export interface UnusedMedia {
  readonly hash: string;
  readonly name: string;
  readonly bytes: number;
}

export interface DiskUse {
  readonly free: number;
  /** bytes below which the person is warned */
  readonly warnBelow: number;
  /** where all of it lies */
  readonly folder: string;
  readonly productions: readonly ProductionUse[];
  readonly unused: readonly UnusedMedia[];
  /** bytes */
  readonly bin: number;
}

interface Size {
  readonly original: number;
  readonly working: number;
}

/** Sizes of media, each asked of the disk once. */
function sizesOf(c: Context): (hash: string) => Promise<Size> {
  const known = new Map<string, Promise<Size>>();
  const ask = async (hash: string): Promise<Size> => {
    const [original, working] = await Promise.all([
      folderBytes(c.storage.original(hash)),
      folderBytes(c.storage.derived(hash)),
    ]);
    return { original, working };
  };
  return (hash) => {
    if (!known.has(hash)) known.set(hash, ask(hash));
    return known.get(hash)!;
  };
}

async function byProduction(c: Context, sizeOf: (hash: string) => Promise<Size>): Promise<ProductionUse[]> {
  const plates = await c.db.all<{ id: number; name: string; hash: string }>(bin.platesOfProductions);
  const delivered = await c.db.all<{ id: number; bytes: number }>(bin.deliveredOfProductions);
  const out = new Map<number, { id: number; name: string; originals: number; working: number; deliveries: number }>();
  for (const { id, name, hash } of plates) {
    const use = out.get(id) ?? { id, name, originals: 0, working: 0, deliveries: 0 };
    const { original, working } = await sizeOf(hash);
    use.originals += original;
    use.working += working;
    out.set(id, use);
  }
  for (const { id, bytes } of delivered) {
    const use = out.get(id);
    if (use) use.deliveries = Number(bytes);
  }
  const whole = (u: ProductionUse): number => u.originals + u.working + u.deliveries;
  return [...out.values()].sort((a, b) => whole(b) - whole(a));
}

export async function diskUse(c: Context): Promise<DiskUse> {
  const sizeOf = sizesOf(c);
  const media = await c.db.all<{ hash: string; name: string; isBinned: number; isNeeded: number }>(bin.mediaInUse);
  const unused: UnusedMedia[] = [];
  for (const { hash, name, isBinned, isNeeded } of media) {
    if (isBinned || isNeeded) continue;
    const { original, working } = await sizeOf(hash);
    unused.push({ hash, name, bytes: original + working });
  }
  return {
    folder: resolve(c.config.data),
    free: await freeBytes(c.config.data),
    warnBelow: c.config.warnBelow,
    productions: await byProduction(c, sizeOf),
    unused,
    bin: (await listBin(c)).reduce((s, b) => s + b.bytes, 0),
  };
}
