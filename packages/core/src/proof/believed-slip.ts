/**
 * What to believe of the slips of a frame's corners. Each alone may be mistaken by some tenths of a pixel for many
 * frames, since a bezel, a glare or a thumb looks otherwise from another side; a track that slips moves its corners
 * together. So the corners' common movement is taken first (a shift, and a turn or growth as far as they agree), and a
 * corner's own way beyond it counts by as much as it exceeds those mistakes (W. James and C. Stein 1961: shrinkage).
 * Corners that could not be compared go with the others.
 */
import { solveLinear } from '../geometry/linear-algebra';
import type { Point } from '../geometry/point';
import type { Quad } from '../geometry/quad';

export interface Believed {
  /** per corner, px; null where its slip was not told */
  readonly told: readonly (Point | null)[];
  /** of all corners, px; null when none was told */
  readonly all: Quad | null;
}

const BELIEVED = {
  /** px at 1920 wide; standard deviation of a slip's mistakes: measured on generated shots. */
  mistake: 0.3,
  /** px at 1920 wide; standard deviation of a shift. By trial. */
  shift: 6,
  /** px at 1920 wide; standard deviation of a turn or growth at the corners. By trial. */
  turn: 1.5,
  /** Mistakes are so many times what the fit of a likeness knows of itself, which sees its noise alone. By trial. */
  ofSigma: 3,
  /** Standard deviations up to which mistakes are common. By trial. */
  common: 3,
  /** Rounds of weighting. By trial. */
  rounds: 4,
} as const;

/** What slips are believed by. */
interface Slips {
  readonly by: readonly (Point | null)[];
  /** px of the picture that are one at 1920 wide */
  readonly scale: number;
  /** px that a corner's slip may be mistaken by */
  readonly mistake: (corner: number) => number;
}

/** Share of a slip that is left beyond what may be a mistake. */
function shrunk({ mistake }: Slips, i: number, [dx, dy]: Point): number {
  return Math.max(0, 1 - (BELIEVED.common * mistake(i)) ** 2 / Math.max(1e-12, dx * dx + dy * dy));
}

/** Corners about their middle, in units of their spread. */
function aboutMiddle(corners: Quad): Point[] {
  const cx = corners.reduce((s, p) => s + p[0] / 4, 0);
  const cy = corners.reduce((s, p) => s + p[1] / 4, 0);
  const size = Math.sqrt(corners.reduce((s, [x, y]) => s + ((x - cx) ** 2 + (y - cy) ** 2) / 4, 0)) || 1;
  return corners.map(([x, y]): Point => [(x - cx) / size, (y - cy) / size]);
}

/** Where a shift, a growth and a turn put a corner beside where it is, px. */
function movedBy(motion: Float64Array, [u, v]: Point): Point {
  return [motion[0]! + u * motion[2]! - v * motion[3]!, motion[1]! + v * motion[2]! + u * motion[3]!];
}

/** Shift, growth and turn that weighted slips have in common, drawn towards none. @param weight per corner that was told */
function solvedMotion(s: Slips, at: readonly Point[], weight: ReadonlyMap<number, number>): Float64Array | null {
  const a = new Float64Array(16);
  const b = new Float64Array(4);
  for (const [p, usual] of [BELIEVED.shift, BELIEVED.shift, BELIEVED.turn, BELIEVED.turn].entries())
    a[p * 5] = 1 / (usual * s.scale) ** 2;
  for (const [i, share] of weight) {
    const w = share / s.mistake(i) ** 2;
    const [u, v] = at[i]!;
    const rows = [
      [1, 0, u, -v],
      [0, 1, v, u],
    ];
    for (const [axis, row] of rows.entries())
      for (let p = 0; p < 4; p++) {
        b[p]! += w * row[p]! * s.by[i]![axis]!;
        for (let q = 0; q < 4; q++) a[p * 4 + q]! += w * row[p]! * row[q]!;
      }
  }
  return solveLinear(a, b);
}

/** The motion that most of the slips agree on: Huber weights, a few rounds. */
function commonMotion(s: Slips, at: readonly Point[]): Float64Array {
  const weight = new Map<number, number>(s.by.flatMap((p, i) => (p ? [[i, 1] as const] : [])));
  let motion: Float64Array = new Float64Array(4);
  for (let round = 0; round < BELIEVED.rounds; round++) {
    motion = solvedMotion(s, at, weight) ?? motion;
    let strays = false;
    for (const i of weight.keys()) {
      const [x, y] = movedBy(motion, at[i]!);
      const off = Math.hypot(s.by[i]![0] - x, s.by[i]![1] - y) / (BELIEVED.common * s.mistake(i));
      weight.set(i, off <= 1 ? 1 : 1 / off);
      strays ||= off > 1;
    }
    if (!strays) break;
  }
  return motion;
}

/**
 * @param by slips as measured, px
 * @param corners where the track puts them, px
 * @param width of the picture, px
 * @param sigma of the slips, px
 */
export function believedSlip(
  by: readonly (Point | null)[],
  corners: Quad,
  width: number,
  sigma?: readonly number[],
): Believed {
  const scale = width / 1920;
  const mistake = (i: number): number => Math.max(BELIEVED.mistake * scale, BELIEVED.ofSigma * (sigma?.[i] ?? 0));
  const slips = { by, scale, mistake };
  const told = by.flatMap((p, i) => (p ? [i] : []));
  if (told.length === 0) return { told: by, all: null };
  // One corner alone may be mistaken by itself: the others go with it by what exceeds that.
  if (told.length === 1) {
    const [x, y] = by[told[0]!]!;
    const keep = shrunk(slips, told[0]!, [x, y]);
    const own: Point = [keep * x, keep * y];
    return { told: by.map((p) => p && own), all: [own, own, own, own] };
  }
  const at = aboutMiddle(corners);
  const motion = commonMotion(slips, at);
  const all = corners.map((_, i): Point => {
    const [x, y] = movedBy(motion, at[i]!);
    const p = by[i];
    if (!p) return [x, y];
    const beside: Point = [p[0] - x, p[1] - y];
    const keep = shrunk(slips, i, beside);
    return [x + keep * beside[0], y + keep * beside[1]];
  }) as unknown as Quad;
  return { told: by.map((p, i) => (p ? all[i]! : null)), all };
}
