/** Pictures by frame: made by two workers, kept while they fit, prefetched ahead of the playhead. */
import type { Remote } from 'comlink';
import { wrap } from 'comlink';
import type { PictureRequest } from '../shared/picture-request';
import type { RenderService } from './render.worker';

interface Entry {
  bitmap: ImageBitmap | null;
  readonly ready: Promise<ImageBitmap>;
}

/** Threads that make pictures: one a core of the smallest machine. */
export const WORKERS = 2;
/** Bytes of pictures that are kept. */
const MOST_BYTES = 420e6;

export class PictureCache {
  private readonly workers: { worker: Worker; remote: Remote<RenderService>; load: number }[] = [];
  private readonly entries = new Map<string, Entry>();
  private bytes = 0;

  constructor() {
    for (let i = 0; i < WORKERS; i++) {
      const worker = new Worker(new URL('./render.worker.ts', import.meta.url), { type: 'module' });
      this.workers.push({ worker, remote: wrap<RenderService>(worker), load: 0 });
    }
  }

  /** What is there now, without asking for it. */
  peek(request: PictureRequest): ImageBitmap | null {
    return this.entries.get(JSON.stringify(request))?.bitmap ?? null;
  }

  get(request: PictureRequest): Promise<ImageBitmap> {
    const key = JSON.stringify(request);
    const known = this.entries.get(key);
    if (known) {
      this.entries.delete(key);
      this.entries.set(key, known);
      return known.ready;
    }
    const w = this.workers.reduce((a, b) => (b.load < a.load ? b : a));
    w.load++;
    // The request's own copy: what the stores hand out is reactive, and nothing reactive crosses to a worker.
    const entry: Entry = {
      bitmap: null,
      ready: w.remote.picture(JSON.parse(key) as PictureRequest).finally(() => w.load--),
    };
    this.entries.set(key, entry);
    entry.ready.then(
      (b) => {
        entry.bitmap = b;
        this.bytes += 4 * b.width * b.height;
        this.trim();
      },
      () => this.entries.delete(key),
    );
    return entry.ready;
  }

  get busy(): number {
    return this.workers.reduce((s, w) => s + w.load, 0);
  }

  private trim(): void {
    for (const [key, e] of this.entries) {
      if (this.bytes <= MOST_BYTES) return;
      if (!e.bitmap) continue;
      this.bytes -= 4 * e.bitmap.width * e.bitmap.height;
      e.bitmap.close();
      this.entries.delete(key);
    }
  }

  dispose(): void {
    for (const w of this.workers) w.worker.terminate();
    for (const e of this.entries.values()) e.bitmap?.close();
    this.entries.clear();
  }
}
