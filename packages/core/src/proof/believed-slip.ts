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
  const k = width / 1920;
  const mistake = (i: number): number => Math.max(BELIEVED.mistake * k, BELIEVED.ofSigma * (sigma?.[i] ?? 0));
  const shrunk = (i: number, dx: number, dy: number): number =>
    Math.max(0, 1 - (BELIEVED.common * mistake(i)) ** 2 / Math.max(1e-12, dx * dx + dy * dy));
  const told = by.flatMap((p, i) => (p ? [i] : []));
  if (told.length === 0) return { told: by, all: null };
  // One corner alone may be mistaken by itself: the others go with it by what exceeds that.
  if (told.length === 1) {
    const i = told[0]!;
    const [x, y] = by[i]!;
    const keep = shrunk(i, x, y);
    const own: Point = [keep * x, keep * y];
    return { told: by.map((p) => p && own), all: [own, own, own, own] };
  }
  const cx = corners.reduce((s, p) => s + p[0] / 4, 0);
  const cy = corners.reduce((s, p) => s + p[1] / 4, 0);
  const size = Math.sqrt(corners.reduce((s, [x, y]) => s + ((x - cx) ** 2 + (y - cy) ** 2) / 4, 0)) || 1;
  const at = corners.map(([x, y]): Point => [(x - cx) / size, (y - cy) / size]);
  const weight = new Map(told.map((i) => [i, 1]));
  let motion = new Float64Array(4);
  const common = (i: number): Point => [
    motion[0]! + at[i]![0] * motion[2]! - at[i]![1] * motion[3]!,
    motion[1]! + at[i]![1] * motion[2]! + at[i]![0] * motion[3]!,
  ];
  for (let round = 0; round < BELIEVED.rounds; round++) {
    const a = new Float64Array(16);
    const b = new Float64Array(4);
    for (const [p, s] of [BELIEVED.shift, BELIEVED.shift, BELIEVED.turn, BELIEVED.turn].entries())
      a[p * 5] = 1 / (s * k) ** 2;
    for (const i of told) {
      const w = weight.get(i)! / mistake(i) ** 2;
      const [u, v] = at[i]!;
      const rows = [
        [1, 0, u, -v],
        [0, 1, v, u],
      ];
      for (const [axis, row] of rows.entries())
        for (let p = 0; p < 4; p++) {
          b[p]! += w * row[p]! * by[i]![axis]!;
          for (let q = 0; q < 4; q++) a[p * 4 + q]! += w * row[p]! * row[q]!;
        }
    }
    motion = (solveLinear(a, b) ?? motion) as Float64Array<ArrayBuffer>;
    let strays = false;
    for (const i of told) {
      const [x, y] = common(i);
      const off = Math.hypot(by[i]![0] - x, by[i]![1] - y) / (BELIEVED.common * mistake(i));
      weight.set(i, off <= 1 ? 1 : 1 / off);
      strays ||= off > 1;
    }
    if (!strays) break;
  }
  const all = corners.map((_, i): Point => {
    const [x, y] = common(i);
    const p = by[i];
    if (!p) return [x, y];
    const dx = p[0] - x;
    const dy = p[1] - y;
    const keep = shrunk(i, dx, dy);
    return [x + keep * dx, y + keep * dy];
  }) as unknown as Quad;
  return { told: by.map((p, i) => (p ? all[i]! : null)), all };
}
