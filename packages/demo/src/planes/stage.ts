/**
 * A set built of flat things: drawn surfaces placed in a room, seen by a camera with shutter, rolling readout, lens and
 * grain. Every surface is projected exactly, so that the corners of a screen are known to the last digit.
 */
import { clamp } from '@yarlop/core/clamp';
import type { View } from '../camera';
import { hash } from '../noise';
import type { Vec } from '../vector';
import { add, cross, dot, normalise, scale } from '../vector';
import type { Texture } from './texture';

/** A picture in the room: its top-left corner, and the vectors along its whole width and height, mm. */
export interface Placement {
  readonly origin: Vec;
  readonly across: Vec;
  readonly down: Vec;
}

/** A rectangle of a placement, in shares of its width and height, with rounded corners (share of the width). */
export interface Window {
  readonly x0: number;
  readonly y0: number;
  readonly x1: number;
  readonly y1: number;
  readonly radius: number;
}

export interface Surface {
  readonly texture: (time: number) => Texture;
  readonly place: (time: number) => Placement;
  /** light added instead of covering: glare, lamps */
  readonly adds?: boolean;
  readonly level?: (time: number) => number;
  /** seen only as a mirror image in this surface's window */
  readonly mirror?: { readonly place: (time: number) => Placement; readonly window: Window };
}

export interface Set {
  readonly width: number;
  readonly height: number;
  readonly frames: number;
  /** focal length in picture widths */
  readonly focal: (time: number) => number;
  readonly view: (time: number) => View;
  /** back to front */
  readonly surfaces: readonly Surface[];
  /** share of a frame that the shutter is open */
  readonly shutter: number;
  /** share of a frame between the first and the last row's reading */
  readonly readout: number;
  /** radial term of the lens, on half the picture's width: negative is barrel */
  readonly lens: number;
  readonly exposure: (time: number) => number;
  readonly grain: number;
  /** diameter of the disc that a point becomes, px at 1920 wide; the whole picture goes out of focus alike */
  readonly defocus?: (time: number) => number;
  /** the moment that a frame of the clip shows, where frames repeat */
  readonly shownOn?: (frame: number) => number;
}

type Matrix = Float64Array;

function invert(m: Matrix): Matrix {
  const [a, b, c, d, e, f, g, h, i] = m as unknown as [
    number,
    number,
    number,
    number,
    number,
    number,
    number,
    number,
    number,
  ];
  const A = e * i - f * h;
  const B = c * h - b * i;
  const C = b * f - c * e;
  const det = 1 / (a * A + d * B + g * C);
  return Float64Array.of(
    A * det,
    B * det,
    C * det,
    (f * g - d * i) * det,
    (a * i - c * g) * det,
    (c * d - a * f) * det,
    (d * h - e * g) * det,
    (b * g - a * h) * det,
    (a * e - b * d) * det,
  );
}

/** Shares of a placement (u, v, 1) to picture px, as homogeneous columns. */
function projection(v: View, p: Placement, f: number, width: number, height: number): Matrix {
  const o = add(p.origin, v.eye, -1);
  const out = new Float64Array(9);
  [p.across, p.down, o].forEach((q, c) => {
    const z = dot(q, v.forward);
    out[c] = f * dot(q, v.right) + (width / 2) * z;
    out[3 + c] = f * dot(q, v.down) + (height / 2) * z;
    out[6 + c] = z;
  });
  return out;
}

function mirrored(v: View, p: Placement): View {
  const n = normalise(cross(p.across, p.down));
  const flip = (d: Vec): Vec => add(d, n, -2 * dot(d, n));
  const eye = add(v.eye, n, -2 * dot(add(v.eye, p.origin, -1), n));
  return { ...v, eye, right: flip(v.right), down: flip(v.down), forward: flip(v.forward) };
}

/** Ideal picture position of a real one and back; the radial term acts on the distance from the picture's centre. */
export function distort(x: number, y: number, set: Set): [number, number] {
  if (set.lens === 0) return [x, y];
  const half = set.width / 2;
  const dx = (x - half) / half;
  const dy = (y - set.height / 2) / half;
  const k = 1 + set.lens * (dx * dx + dy * dy);
  return [half + half * dx * k, set.height / 2 + half * dy * k];
}

export function undistort(x: number, y: number, set: Set): [number, number] {
  let [u, v] = [x, y];
  for (let i = 0; set.lens !== 0 && i < 30; i++) {
    const [a, b] = distort(u, v, set);
    u += x - a;
    v += y - b;
    if (Math.abs(x - a) + Math.abs(y - b) < 1e-9 * set.width) break;
  }
  return [u, v];
}

