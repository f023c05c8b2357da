/** Pictures and places of a range that is delivered as a loop. */
import { fadeShare } from '@yarlop/core/image/loop-range';
import { quadToQuad } from '@yarlop/core/geometry/homography';
import type { Quad } from '@yarlop/core/geometry/quad';
import type { Raster } from '@yarlop/core/image/image';
import type { DecodeOptions } from '@yarlop/media/decode';
import { decodeRgb } from '@yarlop/media/decode';
import type { Probe } from '@yarlop/media/probe';
import type { Source } from '@yarlop/media/source';
import { InputError } from './pipeline-error';
import type { Place } from './render-frame';

export interface Loop {
  readonly from: number;
  readonly to: number;
  readonly dissolve: number;
}

/** @throws InputError for a dissolve that has no frames to fade into */
export function assertLoop({ from, to, dissolve }: Loop): void {
  if (dissolve > from)
    throw new InputError(
      `A dissolve of ${dissolve} frames fades into the ${dissolve} frames before the loop begins, and before frame ${from} there are ${from}; begin later, or dissolve for less.`,
    );
  if (dissolve > to - from)
    throw new InputError(`The loop has ${to - from + 1} frames and cannot dissolve for ${dissolve}; make it longer.`);
}

/** Code values mixed as a dissolve mixes them. */
function mix(a: Raster, b: Raster, share: number): void {
  const { data } = a;
  const whole = !(data instanceof Float32Array);
  for (let i = 0; i < data.length; i++) {
    const v = data[i]! + share * (b.data[i]! - data[i]!);
    data[i] = whole ? (v + 0.5) | 0 : v;
  }
}

/**
 * The plate's pictures of a loop, or of a part of one, the last ones faded into those before its beginning.
 * @param part of the loop, in frames of the plate
 */
export async function* loopPictures(
  source: Source,
  probe: Probe,
  { from, to, dissolve }: Loop,
  part: { readonly from: number; readonly count: number },
  o: Pick<DecodeOptions, 'seekable' | 'buffers'>,
): AsyncGenerator<Raster> {
  let frame = part.from;
  let before: AsyncGenerator<Raster> | null = null;
  try {
    for await (const picture of decodeRgb(source, probe, { ...o, ...part })) {
      const i = frame++ - (to - dissolve + 1);
      if (i >= 0) {
        before ??= decodeRgb(source, probe, {
          seekable: o.seekable ?? false,
          from: from - dissolve + i,
          count: dissolve - i,
        });
        const { value, done } = await before.next();
        if (!done) mix(picture, value as Raster, fadeShare(i, dissolve));
      }
      yield picture;
    }
  } finally {
    await before?.return(undefined);
  }
}

/**
 * Where a Screen is on the frames of a loop: it fades too, from where it was at the end to where it is at the
 * beginning, and goes on around the seam.
 */
export function loopPlaces(
  places: ReadonlyMap<number, Place>,
  pin: Quad,
  { from, to, dissolve }: Loop,
): Map<number, Place> {
  const out = new Map<number, Place>();
  for (let frame = from; frame <= to; frame++) {
    const own = places.get(frame);
    const i = frame - (to - dissolve + 1);
    const before = i >= 0 ? places.get(from - dissolve + i) : undefined;
    const share = i >= 0 ? fadeShare(i, dissolve) : 0;
    if (!own || (i >= 0 && !before)) continue;
    const corners = before
      ? (own.corners.map((c, k) => [
          c[0] + share * (before.corners[k]![0] - c[0]),
          c[1] + share * (before.corners[k]![1] - c[1]),
        ]) as unknown as Quad)
      : own.corners;
    out.set(frame, before ? { corners, homography: quadToQuad(pin, corners) } : own);
  }
  const first = out.get(from);
  const last = out.get(to);
  if (first) out.set(to + 1, first);
  if (last) out.set(from - 1, last);
  return out;
}
