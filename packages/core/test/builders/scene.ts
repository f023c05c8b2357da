/** Small synthetic scenes with exact truth: a textured plane moved by a homography over a textured background. */
import type { Matrix3 } from '../../src/geometry/matrix3';
import { inverse } from '../../src/geometry/matrix3';
import { mapPoint, quadToQuad } from '../../src/geometry/homography';
import type { Point } from '../../src/geometry/point';
import { insidePolygon } from '../../src/geometry/polygon';
import type { Quad } from '../../src/geometry/quad';
import type { RawLuma } from '../../src/image/image';

/** A seeded generator of numbers in [0, 1) (mulberry32). */
export function random(seed: number): () => number {
  let a = seed >>> 0;
  return () => {
    a = (a + 0x6d2b79f5) >>> 0;
    let t = Math.imul(a ^ (a >>> 15), 1 | a);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

/** Entries of a turn of the cosine; a power of two, so that a mask wraps it. */
const STEPS_OF_A_TURN = 1 << 14;
const PER_RADIAN = STEPS_OF_A_TURN / (2 * Math.PI);
const COSINES = Float64Array.from({ length: STEPS_OF_A_TURN + 1 }, (_, i) => Math.cos(i / PER_RADIAN));

/** Cosine from a table, to 2e-8: scenes take hundreds of millions of them, and `Math.cos` is slow beyond a few turns. */
function cosine(radians: number): number {
  const at = radians * PER_RADIAN;
  const below = Math.floor(at);
  const i = below & (STEPS_OF_A_TURN - 1);
  return COSINES[i]! + (at - below) * (COSINES[i + 1]! - COSINES[i]!);
}

/** Smooth, band-limited texture: a sum of seeded waves, defined everywhere, value about 128 plus or minus 60. */
export function waves(seed: number, shortest = 6, longest = 60, count = 12): (x: number, y: number) => number {
  const key = `${seed} ${shortest} ${longest} ${count}`;
  const known = textures.get(key) ?? makeWaves(seed, shortest, longest, count);
  textures.set(key, known);
  return known;
}

const textures = new Map<string, (x: number, y: number) => number>();

function makeWaves(seed: number, shortest: number, longest: number, count: number): (x: number, y: number) => number {
  const r = random(seed);
  const w = Array.from({ length: count }, () => {
    const length = shortest * (longest / shortest) ** r();
    const angle = 2 * Math.PI * r();
    return {
      fx: (2 * Math.PI * Math.cos(angle)) / length,
      fy: (2 * Math.PI * Math.sin(angle)) / length,
      p: 2 * Math.PI * r(),
    };
  });
  const [fx, fy, phase] = [w.map((k) => k.fx), w.map((k) => k.fy), w.map((k) => k.p)].map((v) => Float64Array.from(v));
  const share = 60 / Math.sqrt(count / 2);
  return (x, y) => {
    let s = 0;
    for (let k = 0; k < count; k++) s += cosine(fx![k]! * x + fy![k]! * y + phase![k]!);
    return 128 + share * s;
  };
}

export interface SceneOptions {
  readonly width: number;
  readonly height: number;
  readonly pin: Quad;
  /** reference to frame */
  readonly homography: (frame: number) => Matrix3;
  /** share of a frame between the first and the last row's reading; `homography` must then take fractions */
  readonly readout?: number;
  readonly texture?: (x: number, y: number) => number;
  readonly background?: (x: number, y: number) => number;
  readonly noise?: number;
  readonly gain?: (frame: number) => number;
  /** covers, in frame px */
  readonly covers?: (frame: number) => readonly (readonly Point[])[];
}

type Nine = [number, number, number, number, number, number, number, number, number];

function normal(r: () => number): number {
  return Math.sqrt(-2 * Math.log(1 - r())) * cosine(2 * Math.PI * r());
}

/** Numbers kept of each kind, so that a file of tests stays within some 100 MB: about those of eighty small frames. */
const KEPT = 12_000_000;
const kept = new Map<string, Float64Array>();
let keptNumbers = 0;

/** A field of numbers that many frames and scenes share, made once. */
function shared(key: string, length: number, make: (out: Float64Array) => void): Float64Array {
  const known = kept.get(key);
  if (known) return known;
  if (keptNumbers + length > KEPT) {
    kept.clear();
    keptNumbers = 0;
  }
  const made = new Float64Array(length);
  make(made);
  kept.set(key, made);
  keptNumbers += length;
  return made;
}

const names = new WeakMap<object, number>();
let named = 0;
/** A number that stands for a function. */
function nameOf(f: object): number {
  const name = names.get(f) ?? named++;
  names.set(f, name);
  return name;
}

/** The background at all pixels' middles; it stands still. */
function standing(background: (x: number, y: number) => number, width: number, height: number): Float64Array {
  return shared(`${nameOf(background)} ${width} ${height}`, width * height, (out) => {
    for (let i = 0; i < out.length; i++) out[i] = background((i % width) + 0.5, Math.floor(i / width) + 0.5);
  });
}

/** Noise of standard deviation 1 for a frame's pixels. */
function noiseOn(frame: number, pixels: number): Float64Array {
  return Number.isInteger(frame) ? ownNoise(`noise ${frame}`, frame, pixels) : noiseWithin(frame, pixels);
}

function ownNoise(name: string, seed: number, count: number): Float64Array {
  return shared(`${name} ${count}`, count, (out) => {
    const r = random(1000 + seed);
    for (let i = 0; i < out.length; i++) out[i] = normal(r);
  });
}

/** Numbers by which the noise of one moment may begin later than that of another. */
const NOISE_SHIFTS = 1 << 18;
/** Odd, so that moments whose numbers differ by less than all shifts begin elsewhere. */
const NOISE_STEP = 104_729;
/** Moments of a frame that have noise of their own. */
const MOMENTS = 64;

/** Noise of a moment within a frame, of which an open shutter sees many: a stretch of one long row of numbers. */
function noiseWithin(frame: number, pixels: number): Float64Array {
  const begin = (Math.round(frame * MOMENTS) * NOISE_STEP) & (NOISE_SHIFTS - 1);
  return ownNoise('noise of moments', 0, pixels + NOISE_SHIFTS).subarray(begin, begin + pixels);
}

/** Where a row of pixels' middles crosses an outline, from left to right. */
function crossings(outline: readonly Point[], y: number): number[] {
  const found: number[] = [];
  let before = outline.at(-1)!;
  for (const corner of outline) {
    if (corner[1] > y !== before[1] > y)
      found.push(((before[0] - corner[0]) * (y - corner[1])) / (before[1] - corner[1]) + corner[0]);
    before = corner;
  }
  return found.sort((a, b) => a - b);
}

/** What a pixel shows. */
const BEHIND = 0;
const SCREEN = 1;
const COVER = 2;

/** Marks the pixels of a row whose middles lie within an outline, by the even-odd rule. */
function markRow(row: Uint8Array, outline: readonly Point[], y: number, mark: number): void {
  const at = crossings(outline, y);
  for (let i = 0; i + 1 < at.length; i += 2) {
    const [from, to] = [at[i]!, at[i + 1]!].map((x) => Math.min(row.length, Math.max(0, Math.ceil(x - 0.5))));
    row.fill(mark, from, to);
  }
}

/** How the plane lies on a frame, or at the time of one of its rows. */
interface Lying {
  /** frame to reference */
  readonly back: Nine;
  /** the pin's outline, px; null where it reaches behind the camera and has no picture */
  readonly seen: readonly Point[] | null;
}

function lyingAt({ pin, homography }: SceneOptions, time: number): Lying {
  const to = homography(time);
  const isBefore = pin.every(([x, y]) => to[6]! * x + to[7]! * y + to[8]! > 0);
  return { back: inverse(to) as unknown as Nine, seen: isBefore ? pin.map((p) => mapPoint(to, p)) : null };
}

/** Marks the pixels of a row that show the pin. */
function markScreen(row: Uint8Array, pin: Quad, { back, seen }: Lying, y: number): void {
  if (seen) return markRow(row, seen, y, SCREEN);
  for (let x = 0; x < row.length; x++) if (insidePolygon(mapPoint(back, [x + 0.5, y]), pin)) row[x] = SCREEN;
}

function coded(value: number): number {
  if (value <= 0) return 0;
  return value >= 255 ? 255 : Math.floor(value + 0.5);
}

export function renderScene(o: SceneOptions, frame: number): RawLuma {
  const { width, height, pin } = o;
  const texture = o.texture ?? waves(1);
  const background = o.background ?? waves(2);
  const behind = standing(background, width, height);
  const noise = noiseOn(frame, width * height);
  const sigma = o.noise ?? 1;
  const gain = o.gain?.(frame) ?? 1;
  const covers = o.covers?.(frame) ?? [];
  const whole = lyingAt(o, frame);
  const data = new Uint8Array(width * height);
  const row = new Uint8Array(width);
  for (let y = 0; y < height; y++) {
    const lying = o.readout ? lyingAt(o, frame + o.readout * ((y + 0.5) / height - 0.5)) : whole;
    row.fill(BEHIND);
    markScreen(row, pin, lying, y + 0.5);
    for (const outline of covers) markRow(row, outline, y + 0.5, COVER);
    const [a, b, c, d, e, f, g, k, m] = lying.back;
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      let v = behind[i]!;
      if (row[x] === SCREEN) {
        // As `mapPoint` does it, without an array a pixel.
        const w = 1 / (g * (x + 0.5) + k * (y + 0.5) + m);
        v = texture((a * (x + 0.5) + b * (y + 0.5) + c) * w, (d * (x + 0.5) + e * (y + 0.5) + f) * w);
      } else if (row[x] === COVER) v = 30 + 0.1 * background((x + 0.5) * 2, y + 0.5);
      data[i] = coded(v * gain + sigma * noise[i]!);
    }
  }
  return { width, height, data };
}

/** Light of a grey value, both 0 to 255, by the curve of sRGB. Source: IEC 61966-2-1. */
export function srgbLight(grey: number): number {
  const v = grey / 255;
  return 255 * (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4);
}

/** Its inverse. */
export function srgbGrey(light: number): number {
  const v = Math.max(0, light / 255);
  return 255 * (v <= 0.0031308 ? 12.92 * v : 1.055 * v ** (1 / 2.4) - 0.055);
}

/** Light steps of which the grey is kept: twenty a level where levels lie closest. */
const LIGHT_STEPS = 1 << 16;
const GREYS = Uint8Array.from({ length: LIGHT_STEPS + 1 }, (_, i) => Math.round(srgbGrey((255 * i) / LIGHT_STEPS)));
const LIGHTS = Float64Array.from({ length: 256 }, (_, grey) => srgbLight(grey));

/** What a sensor sees of several pictures, each for as long: their mean in light. */
export function exposed(pictures: readonly RawLuma[]): RawLuma {
  const { width, height } = pictures[0]!;
  const sum = new Float64Array(width * height);
  for (const { data } of pictures) for (let i = 0; i < sum.length; i++) sum[i]! += LIGHTS[data[i]!]!;
  const scale = LIGHT_STEPS / (255 * pictures.length);
  const data = new Uint8Array(width * height);
  for (let i = 0; i < sum.length; i++) data[i] = GREYS[(sum[i]! * scale + 0.5) | 0]!;
  return { width, height, data };
}

/** A frame whose shutter is open for so much of its time, about its middle; `homography` must take fractions. */
export function renderOpen(o: SceneOptions, frame: number, shutter: number, samples = 8): RawLuma {
  return exposed(
    Array.from({ length: samples }, (_, i) => renderScene(o, frame + shutter * ((i + 0.5) / samples - 0.5))),
  );
}

/** Where a point of the plane is seen on a frame: at its row's own time. */
export function seenAt(o: SceneOptions, frame: number, p: Point): Point {
  let at = mapPoint(o.homography(frame), p);
  for (let i = 0; i < 20 && o.readout; i++)
    at = mapPoint(o.homography(frame + o.readout * (at[1] / o.height - 0.5)), p);
  return at;
}

/**
 * The homography of `pin` as a stiff plane in front of a camera, four half widths of the pin away: brought nearer,
 * turned in the picture, tilted about its upright axis and shifted (px at its distance). The picture's centre is the
 * pin's.
 */
export function moved(
  pin: Quad,
  m: { x?: number; y?: number; scale?: number; turn?: number; tilt?: number },
): number[] {
  const cx = (pin[0][0] + pin[2][0]) / 2;
  const cy = (pin[0][1] + pin[2][1]) / 2;
  const s = m.scale ?? 1;
  const a = m.turn ?? 0;
  const t = m.tilt ?? 0;
  const focal = 4 * Math.max(Math.abs(pin[2][0] - cx), Math.abs(pin[2][1] - cy));
  const to = pin.map(([x, y]): Point => {
    const px = (x - cx) * Math.cos(t);
    const py = y - cy;
    const depth = focal / (focal + (x - cx) * s * Math.sin(t));
    return [
      cx + (s * (px * Math.cos(a) - py * Math.sin(a)) + (m.x ?? 0)) * depth,
      cy + (s * (px * Math.sin(a) + py * Math.cos(a)) + (m.y ?? 0)) * depth,
    ];
  }) as unknown as Quad;
  return quadToQuad(pin, to);
}