/** Where a point of a placement (shares) is seen in a frame, on the row's own time, at the shutter's centre. */
export function seenAt(
  set: Set,
  place: (time: number) => Placement,
  frame: number,
  u: number,
  v: number,
): [number, number] {
  let time = frame;
  let at: [number, number] = [0, 0];
  for (let i = 0; i < (set.readout > 0 ? 30 : 1); i++) {
    const m = projection(set.view(time), place(time), set.focal(time) * set.width, set.width, set.height);
    const w = m[6]! * u + m[7]! * v + m[8]!;
    at = distort((m[0]! * u + m[1]! * v + m[2]!) / w, (m[3]! * u + m[4]! * v + m[5]!) / w, set);
    time = frame + set.readout * (at[1] / set.height - 0.5);
  }
  return at;
}

interface Band {
  readonly matrix: Matrix;
  /** px columns and rows that can hold the surface */
  readonly box: readonly [x0: number, y0: number, x1: number, y1: number];
  readonly mask: Matrix | null;
}

function insideWindow(m: Matrix, w: Window, aspect: number, x: number, y: number): boolean {
  const z = 1 / (m[6]! * x + m[7]! * y + m[8]!);
  const u = (m[0]! * x + m[1]! * y + m[2]!) * z;
  const v = (m[3]! * x + m[4]! * y + m[5]!) * z;
  if (!(u >= w.x0 && u <= w.x1 && v >= w.y0 && v <= w.y1)) return false;
  const r = w.radius;
  const rx = Math.max(0, w.x0 + r - u, u - w.x1 + r);
  const ry = Math.max(0, w.y0 + r * aspect - v, v - w.y1 + r * aspect) / aspect;
  return rx * rx + ry * ry <= r * r;
}

function aspectOf(p: Placement): number {
  return Math.hypot(...p.across) / Math.hypot(...p.down);
}

/**
 * Px that a rectangle of a projection can reach, with a margin; the whole picture behind a lens or past the camera's
 * plane.
 */
function reachOf(m: Matrix, w: Window, set: Set): [number, number, number, number] {
  const all: [number, number, number, number] = [0, 0, set.width, set.height];
  const box: [number, number, number, number] = [Infinity, Infinity, -Infinity, -Infinity];
  const corners = [
    [w.x0, w.y0],
    [w.x1, w.y0],
    [w.x1, w.y1],
    [w.x0, w.y1],
  ] as const;
  const steps = set.lens === 0 ? 1 : 12;
  for (let i = 0; i < 4 * steps; i++) {
    // Straight sides bow behind a lens, so their whole length is looked at.
    const a = corners[Math.floor(i / steps)]!;
    const b = corners[(Math.floor(i / steps) + 1) % 4]!;
    const t = (i % steps) / steps;
    const u = a[0] + t * (b[0] - a[0]);
    const v = a[1] + t * (b[1] - a[1]);
    const z = m[6]! * u + m[7]! * v + m[8]!;
    if (z <= 1e-6) return all;
    const ideal = [(m[0]! * u + m[1]! * v + m[2]!) / z, (m[3]! * u + m[4]! * v + m[5]!) / z] as const;
    if (set.lens !== 0 && Math.hypot(ideal[0] - set.width / 2, ideal[1] - set.height / 2) > 1.4 * (set.width / 2))
      return all;
    const [x, y] = distort(...ideal, set);
    box[0] = Math.min(box[0], x - 2);
    box[1] = Math.min(box[1], y - 2);
    box[2] = Math.max(box[2], x + 2);
    box[3] = Math.max(box[3], y + 2);
  }
  return [Math.max(0, Math.floor(box[0])), box[1], Math.min(set.width, Math.ceil(box[2])), box[3]];
}

const WHOLE: Window = { x0: 0, y0: 0, x1: 1, y1: 1, radius: 0 };

