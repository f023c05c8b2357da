/**
 * How round the lit glass is at its corners, from the plate: along the diagonal of each corner a sharp one begins at
 * the pin, one of radius r only at r (sqrt 2 - 1) from it.
 */
import { unitSquareToQuad } from '../../geometry/homography';
import type { Quad } from '../../geometry/quad';
import { distance } from '../../geometry/point';

type Colour = readonly [number, number, number];

const RADIUS = {
  /** Slot heights along the diagonal that lie outside the glass. By trial. */
  outside: [-0.035, -0.02] as const,
  /** Slot heights along the diagonal that lie well inside it; between the two the edge is looked for. By trial. */
  inside: [0.16, 0.22] as const,
  /** px between the samples along the diagonal. By trial. */
  stepPx: 0.5,
  /** Difference of glass and bezel, shares of the range, from which an edge counts. By trial. */
  leastContrast: 0.07,
} as const;
const far = (a: Colour, b: Colour): number => Math.max(...a.map((v, c) => Math.abs(v - b[c]!)));

/**
 * @param colourAt code values 0 to 1 at a place of the picture, px; null outside it
 * @param aspect of the slot
 * @returns radius per corner that told, in heights of the slot
 */
export function cornerRadii(
  corners: Quad,
  aspect: number,
  colourAt: (x: number, y: number) => Colour | null,
): number[] {
  const h = unitSquareToQuad(corners);
  const tall = (distance(corners[0], corners[3]) + distance(corners[1], corners[2])) / 2;
  const out: number[] = [];
  const shorter = Math.min(1, aspect);
  for (const [right, low] of [
    [0, 0],
    [1, 0],
    [1, 1],
    [0, 1],
  ] as const) {
    const at = (d: number): Colour | null => {
      const a = (d * shorter) / Math.SQRT2;
      const s = right ? 1 - a / aspect : a / aspect;
      const t = low ? 1 - a : a;
      const w = h[6]! * s + h[7]! * t + h[8]!;
      return colourAt((h[0]! * s + h[1]! * t + h[2]!) / w, (h[3]! * s + h[4]! * t + h[5]!) / w);
    };
    const mean = ([a, b]: readonly [number, number]): Colour | null => {
      const all = Array.from({ length: 7 }, (_, i) => at(a + ((b - a) * i) / 6));
      return all.some((c) => c === null)
        ? null
        : ([0, 1, 2].map((k) => all.reduce((s, c) => s + c![k]! / 7, 0)) as unknown as Colour);
    };
    const glass = mean(RADIUS.inside);
    const bezel = mean(RADIUS.outside);
    if (!glass || !bezel || far(glass, bezel) < RADIUS.leastContrast) continue;
    const step = RADIUS.stepPx / (tall * shorter);
    const channel = [0, 1, 2].reduce(
      (best, c) => (Math.abs(glass[c]! - bezel[c]!) > Math.abs(glass[best]! - bezel[best]!) ? c : best),
      0,
    );
    // From inside out to where the glass is half gone.
    for (let d: number = RADIUS.inside[0]; d > RADIUS.outside[1]; d -= step) {
      const c = at(d);
      const share = c === null ? 1 : (c[channel]! - bezel[channel]!) / (glass[channel]! - bezel[channel]!);
      if (share >= 0.5) continue;
      out.push(Math.max(0, (d * shorter) / (Math.SQRT2 - 1)));
      break;
    }
  }
  return out;
}
