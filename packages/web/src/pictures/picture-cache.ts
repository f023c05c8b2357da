/**
 * Pictures by frame, made by two workers and kept while they fit: plates and what is laid over them apart, so that a
 * changed dress leaves the plates, and a long shot keeps all that takes time to make.
 */
import type { Remote } from 'comlink';
import { wrap } from 'comlink';
import { LRUCache } from 'lru-cache';
import type { CutOut, Patch, PictureParts, PictureRequest, WantedParts } from '../shared/picture-request';
import { hasPatch, isAllPatch } from '../shared/picture-request';
import type { RenderService } from './render.worker';

/** Threads that make pictures: one a core of the smallest machine. */
export const WORKERS = 2;
/** Bytes of plates that are kept. */
const MOST_PLATES = 160e6;
/** Bytes of what is laid over them that are kept. */
const MOST_PATCHES = 320e6;

interface Entry<T> {
  /** undefined while it is being made; null where nothing is laid over the plate */
  readonly part: T | null | undefined;
  readonly ready: Promise<T | null>;
}

/** Parts of one kind; the ones used longest ago are dropped first. */
class Kept<T> {
  private readonly entries: LRUCache<string, Entry<T>>;

  constructor(
    most: number,
    private readonly bitmapOf: (part: T) => ImageBitmap,
  ) {
    this.entries = new LRUCache({
      maxSize: most,
      sizeCalculation: ({ part }) => this.sizeOf(part),
      // What comes in a place is what was being made there.
      noDisposeOnSet: true,
      dispose: ({ part }) => part && bitmapOf(part).close(),
    });
  }

  get(key: string): Entry<T> | undefined {
    return this.entries.get(key);
  }

  add(key: string, ready: Promise<T | null>): Entry<T> {
    const entry: Entry<T> = { part: undefined, ready };
    this.entries.set(key, entry);
    ready.then(
      (part) => this.entries.set(key, { part, ready }),
      () => this.entries.delete(key),
    );
    return entry;
  }

  /** Bytes; what is not there yet, or nothing, counts for one. */
  private sizeOf(part: T | null | undefined): number {
    if (!part) return 1;
    const { width, height } = this.bitmapOf(part);
    return 4 * width * height;
  }

  clear(): void {
    this.entries.clear();
  }
}

/** What a picture's parts are kept by; null for a part that it has not. */
function keysOf(r: PictureRequest): { readonly plate: string | null; readonly patch: string | null } {
  return {
    plate: isAllPatch(r) ? null : `${r.most ?? ''} ${r.url}`,
    patch: hasPatch(r) ? JSON.stringify(r) : null,
  };
}

/** Draws a picture's parts, px by px. */
export function put({ plate, patch }: PictureParts, canvas: OffscreenCanvas): void {
  const whole = plate ?? patch?.bitmap;
  const g = canvas.getContext('2d', { alpha: false })!;
  if (!whole) return;
  if (canvas.width !== whole.width || canvas.height !== whole.height)
    [canvas.width, canvas.height] = [whole.width, whole.height];
  if (plate) g.drawImage(plate, 0, 0);
  if (patch) g.drawImage(patch.bitmap, plate ? patch.x : 0, plate ? patch.y : 0);
}

export class PictureCache {
  private readonly workers: { worker: Worker; remote: Remote<RenderService>; load: number }[] = [];
  private readonly plates = new Kept<ImageBitmap>(MOST_PLATES, (b) => b);
  private readonly patches = new Kept<Patch>(MOST_PATCHES, (p) => p.bitmap);

  constructor() {
    for (let i = 0; i < WORKERS; i++) {
      const worker = new Worker(new URL('./render.worker.ts', import.meta.url), { type: 'module' });
      this.workers.push({ worker, remote: wrap<RenderService>(worker), load: 0 });
    }
  }

  /** What is there now, without asking for it; null unless all of it is. */
  peek(request: PictureRequest): PictureParts | null {
    const keys = keysOf(request);
    const plate = keys.plate === null ? null : this.plates.get(keys.plate)?.part;
    const patch = keys.patch === null ? null : this.patches.get(keys.patch)?.part;
    return plate === undefined || patch === undefined ? null : { plate, patch };
  }

  /** @param cutOut of the plate, for a picture of a window of it */
  async get(request: PictureRequest, cutOut?: () => Promise<CutOut>): Promise<PictureParts> {
    const keys = keysOf(request);
    let plate = keys.plate === null ? null : this.plates.get(keys.plate);
    let patch = keys.patch === null ? null : this.patches.get(keys.patch);
    const wanted = { plate: plate === undefined, patch: patch === undefined };
    if (wanted.plate || wanted.patch) {
      const parts = this.made(request, wanted, cutOut);
      if (wanted.plate)
        plate = this.plates.add(
          keys.plate!,
          parts.then((p) => p.plate),
        );
      if (wanted.patch)
        patch = this.patches.add(
          keys.patch!,
          parts.then((p) => p.patch),
        );
    }
    return { plate: (await plate?.ready) ?? null, patch: (await patch?.ready) ?? null };
  }

  private async made(
    request: PictureRequest,
    wanted: WantedParts,
    cutOut?: () => Promise<CutOut>,
  ): Promise<PictureParts> {
    const w = this.workers.reduce((a, b) => (b.load < a.load ? b : a));
    w.load++;
    // The request's own copy: what the stores hand out is reactive, and nothing reactive crosses to a worker.
    const own = JSON.parse(JSON.stringify(request)) as PictureRequest;
    try {
      return await w.remote.parts(own, wanted, (await cutOut?.()) ?? null);
    } finally {
      w.load--;
    }
  }

  get busy(): number {
    return this.workers.reduce((s, w) => s + w.load, 0);
  }

  dispose(): void {
    for (const w of this.workers) w.worker.terminate();
    this.plates.clear();
    this.patches.clear();
  }
}