/** Adds one row of one surface to `row` (RGB per px of the row). */
function drawRow(
  row: Float32Array,
  rays: Float32Array,
  y: number,
  width: number,
  t: Texture,
  band: Band,
  s: Surface,
  window: Window | null,
  aspect: number,
  level: number,
): void {
  const m = band.matrix;
  const top = t.levels[0]!;
  let pick = top;
  let pw = top.across;
  let ph = top.down;
  let fresh = true;
  if (y < band.box[1] || y > band.box[3]) return;
  for (let x = band.box[0], end = band.box[2]; x < end; x++) {
    const px = rays[2 * (y * width + x)]!;
    const py = rays[2 * (y * width + x) + 1]!;
    const z = m[6]! * px + m[7]! * py + m[8]!;
    if (z <= 0) continue;
    const iz = 1 / z;
    const u = (m[0]! * px + m[1]! * py + m[2]!) * iz;
    const v = (m[3]! * px + m[4]! * py + m[5]!) * iz;
    if (!(u > 0 && u < 1 && v > 0 && v < 1)) continue;
    if ((x & 7) === 0 || fresh) {
      fresh = false;
      const a = (m[0]! - u * m[6]!) * iz * top.width;
      const b = (m[1]! - u * m[7]!) * iz * top.width;
      const c = (m[3]! - v * m[6]!) * iz * top.height;
      const d = (m[4]! - v * m[7]!) * iz * top.height;
      const l = clamp(Math.round(0.5 * Math.log2(Math.abs(a * d - b * c) + 1e-9) - 0.2), 0, t.levels.length - 1);
      pick = t.levels[l]!;
      pw = pick.across;
      ph = pick.down;
    }
    if (window && band.mask && !insideWindow(band.mask, window, aspect, px, py)) continue;
    const tx = clamp(u * pw - 0.5, 0, pick.width - 1.001);
    const ty = clamp(v * ph - 0.5, 0, pick.height - 1.001);
    const ix = tx | 0;
    const iy = ty | 0;
    const fx = tx - ix;
    const fy = ty - iy;
    const k = (iy * pick.width + ix) * 4;
    const e = k + (pick.height > 1 ? pick.width * 4 : 0);
    const data = pick.data;
    const w00 = (1 - fx) * (1 - fy);
    const w10 = fx * (1 - fy);
    const w01 = (1 - fx) * fy;
    const w11 = fx * fy;
    const alpha = w00 * data[k + 3]! + w10 * data[k + 7]! + w01 * data[e + 3]! + w11 * data[e + 7]!;
    const keep = s.adds ? 1 : 1 - alpha;
    const o = 3 * x;
    row[o] = row[o]! * keep + level * (w00 * data[k]! + w10 * data[k + 4]! + w01 * data[e]! + w11 * data[e + 4]!);
    row[o + 1] =
      row[o + 1]! * keep + level * (w00 * data[k + 1]! + w10 * data[k + 5]! + w01 * data[e + 1]! + w11 * data[e + 5]!);
    row[o + 2] =
      row[o + 2]! * keep + level * (w00 * data[k + 2]! + w10 * data[k + 6]! + w01 * data[e + 2]! + w11 * data[e + 6]!);
  }
}

/** Ideal positions of pixel centres behind the last lens used, since a shot has one. */
let centres: { lens: number; width: number; field: Float32Array } | null = null;

/**
 * Ideal position of every pixel's sample; `jx`, `jy` in shares of a pixel (an ideal one, which spreads samples as
 * well).
 */
function rayField(set: Set, jx: number, jy: number, out: Float32Array): void {
  const { width, height, lens } = set;
  if (lens !== 0 && (centres?.lens !== lens || centres.width !== width)) {
    const field = new Float32Array(width * height * 2);
    for (let y = 0, o = 0; y < height; y++)
      for (let x = 0; x < width; x++, o += 2) [field[o], field[o + 1]] = undistort(x + 0.5, y + 0.5, set);
    centres = { lens, width, field };
  }
  for (let y = 0, o = 0; y < height; y++)
    for (let x = 0; x < width; x++, o += 2) {
      out[o] = (lens === 0 ? x + 0.5 : centres!.field[o]!) + jx - 0.5;
      out[o + 1] = (lens === 0 ? y + 0.5 : centres!.field[o + 1]!) + jy - 0.5;
    }
}

const GAUSS = Float32Array.from(
  { length: 1 << 18 },
  (_, i) => Math.sqrt(-2 * Math.log(1 - hash(i, 1, 77))) * Math.cos(2 * Math.PI * hash(i, 2, 78)),
);

/** Filmic shoulder, then the sRGB curve, as a table over 0 to 2. */
const CURVE = Float32Array.from({ length: 8193 }, (_, i) => {
  const x = (i / 8192) * 2;
  const s = x < 0.8 ? x : 0.8 + 0.2 * (1 - Math.exp(-(x - 0.8) / 0.2));
  return 255 * (s <= 0.0031308 ? 12.92 * s : 1.055 * s ** (1 / 2.4) - 0.055);
});

