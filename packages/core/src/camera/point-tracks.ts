/**
 * Points of the scene followed through a shot, spread over the whole picture: where one is lost another is looked for in
 * its part of the picture. Frames are given in order, once each.
 */
import type { RawLuma } from '../image/image';
import type { Pyramid } from '../image/pyramid';
import { buildPyramid } from '../image/pyramid';
import type { CommonMotion } from './common-motion';
import { commonMotion } from './common-motion';
import type { Corner } from './corners';
import { cornersOf } from './corners';
import type { Patch, PatchPlace } from './patch';
import { HALF, PatchFitter } from './patch';
import { wholeShift } from './whole-shift';

/** One point on consecutive frames. */
export interface PointTrack {
  readonly id: number;
  /** its first frame, as counted from the first that was given */
  readonly first: number;
  /** x and y of each frame, px, corner-origin; NaN where it was not to be found in between */
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
  leastShare: 0.02,
  /** Frames that a point may be hidden or blurred away and is still looked for. By trial. */
  mostHidden: 5,
  /** Frames after which points are looked for anew. By trial. */
  every: 6,
  /** Share of the points left below which they are looked for at once. By trial. */
  leastFull: 0.85,
  /** Corners that are taken however weak beside the strongest. By trial. */
  leastCorners: 200,
  /** Squared levels per px; weaker ones are noise. By trial. */
  leastStrength: 4,
} as const;

/** Px of width above which corners are looked for in the halved picture. */
const HALVED_ABOVE = 700;
/** Px of width above which everything is done in the halved picture: a patch then holds as much as it does in others. */
const WHOLE_UP_TO = 1400;

/** Px at 1920 wide from where the points about would have it, within which a find is believed. By trial. */
const NEAR = 6;

/** How much more alike another find must be to count against the one where the points about would have it. By trial. */
const CLEARLY = 0.05;

interface Found {
  readonly place: PatchPlace;
  /** correlation with what it looked like first */
  readonly likeness: number;
}

interface Live {
  readonly track: PointTrack;
  patch: Patch;
  /** where it was seen last, and in which picture */
  place: PatchPlace;
  picture: Pyramid;
  /** frame it was seen on last */
  frame: number;
  /** px a frame that it moved by when it was seen last */
  moved: { x: number; y: number };
  /** px by which it moved other than the points about, when it was seen last: parallax goes on */
  apart: { x: number; y: number };
}

/** Levels so that the coarsest is about sixty px wide. By trial. */
const levelsFor = (width: number): number => Math.max(2, Math.round(Math.log2(width / 60)));

const isWild = ({ a, b, c, d }: PatchPlace): boolean => {
  const area = Math.abs(a * d - b * c);
  return area > KEPT.mostGrown || area < 1 / KEPT.mostGrown;
};

/** Follows points from frame to frame; memory is that of a few pictures. */
export class PointTracker {
  readonly tracks: PointTrack[] = [];
  private live: Live[] = [];
  private last: Pyramid | null = null;
  private frame = 0;
  /** px of the frames in a px of what is worked in */
  private scale = 1;
  private readonly fitter = new PatchFitter();
  /** px that the picture as a whole has gone by since the first frame, roughly, by frame */
  private readonly gone = [{ x: 0, y: 0 }];
  /** points there were after some were last begun */
  private full = 0;

  /** @param isLeftOut px of a frame where no point may be, as outlined by the person */
  constructor(private readonly isLeftOut: (frame: number, x: number, y: number) => boolean = () => false) {}

  /** Points that are seen on the frame given last. */
  get seen(): number {
    return this.live.filter((l) => l.frame === this.frame - 1).length;
  }

  /** Where they are, x and y of each, px. */
  placesNow(): number[] {
    const here = this.live.filter((l) => l.frame === this.frame - 1);
    return here.flatMap(({ place: { x, y } }) => [x * this.scale, y * this.scale]);
  }

  /** Takes the next frame. */
  add(picture: RawLuma): void {
    const all = buildPyramid(picture, levelsFor(picture.width));
    this.scale = picture.width > WHOLE_UP_TO ? 2 : 1;
    const pyramid = all.slice(this.scale - 1);
    if (this.last) this.follow(pyramid);
    this.begin(pyramid);
    this.last = pyramid;
    this.frame++;
  }

  private follow(to: Pyramid): void {
    const whole = wholeShift(this.last!, to);
    this.gone.push({ x: this.gone.at(-1)!.x + whole.x, y: this.gone.at(-1)!.y + whole.y });
    const found = this.live.map((live) => this.foundIn(live, to));
    const shared = commonMotion(
      this.live.flatMap(({ frame, place }, i) => {
        const at = found[i]?.place;
        return at && frame === this.frame - 1 ? [{ from: place, to: at }] : [];
      }),
      to[0]!.width,
    );
    this.live = this.live.filter((live, i) => {
      const own = shared ? this.checked(live, found[i]!, shared, to) : found[i]!;
      if (!own) return this.frame - live.frame <= KEPT.mostHidden;
      if (this.leavesOut(own.place)) return false;
      const about = shared?.(live.place);
      if (about && live.frame === this.frame - 1) live.apart = { x: own.place.x - about.x, y: own.place.y - about.y };
      this.take(live, own.place, to);
      return true;
    });
  }

