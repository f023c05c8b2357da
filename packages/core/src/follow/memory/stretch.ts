/**
 * Stretches of doubtful frames between frames that are sure: what lies beyond a stretch tells where the Screen was in it,
 * so that it is worth looking at once more from both sides.
 */
import type { Point } from '../../geometry/point';
import { distance } from '../../geometry/point';
import type { Quad } from '../../geometry/quad';
import { farthest, isConvex, movedTo } from '../../geometry/quad';

const STRETCH = {
  /** Trust from which a frame needs no second look. By trial. */
  sure: 0.9,
  /** px at 1920 wide; a frame that lies farther from where it was expected gets one, however sure it is. By trial. */
  surprising: 5,
  /** Trust of a frame that was taken for want of anything better. By trial. */
  hardly: 0.1,
  /** Such frames in a row after which the Screen is looked for elsewhere. By trial. */
  astray: 3,
  /** Sure frames in a row that end a stretch. By trial. */
  settled: 3,
  /** Sure frames before it that are kept. By trial. */
  kept: 3,
  /** Frames beyond which a stretch is given up: it tells nothing any more of what lies within. By trial. */
  longest: 96,
  /** px at 1920 wide; sigma of a place between sure ones that always remains. By trial. */
  always: 1,
  /** px at 1920 wide; a place known no better than this tells nothing. By trial. */
  most: 60,
  /** Share of the difference between what one side and what both tell that is added to it. By trial. */
  perDifference: 0.5,
  /** Share of a frame's movement that is added to it. By trial. */
  perSpeed: 0.15,
} as const;

export interface Placed {
  readonly frame: number;
  /** ideal px */
  readonly corners: Quad;
}

/** A frame as it was followed, whether found or not. */
export interface Seen {
  readonly frame: number;
  readonly corners: Quad | null;
  readonly trust: number;
  /** px at 1920 wide that it lay from where it was expected */
  readonly surprise: number;
}

export interface Stretch {
  /** sure frames before the stretch, and beyond it; each in the run's order */
  readonly before: readonly Placed[];
  readonly beyond: readonly Placed[];
  readonly doubtful: readonly { readonly frame: number; readonly corners: Quad | null; readonly trust: number }[];
}

export const NO_STRETCH: Stretch = { before: [], beyond: [], doubtful: [] };

function isSurely(f: Seen): f is Seen & { readonly corners: Quad } {
  return f.corners !== null && f.trust >= STRETCH.sure && f.surprise <= STRETCH.surprising;
}

/** Whether the last frames were all taken for want of anything better: the Screen may well be elsewhere. */
export function isAstray({ doubtful, beyond }: Stretch): boolean {
  const last = doubtful.slice(-STRETCH.astray);
  return (
    beyond.length === 0 && last.length === STRETCH.astray && last.every((f) => f.corners && f.trust < STRETCH.hardly)
  );
}

/** A stretch with one frame more. */
export function withFrame(s: Stretch, f: Seen): Stretch {
  const { frame, corners, trust } = f;
  if (isSurely(f)) {
    const placed = { frame, corners: f.corners };
    return s.doubtful.length === 0
      ? { ...s, before: [...s.before, placed].slice(-STRETCH.kept) }
      : { ...s, beyond: [...s.beyond, placed] };
  }
  const between = s.beyond.map((p) => ({ ...p, trust: 1 }));
  const doubtful = [...s.doubtful, ...between, { frame, corners, trust }];
  return doubtful.length > STRETCH.longest ? NO_STRETCH : { before: s.before, beyond: [], doubtful };
}

/** A stretch of which a frame was followed again. */
export function amended(s: Stretch, frame: number, corners: Quad, trust: number): Stretch {
  return { ...s, doubtful: s.doubtful.map((d) => (d.frame === frame ? { frame, corners, trust } : d)) };
}

/** A stretch whose places were moved. */
export function withCorners(s: Stretch, move: (corners: Quad) => Quad): Stretch {
  const placed = (p: Placed): Placed => ({ ...p, corners: move(p.corners) });
  return {
    before: s.before.map(placed),
    beyond: s.beyond.map(placed),
    doubtful: s.doubtful.map((d) => ({ ...d, corners: d.corners && move(d.corners) })),
  };
}