/** How far the picture moves while the shutter is open, px, by the fastest surface that is followed. */
export function pathLength(set: Set, frame: number, watched: (time: number) => Placement): number {
  const at = (t: number): [number, number][] =>
    [
      [0, 0],
      [1, 0],
      [1, 1],
      [0, 1],
    ].map(([u, v]) => {
      const m = projection(set.view(t), watched(t), set.focal(t) * set.width, set.width, set.height);
      const w = m[6]! * u! + m[7]! * v! + m[8]!;
      return [(m[0]! * u! + m[1]! * v! + m[2]!) / w, (m[3]! * u! + m[4]! * v! + m[5]!) / w];
    });
  const a = at(frame - set.shutter / 2);
  const b = at(frame + set.shutter / 2);
  return Math.max(...a.map((p, i) => Math.hypot(p[0] - b[i]![0], p[1] - b[i]![1])));
}

/**
 * Places of samples within a pixel along one axis; their mean is its middle, or the picture would shift with their
 * number.
 */
function jitter(samples: number, ratio: number): number[] {
  const raw = Array.from({ length: samples }, (_, s) => (s * ratio) % 1);
  const mean = raw.reduce((s, v) => s + v / samples, 0);
  return raw.map((v) => v - mean + 0.5);
}

/** @returns RGB, 8 bit, `width*height*3` */
export function renderFrame(set: Set, frame: number, watched: (time: number) => Placement, least = 6): Uint8Array {
  const { width, height } = set;
  const sum = new Float32Array(width * height * 3);
  const rays = new Float32Array(width * height * 2);
  const row = new Float32Array(width * 3);
  const samples = Math.min(48, Math.max(least, Math.ceil(pathLength(set, frame, watched) / 2.2)));
  const across = jitter(samples, 0.7548776662);
  const down = jitter(samples, 0.5698402909);
  for (let s = 0; s < samples; s++) {
    const sub = (s + 0.5) / samples;
    rayField(set, across[s]!, down[s]!, rays);
    const layers = set.surfaces.map((surface) => ({
      surface,
      last: NaN,
      band: null as Band | null,
      texture: surface.texture(frame),
      level: 1,
      aspect: 1,
    }));
    for (let y = 0; y < height; y++) {
      row.fill(0);
      const time = frame + set.shutter * (sub - 0.5) + set.readout * ((y + 0.5) / height - 0.5);
      for (const l of layers) {
        if (time !== l.last) {
          const view = set.view(time);
          const f = set.focal(time) * width;
          const m = l.surface.mirror;
          const at = m?.place(time);
          const seen = m && at ? mirrored(view, at) : view;
          const onto = m && at ? projection(view, at, f, width, height) : null;
          const direct = projection(seen, l.surface.place(time), f, width, height);
          l.band = {
            matrix: invert(direct),
            mask: onto && invert(onto),
            box: onto && m ? reachOf(onto, m.window, set) : reachOf(direct, WHOLE, set),
          };
          l.level = (l.surface.level?.(time) ?? 1) * set.exposure(time);
          l.aspect = at ? aspectOf(at) : 1;
          // A matrix of positive depth in front: the sign of the inverse's third row follows from a visible point.
          const c = direct;
          const w = c[6]! * 0.5 + c[7]! * 0.5 + c[8]!;
          const b = l.band.matrix;
          const zx = (c[0]! * 0.5 + c[1]! * 0.5 + c[2]!) / w;
          const zy = (c[3]! * 0.5 + c[4]! * 0.5 + c[5]!) / w;
          if (b[6]! * zx + b[7]! * zy + b[8]! < 0 !== w < 0) for (let k = 0; k < 9; k++) b[k] = -b[k]!;
          l.last = time;
        }
        drawRow(
          row,
          rays,
          y,
          width,
          l.texture,
          l.band!,
          l.surface,
          l.surface.mirror?.window ?? null,
          l.aspect,
          l.level,
        );
      }
      const o = y * width * 3;
      for (let x = 0; x < row.length; x++) sum[o + x]! += Math.min(row[x]!, 3) / samples;
    }
  }
  const disc = ((set.defocus?.(frame) ?? 0) * width) / 1920;
  return develop(set, frame, disc > 0.5 ? defocused(sum, width, height, disc) : sum);
}