  /** A find that lies elsewhere than the points about would have it may be the next of several that look alike. */
  private checked(live: Live, found: Found | null, shared: CommonMotion, to: Pyramid): Found | null {
    if (live.frame !== this.frame - 1) return found;
    const about = shared(live.place);
    const expected = { x: about.x + live.apart.x, y: about.y + live.apart.y };
    const near = (NEAR * to[0]!.width) / 1920;
    if (found && Math.hypot(found.place.x - expected.x, found.place.y - expected.y) < near) return found;
    const other = this.foundNear(live, to, { x: expected.x - live.place.x, y: expected.y - live.place.y });
    return other && other.likeness > (found?.likeness ?? 0) - CLEARLY ? other : found;
  }

  private take(live: Live, found: PatchPlace, picture: Pyramid): void {
    const frames = this.frame - live.frame;
    live.moved = { x: (found.x - live.place.x) / frames, y: (found.y - live.place.y) / frames };
    for (let f = 1; f < frames; f++) live.track.places.push(NaN, NaN);
    live.track.places.push(found.x * this.scale, found.y * this.scale);
    live.place = found;
    live.picture = picture;
    live.frame = this.frame;
    if (isWild(found)) this.renew(live, picture);
  }

  /** Where a point lies in the next picture; null when it is not to be found. */
  private foundIn(live: Live, to: Pyramid): Found | null {
    const frames = this.frame - live.frame;
    const [since, now] = [this.gone[live.frame]!, this.gone[this.frame]!];
    // Where it goes on as it went; else where the picture as a whole has gone.
    return (
      this.foundNear(live, to, { x: frames * live.moved.x, y: frames * live.moved.y }) ??
      this.foundNear(live, to, { x: now.x - since.x, y: now.y - since.y })
    );
  }

  private foundNear({ place, patch, picture }: Live, to: Pyramid, by: { x: number; y: number }): Found | null {
    const at = this.fitter.shiftOf(picture, to, place, { x: place.x + by.x, y: place.y + by.y });
    const next: PatchPlace = { ...place, x: at.x, y: at.y };
    const likeness = this.fitter.fit(to[0]!, patch, next);
    const apart = Math.hypot(next.x - at.x, next.y - at.y);
    const most = Math.max(1, (KEPT.mostApart * to[0]!.width) / 1920);
    return likeness === null || likeness < KEPT.leastLikeness || apart > most ? null : { place: next, likeness };
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
    const here = this.live.filter((l) => l.frame === this.frame);
    const isShort = here.length < KEPT.leastFull * this.full;
    if (!isShort && this.frame % KEPT.every !== 0) return;
    const counts = new Int32Array(KEPT.columns * KEPT.rows);
    for (const { place } of here) counts[partOf(place.x, place.y)]!++;
    const taken = here.map((l) => l.place as { x: number; y: number });
    const least = KEPT.apart * (2 * HALF + 1);
    for (const corner of this.candidates(pyramid)) {
      const part = partOf(corner.x, corner.y);
      const isFree =
        counts[part]! < KEPT.each &&
        !taken.some((t) => Math.abs(t.x - corner.x) < least && Math.abs(t.y - corner.y) < least);
      if (!isFree || this.leavesOut(corner)) continue;
      const patch = this.fitter.patchAt(pyramid[0]!, corner.x, corner.y);
      if (!patch?.factor) continue;
      counts[part]!++;
      taken.push(corner);
      const track: PointTrack = {
        id: this.tracks.length,
        first: this.frame,
        places: [corner.x * this.scale, corner.y * this.scale],
      };
      this.tracks.push(track);
      this.live.push({
        track,
        patch,
        place: { x: corner.x, y: corner.y, a: 1, b: 0, c: 0, d: 1 },
        picture: pyramid,
        frame: this.frame,
        moved: { x: 0, y: 0 },
        apart: { x: 0, y: 0 },
      });
    }
    this.full = counts.reduce((sum, n) => sum + n, 0);
  }

  private leavesOut({ x, y }: { readonly x: number; readonly y: number }): boolean {
    return this.isLeftOut(this.frame, x * this.scale, y * this.scale);
  }

  private candidates(pyramid: Pyramid): Corner[] {
    const whole = pyramid[0]!;
    const isHalved = whole.width > HALVED_ABOVE;
    const picture = isHalved ? pyramid[1]! : whole;
    const all = cornersOf(picture, KEPT.leastStrength);
    const weakest = Math.min((all[0]?.strength ?? 0) * KEPT.leastShare, all[KEPT.leastCorners]?.strength ?? 0);
    const scale = isHalved ? 2 : 1;
    return all.filter((c) => c.strength > weakest).map((c) => ({ ...c, x: c.x * scale, y: c.y * scale }));
  }
}
