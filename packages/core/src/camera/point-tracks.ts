/**
 * Points of the scene followed through a shot, spread over the whole picture: where one is lost another is looked for in
 * its part of the picture. Frames are given in order, once each.
 */
import type { RawLuma } from '../image/image';
import type { Pyramid } from '../image/pyramid';
import { buildPyramid, halve } from '../image/pyramid';
import type { Corner } from './corners';
import { cornersOf } from './corners';
import type { Patch, PatchPlace } from './patch';
import { HALF, PatchFitter } from './patch';

/** One point on consecutive frames. */
export interface PointTrack {
  readonly id: number;
  /** its first frame, as counted from the first that was given */
  readonly first: number;
  /** x and y of each frame, px, corner-origin */
  readonly places: number[];
}

const KEPT = {
  /** Columns and rows of the parts that the picture is cut into. By trial. */
  columns: 16,
  rows: 9,
  /** Points of one part. By trial. */
  each: 3,
  /** Correlation below which a point is another one. By trial. */
  leastLikeness: 0.8,
  /** Px at 1920 wide that the fit against the first picture may lie from the shift since the last one. By trial. */
  mostApart: 2.5,
  /** Change of area at which a point is begun anew. By trial. */
  mostGrown: 2,
  /** Px between two points, in sides of a patch. By trial. */
  apart: 0.8,
  /** Share of the strongest corner's strength that the weakest may have. By trial. */
  leastShare: 0.002,
  /** Frames after which points are looked for anew. By trial. */
  every: 6,
  /** Share of the points left below which they are looked for at once. By trial. */
  leastFull: 0.85,
  /** Squared levels per px; weaker ones are noise. By trial. */
  leastStrength: 1,
} as const;

/** Px of width above which corners are looked for in the halved picture. */
const HALVED_ABOVE = 1200;

interface Live {
  readonly track: PointTrack;
  patch: Patch;
  place: PatchPlace;
  /** px moved by since the frame before */
  moved: { x: number; y: number };
}

/** Levels so that the coarsest is about sixty px wide. By trial. */
const levelsFor = (width: number): number => Math.max(2, Math.round(Math.log2(width / 60)));

const isWild = ({ a, b, c, d }: PatchPlace): boolean => {
  const area = Math.abs(a * d - b * c);
  return area > KEPT.mostGrown || area < 1 / KEPT.mostGrown;
};

export class PointTracker {
  readonly tracks: PointTrack[] = [];
  private live: Live[] = [];
  private last: Pyramid | null = null;
  private frame = 0;
  private readonly fitter = new PatchFitter();
  /** points there were after some were last begun */
  private full = 0;

  /** @param isLeftOut px of a frame where no point may be, as outlined by the person */
  constructor(private readonly isLeftOut: (frame: number, x: number, y: number) => boolean = () => false) {}

  /** Points that are seen on the frame given last. */
  get seen(): number {
    return this.live.length;
  }

  /** Takes the next frame. */
  add(picture: RawLuma): void {
    const pyramid = buildPyramid(picture, levelsFor(picture.width));
    if (this.last) this.follow(this.last, pyramid);
    this.begin(pyramid);
    this.last = pyramid;
    this.frame++;
  }

  private follow(from: Pyramid, to: Pyramid): void {
    const kept: Live[] = [];
    for (const live of this.live) {
      const found = this.found(live, from, to);
      if (!found || this.isLeftOut(this.frame, found.x, found.y)) continue;
      live.track.places.push(found.x, found.y);
      kept.push(live);
    }
    this.live = kept;
  }

  /** Moves a point to where it lies in the next picture; null when it is not to be found. */
  private found(live: Live, from: Pyramid, to: Pyramid): PatchPlace | null {
    const { place, moved } = live;
    const at = this.fitter.shiftOf(from, to, place, { x: place.x + moved.x, y: place.y + moved.y });
    const next: PatchPlace = { ...place, x: at.x, y: at.y };
    const likeness = this.fitter.fit(to[0]!, live.patch, next);
    const apart = Math.hypot(next.x - at.x, next.y - at.y);
    const most = Math.max(1, (KEPT.mostApart * to[0]!.width) / 1920);
    if (likeness === null || likeness < KEPT.leastLikeness || apart > most) return null;
    live.moved = { x: next.x - place.x, y: next.y - place.y };
    live.place = next;
    if (isWild(next)) this.renew(live, to);
    return live.place;
  }

  /** Goes on from what the point looks like now. */
  private renew(live: Live, pyramid: Pyramid): void {
    const { x, y } = live.place;
    const patch = this.fitter.patchAt(pyramid[0]!, x, y);
    if (!patch) return;
    live.patch = patch;
    live.place = { x, y, a: 1, b: 0, c: 0, d: 1 };
  }

  /** Begins new points in the parts of the picture that lack some. */
  private begin(pyramid: Pyramid): void {
    const { width, height } = pyramid[0]!;
    const partOf = (x: number, y: number): number =>
      Math.floor((y / height) * KEPT.rows) * KEPT.columns + Math.floor((x / width) * KEPT.columns);
    const isShort = this.live.length < KEPT.leastFull * this.full;
    if (!isShort && this.frame % KEPT.every !== 0) return;
    const counts = new Int32Array(KEPT.columns * KEPT.rows);
    for (const { place } of this.live) counts[partOf(place.x, place.y)]!++;
    const taken = this.live.map((l) => l.place as { x: number; y: number });
    const least = KEPT.apart * (2 * HALF + 1);
    for (const corner of this.candidates(pyramid)) {
      const part = partOf(corner.x, corner.y);
      const isFree =
        counts[part]! < KEPT.each &&
        !taken.some((t) => Math.abs(t.x - corner.x) < least && Math.abs(t.y - corner.y) < least);
      if (!isFree || this.isLeftOut(this.frame, corner.x, corner.y)) continue;
      const patch = this.fitter.patchAt(pyramid[0]!, corner.x, corner.y);
      if (!patch?.factor) continue;
      counts[part]!++;
      taken.push(corner);
      const track: PointTrack = { id: this.tracks.length, first: this.frame, places: [corner.x, corner.y] };
      this.tracks.push(track);
      this.live.push({ track, patch, place: { x: corner.x, y: corner.y, a: 1, b: 0, c: 0, d: 1 }, moved: { x: 0, y: 0 } });
    }
    this.full = this.live.length;
  }

  private candidates(pyramid: Pyramid): Corner[] {
    const whole = pyramid[0]!;
    const isHalved = whole.width > HALVED_ABOVE;
    const picture = isHalved ? (pyramid[1] ?? halve(whole)) : whole;
    const all = cornersOf(picture, KEPT.leastStrength);
    const weakest = (all[0]?.strength ?? 0) * KEPT.leastShare;
    const scale = isHalved ? 2 : 1;
    return all.filter((c) => c.strength > weakest).map((c) => ({ ...c, x: c.x * scale, y: c.y * scale }));
  }
}