/** Every point as an even disc, its rim by the share of each px that it covers. @param diameter px */
function defocused(light: Float32Array, width: number, height: number, diameter: number): Float32Array {
  const radius = diameter / 2;
  const reach = Math.ceil(radius);
  const taps: { dx: number; dy: number; weight: number }[] = [];
  for (let dy = -reach; dy <= reach; dy++)
    for (let dx = -reach; dx <= reach; dx++) {
      const weight = clamp(radius + 0.5 - Math.hypot(dx, dy), 0, 1);
      if (weight > 0) taps.push({ dx, dy, weight });
    }
  const whole = taps.reduce((s, t) => s + t.weight, 0);
  const out = new Float32Array(light.length);
  for (const { dx, dy, weight } of taps)
    for (let y = 0; y < height; y++) {
      const row = clamp(y + dy, 0, height - 1) * width;
      for (let x = 0; x < width; x++) {
        const from = (row + clamp(x + dx, 0, width - 1)) * 3;
        const to = (y * width + x) * 3;
        out[to]! += (light[from]! * weight) / whole;
        out[to + 1]! += (light[from + 1]! * weight) / whole;
        out[to + 2]! += (light[from + 2]! * weight) / whole;
      }
    }
  return out;
}

/** Vignette, photon and reading noise, curve. */
function develop(set: Set, frame: number, sum: Float32Array): Uint8Array {
  const { width, height } = set;
  const out = new Uint8Array(sum.length);
  const soft = 1920 / width;
  for (let y = 0; y < height; y++) {
    let g = Math.floor(hash(frame, y, 5) * GAUSS.length);
    for (let x = 0; x < width; x++) {
      const vignette = 1 - 0.35 * ((x / width - 0.5) ** 2 + (y / height - 0.5) ** 2);
      for (let k = 0; k < 3; k++) {
        const o = (y * width + x) * 3 + k;
        const lin = sum[o]! * vignette;
        const noisy = lin + set.grain * Math.sqrt(0.00016 * lin + 0.0000006) * GAUSS[g]! * Math.min(1, Math.sqrt(soft));
        g = (g + 1) & (GAUSS.length - 1);
        const at = clamp(noisy, 0, 1.999) * 4096;
        const i = at | 0;
        out[o] = Math.round(CURVE[i]! + (at - i) * (CURVE[i + 1]! - CURVE[i]!));
      }
    }
  }
  return out;
}

/** A placement from its centre, size and orientation. */
export function placed(centre: Vec, across: Vec, down: Vec, width: number, height: number): Placement {
  const a = scale(normalise(across), width);
  const d = scale(normalise(down), height);
  return { origin: add(add(centre, a, -0.5), d, -0.5), across: a, down: d };
}

/** Points a side of the grid on which it is asked how much of a surface is visible. */
const GRID = 14;

/**
 * Share of a surface's window that lies inside the picture and behind nothing.
 * @param self index of the surface among the set's, back to front
 */
export function visibleShare(
  set: Set,
  self: number,
  place: (time: number) => Placement,
  window: readonly [number, number, number, number],
  frame: number,
): number {
  const [l, t, r, b] = window;
  const view = set.view(frame);
  const f = set.focal(frame) * set.width;
  const fronts = set.surfaces
    .slice(self + 1)
    .filter((s) => !s.adds)
    .map((s) => ({
      inverse: invert(projection(view, s.place(frame), f, set.width, set.height)),
      texture: s.texture(frame).levels[0]!,
    }));
  let seen = 0;
  for (let i = 0; i < GRID * GRID; i++) {
    const [x, y] = seenAt(
      set,
      place,
      frame,
      l + ((r - l) * ((i % GRID) + 0.5)) / GRID,
      t + ((b - t) * (Math.floor(i / GRID) + 0.5)) / GRID,
    );
    if (x < 0 || y < 0 || x >= set.width || y >= set.height) continue;
    const [px, py] = undistort(x, y, set);
    const covered = fronts.some(({ inverse: m, texture }) => {
      const z = m[6]! * px + m[7]! * py + m[8]!;
      const u = (m[0]! * px + m[1]! * py + m[2]!) / z;
      const v = (m[3]! * px + m[4]! * py + m[5]!) / z;
      if (!(u > 0 && u < 1 && v > 0 && v < 1)) return false;
      return (
        texture.data[(Math.floor(v * texture.height) * texture.width + Math.floor(u * texture.width)) * 4 + 3]! > 0.5
      );
    });
    if (!covered) seen++;
  }
  return seen / (GRID * GRID);
}
