/** A room of points that a known camera walks through, and what it sees of them: invented, with exact truth. */
import type { PointTrack } from '../../src/camera/point-tracks';
import type { View } from '../../src/camera/view-model';
import { Projection, halfDiagonal, movedView, viewOfNothing } from '../../src/camera/view-model';
import { random as numbers } from './scene';

export interface SeenRoom {
  readonly size: { readonly width: number; readonly height: number };
  readonly frames: number;
  readonly tracks: readonly PointTrack[];
  readonly views: readonly View[];
  /** px, by frame */
  readonly focals: readonly number[];
  /** three numbers each */
  readonly points: Float64Array;
}

export interface RoomWay {
  readonly frames?: number;
  readonly count?: number;
  /** the camera's turning (3) and shift (3) on a frame, in its own axes */
  readonly way: (frame: number) => readonly number[];
  /** px */
  readonly focal?: (frame: number) => number;
  readonly k1?: number;
  /** px of each place, one axis */
  readonly noise?: number;
  /** radians by which a row half a diagonal lower is turned, by frame */
  readonly rowTurn?: (frame: number) => readonly number[];
  /** a point's depth; between 4 and 10 when left out */
  readonly depth?: (random: number) => number;
  /** the share of points that walk by themselves */
  readonly walkers?: number;
}

export const SIZE = { width: 960, height: 540 };

export function seenRoom(o: RoomWay): SeenRoom {
  const { frames = 40, count = 110, noise = 0.05, k1 = 0, walkers = 0 } = o;
  const random = numbers(7);
  const gauss = (): number => Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
  const hd = halfDiagonal(SIZE);
  const focals = Array.from({ length: frames }, (_, f) => o.focal?.(f) ?? 1100);
  const views = Array.from({ length: frames }, (_, f) => {
    const v = movedView(viewOfNothing(), o.way(f));
    (o.rowTurn?.(f) ?? []).forEach((t, k) => (v[12 + k] = t));
    return v;
  });
  const depth = o.depth ?? ((r: number): number => 4 + 6 * r);
  const points = Float64Array.from(
    Array.from({ length: count }, () => {
      const z = depth(random());
      return [0.62 * z * (2 * random() - 1), 0.36 * z * (2 * random() - 1), z];
    }).flat(),
  );
  const tracks: PointTrack[] = [];
  const p = new Projection();
  for (let i = 0; i < count; i++) {
    const walks = random() < walkers;
    const places: number[] = [];
    for (let f = 0; f < frames; f++) {
      const at = [...points.subarray(3 * i, 3 * i + 3)];
      if (walks) at[0]! += 0.02 * f * Math.sin(0.3 * f);
      const optics = { focal: focals[f]! / hd, k1, k2: 0 };
      let row = 0;
      for (let k = 0; k < 5; k++) {
        p.place(views[f]!, optics, at, 0, row);
        row = p.y;
      }
      const [x, y] = [SIZE.width / 2 + hd * p.x, SIZE.height / 2 + hd * p.y];
      const isInside = p.depth > 0 && x > 0 && y > 0 && x < SIZE.width && y < SIZE.height;
      places.push(...(isInside ? [x + noise * gauss(), y + noise * gauss()] : [NaN, NaN]));
    }
    const first = places.findIndex((v) => !Number.isNaN(v)) >> 1;
    let end = frames;
    while (end > first && Number.isNaN(places[2 * end - 1])) end--;
    if (end - first > 2) tracks.push({ id: tracks.length, first, places: places.slice(2 * first, 2 * end) });
  }
  return { size: SIZE, frames, tracks, views, focals, points };
}
