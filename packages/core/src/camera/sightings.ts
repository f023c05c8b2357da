/** Where the points of the scene were found, by frame and by point, in half diagonals from the picture's middle. */
import type { Observations } from './bundle';
import type { PointTrack } from './point-tracks';
import type { PictureSize } from './view-model';
import { halfDiagonal } from './view-model';

/** All places of all points, asked by frame or by point. */
export class Sightings {
  readonly count: number;
  /** the tracks' own numbers */
  readonly ids: readonly number[];
  private readonly firsts: Int32Array;
  private readonly lasts: Int32Array;
  private readonly xy: Float64Array[];
  private readonly byFrame: number[][];

  /** @param tracks in the order that their numbers below have */
  constructor(
    tracks: readonly PointTrack[],
    readonly size: PictureSize,
    readonly frames: number,
  ) {
    const k = 1 / halfDiagonal(size);
    const middle = [size.width / 2, size.height / 2] as const;
    this.count = tracks.length;
    this.ids = tracks.map((t) => t.id);
    this.firsts = Int32Array.from(tracks, (t) => t.first);
    this.lasts = Int32Array.from(tracks, (t) => t.first + t.places.length / 2 - 1);
    this.xy = tracks.map((t) => Float64Array.from(t.places, (v, i) => k * (v - middle[i % 2]!)));
    this.byFrame = Array.from({ length: frames }, () => []);
    tracks.forEach((t, id) => {
      for (let f = t.first; f <= this.lasts[id]!; f++) if (this.isSeen(id, f)) this.byFrame[f]!.push(id);
    });
  }

  /** Points that a frame shows. */
  of(frame: number): readonly number[] {
    return this.byFrame[frame]!;
  }

  /** First and last frame of a point. */
  spanOf(point: number): readonly [number, number] {
    return [this.firsts[point]!, this.lasts[point]!];
  }

  isSeen(point: number, frame: number): boolean {
    if (frame < this.firsts[point]! || frame > this.lasts[point]!) return false;
    return !Number.isNaN(this.x(point, frame));
  }

  x(point: number, frame: number): number {
    return this.xy[point]![2 * (frame - this.firsts[point]!)]!;
  }

  y(point: number, frame: number): number {
    return this.xy[point]![2 * (frame - this.firsts[point]!) + 1]!;
  }

  /** Points that both frames show. */
  common(a: number, b: number): number[] {
    return this.byFrame[a]!.filter((p) => this.isSeen(p, b));
  }

  /** The observations of some points in some frames, numbered by their places in both lists. */
  observations(frames: readonly number[], points: readonly number[]): Observations {
    const view: number[] = [];
    const point: number[] = [];
    const xy: number[] = [];
    points.forEach((p, i) =>
      frames.forEach((f, v) => {
        if (!this.isSeen(p, f)) return;
        view.push(v);
        point.push(i);
        xy.push(this.x(p, f), this.y(p, f));
      }),
    );
    return { view: Int32Array.from(view), point: Int32Array.from(point), xy: Float64Array.from(xy) };
  }
}