/** @param last no further frame will come */
export function isClosed(s: Stretch, last: boolean): boolean {
  return s.doubtful.length > 0 && s.beyond.length >= (last ? 1 : STRETCH.settled);
}

/** What is left of a stretch that was looked at. */
export function after(s: Stretch): Stretch {
  return { before: s.beyond.slice(-STRETCH.kept), beyond: [], doubtful: [] };
}

/** The frames of a stretch from both ends inwards; from the known end alone where the other is not known. */
export function inwards({ before, beyond, doubtful }: Stretch): number[] {
  const frames = doubtful.map((d) => d.frame);
  if (beyond.length === 0) return frames;
  if (before.length === 0) return frames.reverse();
  return frames.map((_, i) => (i % 2 === 0 ? frames[i / 2]! : frames[frames.length - (i + 1) / 2]!));
}

/** The polynomial through places, at a frame. */
function through(places: readonly Placed[], frame: number): Quad {
  const weights = places.map((p) =>
    places.reduce((w, q) => (q === p ? w : (w * (frame - q.frame)) / (p.frame - q.frame)), 1),
  );
  return [0, 1, 2, 3].map((corner): Point =>
    places.reduce<Point>(
      ([x, y], p, i) => [x + weights[i]! * p.corners[corner]![0], y + weights[i]! * p.corners[corner]![1]],
      [0, 0],
    ),
  ) as unknown as Quad;
}

/** The places nearest to a frame on one side of it, nearest first. @param step 1 after it, -1 before it */
function nearestOn(known: readonly Placed[], frame: number, step: 1 | -1): Placed[] {
  return known
    .filter((p) => Math.sign(p.frame - frame) === step)
    .sort((a, b) => Math.abs(a.frame - frame) - Math.abs(b.frame - frame))
    .slice(0, 2);
}

export interface Between {
  readonly corners: Quad;
  /** px */
  readonly sigma: number;
  /** of the fastest corner, px a frame */
  readonly speed: number;
  /** known places on the nearer side, nearest first */
  readonly near: readonly Placed[];
}

/**
 * Where a Screen should be on a frame between others.
 * @param width of the picture, px
 * @returns null when next to nothing is known around it
 */
export function placeBetween(known: readonly Placed[], frame: number, width: number): Between | null {
  const sides = [nearestOn(known, frame, -1), nearestOn(known, frame, 1)].filter((s) => s.length > 0);
  const away = (s: readonly Placed[]): number => Math.abs(s[0]!.frame - frame);
  const [near, far] = sides.sort((a, b) => away(a) - away(b));
  if (!near) return null;
  const [last, other] = near;
  const step = other ? Math.abs(last!.frame - other.frame) : 1;
  const speed = other ? Math.max(...last!.corners.map((p, i) => distance(p, other.corners[i]!))) / step : 0;
  const ahead = through(near, frame);
  const both = through([...near, ...(far ?? [])], frame);
  const corners = [both, ahead].find(isConvex) ?? last!.corners;
  const always = STRETCH.always * (width / 1920);
  const told = always + STRETCH.perDifference * farthest(ahead, corners) + STRETCH.perSpeed * speed;
  const sigma = far ? told : told + speed;
  return sigma < STRETCH.most * (width / 1920) ? { corners, sigma, speed, near } : null;
}

/** The shape of the Screen on a frame, wherever it lies, from the frames that are known beside the stretch; null without both. */
export function shapeBetween({ before, beyond }: Stretch, frame: number): Quad | null {
  const [last, next] = [before.at(-1), beyond[0]];
  if (!last || !next) return null;
  const share = (frame - last.frame) / (next.frame - last.frame);
  const other = movedTo(next.corners, last.corners);
  return last.corners.map(([x, y], k): Point => [
    x + share * (other[k]![0] - x),
    y + share * (other[k]![1] - y),
  ]) as unknown as Quad;
}
