/** Rectangles of the plate in full pixels, some frames at a time: what the view rides on while it plays. */
import { clamp } from '@yarlop/core/clamp';
import { LRUCache } from 'lru-cache';
import { bytes } from '../api';
import type { CutOut, Rectangle } from '../shared/picture-request';

/** Frames that are fetched at once: half a second. */
const AT_ONCE = 12;
/** Bytes of them that are kept. */
const MOST_BYTES = 64e6;

/** A plate whose rectangles are wanted. */
export interface CutPlate {
  readonly hash: string;
  readonly size: readonly [width: number, height: number];
  readonly frames: number;
}

interface Stretch {
  readonly from: number;
  readonly width: number;
  readonly height: number;
  /** rectangles of each frame */
  readonly each: number;
  readonly at: readonly { readonly x: number; readonly y: number }[];
}

/** The rectangles of a stretch of frames, all as large as the largest of them. */
function stretchAt(plate: CutPlate, frame: number, wanted: (frame: number) => readonly Rectangle[]): Stretch {
  const from = frame - (frame % AT_ONCE);
  const frames = Array.from({ length: Math.min(AT_ONCE, plate.frames - from) }, (_, i) => wanted(from + i));
  const all = frames.flat();
  const width = Math.max(...all.map((r) => r.width));
  const height = Math.max(...all.map((r) => r.height));
  const at = all.map((r) => ({
    x: clamp(r.x, 0, plate.size[0] - width),
    y: clamp(r.y, 0, plate.size[1] - height),
  }));
  return { from, width, height, each: frames[0]!.length, at };
}

interface Fetched {
  readonly data: Promise<Uint8Array>;
  readonly ended: AbortController;
  readonly bytes: number;
}

export class CutOuts {
  private readonly kept = new LRUCache<string, Fetched>({
    maxSize: MOST_BYTES,
    sizeCalculation: ({ bytes: size }) => size,
    dispose: ({ ended }) => ended.abort(),
  });

  /** @param wanted of a frame, within the plate; as many on each */
  async of(plate: CutPlate, frame: number, wanted: (frame: number) => readonly Rectangle[]): Promise<CutOut[]> {
    const stretch = stretchAt(plate, frame, wanted);
    const { from, width, height, each, at } = stretch;
    const size = 3 * width * height;
    const data = await this.fetched(plate.hash, stretch, size);
    const first = (frame - from) * each;
    return at.slice(first, first + each).map((place, k) => {
      const i = first + k;
      return { ...place, width, height, data: data.slice(i * size, (i + 1) * size), of: plate.size };
    });
  }

  private fetched(hash: string, stretch: Stretch, size: number): Promise<Uint8Array> {
    const key = hash + JSON.stringify(stretch);
    const known = this.kept.get(key);
    if (known) return known.data;
    const ended = new AbortController();
    const data = new Uint8Array(size * stretch.at.length);
    const ready = bytes(`/media/${hash}/cut-outs`, stretch, ended.signal, data, () => {}).then(() => data);
    this.kept.set(key, { data: ready, ended, bytes: Math.min(data.length, MOST_BYTES) });
    ready.catch(() => this.kept.delete(key));
    return ready;
  }

  clear(): void {
    this.kept.clear();
  }
}
