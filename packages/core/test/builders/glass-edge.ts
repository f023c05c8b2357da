/**
 * A glass in a bezel, filmed softly and while it moves, with what its plate would show with another picture on the
 * glass: built at four times the size, mixed in light.
 */
import { insidePolygon } from '../../src/geometry/polygon';
import type { Point } from '../../src/geometry/point';
import type { Quad } from '../../src/geometry/quad';
import type { Raster } from '../../src/image/image';
import { gaussianBlur } from '../../src/dress/shape/softness';
import { CURVES } from '../../src/dress/colour/transfer';
import { random } from './scene';

export type OldScreen = 'dark' | 'lit' | 'keyed';

export interface GlassEdge {
  /** code value of the bezel, 0 to 255 */
  readonly bezel: number;
  readonly old: OldScreen;
  /** sigma of the plate's blur, px */
  readonly sigma: number;
  /** px that the device moves to the right while the shutter is open */
  readonly moves?: number;
  /** levels of noise */
  readonly noise?: number;
  /** px of the bezel, beyond which a wall of another brightness stands */
  readonly wide?: number;
  /** places inside the glass by which its corners are rounded, px */
  readonly round?: number;
}

export const WIDE = 150;
export const HIGH = 110;
export const GLASS: Quad = [
  [40.3, 28.6],
  [111.7, 32.2],
  [108.9, 80.4],
  [37.2, 77.1],
];
/** Light of the picture on the glass, which is even so that nothing but edges is compared. */
export const FILL_LIGHT = [0.45, 0.3, 0.16] as const;
/** Light of a dark glass, and of what lies on it. */
export const DARK = 0.006;
/** The wall beyond the bezel. */
const WALL = 0.2;
const TIMES = 4;

const decode = (code: number): number => CURVES.srgb.decode(code / 255);

/** Lamp's glow on the glass. */
export const glow = (x: number, y: number): number => 0.05 * Math.exp(-((x - 60) ** 2 + (y - 40) ** 2) / 400);

function oldLight(old: OldScreen, x: number, y: number, c: number): number {
  if (old === 'dark') return DARK + glow(x, y);
  if (old === 'keyed') return [decode(40), decode(180), decode(70)][c]!;
  return 0.5 + 0.25 * Math.sin(x / 9) * Math.cos(y / 7);
}

function grown(q: Quad, by: number): Quad {
  const middle: Point = [q.reduce((s, p) => s + p[0] / 4, 0), q.reduce((s, p) => s + p[1] / 4, 0)];
  return q.map((p) => [
    p[0] + by * Math.sign(p[0] - middle[0]),
    p[1] + by * Math.sign(p[1] - middle[1]),
  ]) as unknown as Quad;
}

/** Even smear along rows, in place, by running sums. @param length px, an even number */
function smearRows(light: Float32Array, w: number, h: number, length: number): void {
  const row = new Float32Array(3 * w);
  for (let y = 0; y < h; y++) {
    row.set(light.subarray(3 * w * y, 3 * w * (y + 1)));
    const at = (x: number, c: number): number => row[3 * Math.min(w - 1, Math.max(0, x)) + c]!;
    for (let c = 0; c < 3; c++) {
      let sum = 0;
      // The two ends count half, so that it lies even about its middle.
      for (let k = -length / 2; k < length / 2; k++) sum += (at(k, c) + at(k + 1, c)) / 2;
      for (let x = 0; x < w; x++) {
        light[3 * (w * y + x) + c] = sum / length;
        sum +=
          (at(x + length / 2 + 1, c) + at(x + length / 2, c) - at(x - length / 2, c) - at(x - length / 2 + 1, c)) / 2;
      }
    }
  }
}

/** Light of a plate whose glass shows `on`, as code values. */
function filmed(t: GlassEdge, on: (x: number, y: number, c: number) => number, noise: () => number): Raster {
  const w = WIDE * TIMES;
  const h = HIGH * TIMES;
  const light = new Float32Array(w * h * 3);
  const rim = grown(GLASS, t.wide ?? 40);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const p: Point = [(x + 0.5) / TIMES, (y + 0.5) / TIMES];
      const isGlass = insidePolygon(p, GLASS);
      const beside = insidePolygon(p, rim) ? decode(t.bezel) : WALL;
      for (let c = 0; c < 3; c++) light[(y * w + x) * 3 + c] = isGlass ? on(p[0], p[1], c) : beside;
    }
  if (t.moves) smearRows(light, w, h, t.moves * TIMES);
  gaussianBlur(light, w, h, 3, t.sigma * TIMES);
  const data = Uint8Array.from({ length: WIDE * HIGH * 3 }, (_, k) => {
    const c = k % 3;
    const x = Math.floor(k / 3) % WIDE;
    const y = Math.floor(k / 3 / WIDE);
    let sum = 0;
    for (let j = 0; j < TIMES; j++)
      for (let i = 0; i < TIMES; i++) sum += light[((y * TIMES + j) * w + x * TIMES + i) * 3 + c]!;
    return Math.min(255, Math.max(0, Math.round(255 * CURVES.srgb.encode(sum / TIMES ** 2) + noise())));
  });
  return { width: WIDE, height: HIGH, channels: 3, data };
}

/** The plate, and the plate with the fill's light on the glass; both have noise of their own. */
export function glassEdge(t: GlassEdge): { readonly plate: Raster; readonly truth: Raster } {
  const r = random(11);
  const normal = (): number => Math.sqrt(-2 * Math.log(1 - r())) * Math.cos(2 * Math.PI * r());
  const noise = (): number => (t.noise ? t.noise * normal() : 0);
  const kept = t.old === 'dark' ? glow : () => 0;
  return {
    plate: filmed(t, (x, y, c) => oldLight(t.old, x, y, c), noise),
    truth: filmed(
      t,
      (x, y, c) => FILL_LIGHT[c]! + kept(x, y),
      () => 0,
    ),
  };
}

/** Distance from the nearest side, px. */
export function fromSides(x: number, y: number): number {
  return Math.min(
    ...GLASS.map((a, i) => {
      const b = GLASS[(i + 1) % 4]!;
      const l = Math.hypot(b[0] - a[0], b[1] - a[1]);
      const t = Math.min(1, Math.max(0, ((x - a[0]) * (b[0] - a[0]) + (y - a[1]) * (b[1] - a[1])) / (l * l)));
      return Math.hypot(x - a[0] - t * (b[0] - a[0]), y - a[1] - t * (b[1] - a[1]));
    }),
  );
}
