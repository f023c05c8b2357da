/** Rectangles of the plate in full pixels, some frames at a time: what the view rides on while it plays. */
import { clamp } from '@yarlop/core/clamp';
import { LRUCache } from 'lru-cache';
import { bytes } from '../api';
import type { CutOut, Rectangle } from '../shared/picture-request';

/** Frames that are fetched at once: half a second. */
const AT_ONCE = 12;
/** Stretches of so many frames that are kept: those that pictures are being made from. */
const KEPT = 6;

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
  readonly at: readonly { readonly x: number; readonly y: number }[];
}

/** The rectangles of a stretch of frames, all as large as the largest of them. */
function stretchAt(plate: CutPlate, frame: number, wanted: (frame: number) => Rectangle): Stretch {
  const from = frame - (frame % AT_ONCE);
  const all = Array.from({ length: Math.min(AT_ONCE, plate.frames - from) }, (_, i) => wanted(from + i));
  const width = Math.max(...all.map((r) => r.width));
  const height = Math.max(...all.map((r) => r.height));
  const at = all.map((r) => ({
    x: clamp(r.x, 0, plate.size[0] - width),
    y: clamp(r.y, 0, plate.size[1] - height),
  }));
  return { from, width, height, at };
}

export class CutOuts {
  private readonly kept = new LRUCache<string, { readonly data: Promise<Uint8Array>; readonly ended: AbortController }>(
    {
      max: KEPT,
      dispose: ({ ended }) => ended.abort(),
    },
  );

  /** @param wanted of a frame, within the plate */
  async of(plate: CutPlate, frame: number, wanted: (frame: number) => Rectangle): Promise<CutOut> {
    const stretch = stretchAt(plate, frame, wanted);
    const { from, width, height, at } = stretch;
    const size = 3 * width * height;
    const data = await this.fetched(plate.hash, stretch, size);
    const i = frame - from;
    return { ...at[i]!, width, height, data: data.slice(i * size, (i + 1) * size), of: plate.size };
  }

  private fetched(hash: string, stretch: Stretch, size: number): Promise<Uint8Array> {
    const key = hash + JSON.stringify(stretch);
    const known = this.kept.get(key);
    if (known) return known.data;
    const ended = new AbortController();
    const data = new Uint8Array(size * stretch.at.length);
    const ready = bytes(`/media/${hash}/cut-outs`, stretch, ended.signal, data, () => {}).then(() => data);
    this.kept.set(key, { data: ready, ended });
    ready.catch(() => this.kept.delete(key));
    return ready;
  }

  clear(): void {
    this.kept.clear();
  }
}
