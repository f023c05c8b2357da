/**
 * The set of the first demo shot: the harbour phone on the chart table at dusk. A nautical chart on oiled boards, a
 * mug, a pencil, a brass paperweight; window light from the left with its reflection sliding over the phone's glass, a
 * warm lamp from behind; the phone's screen is a green card with five crosses. Units are millimetres, z up.
 */
import type { Picture } from './picture';
import { sample } from './picture';
import { fractal, hash, valueNoise } from './noise';
import type { Vec } from './vector';
import { add, dot, mix, mul, normalise, scale } from './vector';

export interface Textures {
  readonly chart: Picture;
  /** light that falls on the table, over {@link BAKED} */
  readonly tableLight: Picture;
}

/** The part of the table, mm to each side of the middle, whose light is worked out once beforehand. */
const BAKED = 480;

const PHONE = { x: 6, y: -8, turn: 0.34, halfWidth: 36.5, halfLength: 76, top: 8.4, radius: 10, round: 1.6 };
export const SCREEN = { halfWidth: 33, halfLength: 71.5, radius: 5 };
const MUG = { x: -118, y: 92, radius: 40, height: 92 };
const WEIGHT = { x: 112, y: -40, radius: 21, height: 17 };
const PENCIL = { a: [66, 96, 4] as Vec, b: [176, 34, 4] as Vec, radius: 4 };
const WINDOW = { x: -640, y0: -420, y1: 240, z0: 260, z1: 900 };
/** mm from the middle of the table; where the lamp hangs. */
const LAMP: Vec = [420, 520, 640];

interface Hit {
  t: number;
  normal: Vec;
  kind: 'table' | 'phone' | 'mug' | 'weight' | 'pencil' | 'coffee';
}

function toPhone(x: number, y: number): [number, number] {
  const c = Math.cos(PHONE.turn);
  const s = Math.sin(PHONE.turn);
  const dx = x - PHONE.x;
  const dy = y - PHONE.y;
  return [dx * c + dy * s, -dx * s + dy * c];
}

function fromPhone(u: number, v: number, z: number): Vec {
  const c = Math.cos(PHONE.turn);
  const s = Math.sin(PHONE.turn);
  return [PHONE.x + u * c - v * s, PHONE.y + u * s + v * c, z];
}

/** The screen's corners TL, TR, BR, BL in the room (content's top towards +v). */
export function screenCorners(): Vec[] {
  const { halfWidth: w, halfLength: l } = SCREEN;
  return [
    fromPhone(-w, l, PHONE.top),
    fromPhone(w, l, PHONE.top),
    fromPhone(w, -l, PHONE.top),
    fromPhone(-w, -l, PHONE.top),
  ];
}

/** Distance to a rectangle with round corners, negative inside. */
function roundRectangle(u: number, v: number, halfU: number, halfV: number, radius: number): number {
  const qx = Math.abs(u) - halfU + radius;
  const qy = Math.abs(v) - halfV + radius;
  return Math.hypot(Math.max(qx, 0), Math.max(qy, 0)) + Math.min(Math.max(qx, qy), 0) - radius;
}

function phoneDistance(p: Vec): number {
  const [u, v] = toPhone(p[0], p[1]);
  const r = PHONE.round;
  const flat = roundRectangle(u, v, PHONE.halfWidth, PHONE.halfLength, PHONE.radius) + r;
  const high = Math.abs(p[2] - PHONE.top / 2) - PHONE.top / 2 + r;
  return Math.min(Math.max(flat, high), 0) + Math.hypot(Math.max(flat, 0), Math.max(high, 0)) - r;
}

/** Sphere tracing (J. Hart 1996) of the phone's body, inside the slab that it fills. */
function hitPhone(o: Vec, d: Vec): Hit | null {
  let t0 = 0;
  let t1 = Infinity;
  if (Math.abs(d[2]) > 1e-9) {
    const a = (PHONE.top - o[2]) / d[2];
    const b = (0 - o[2]) / d[2];
    t0 = Math.max(0, Math.min(a, b));
    t1 = Math.max(a, b);
  } else if (o[2] < 0 || o[2] > PHONE.top) return null;
  const cx = o[0] + d[0] * t0 - PHONE.x;
  const cy = o[1] + d[1] * t0 - PHONE.y;
  if (cx * cx + cy * cy > 110 * 110) return null;
  const top: Vec = [o[0] + d[0] * t0, o[1] + d[1] * t0, PHONE.top];
  const [u, v] = toPhone(top[0], top[1]);
  if (o[2] > PHONE.top && roundRectangle(u, v, PHONE.halfWidth, PHONE.halfLength, PHONE.radius) < -PHONE.round)
    return { t: t0, normal: [0, 0, 1], kind: 'phone' };
  let t = t0;
  for (let i = 0; i < 40 && t < t1 + 1; i++) {
    const p = add(o, d, t);
    const r = phoneDistance(p);
    if (r < 0.02) {
      const e = 0.05;
      const g: Vec = [
        phoneDistance(add(p, [e, 0, 0])) - r,
        phoneDistance(add(p, [0, e, 0])) - r,
        phoneDistance(add(p, [0, 0, e])) - r,
      ];
      return { t, normal: normalise(g), kind: 'phone' };
    }
    t += r;
  }
  return null;
}

function hitCylinder(
  o: Vec,
  d: Vec,
  c: { x: number; y: number; radius: number; height: number },
  kind: Hit['kind'],
  open: boolean,
): Hit | null {
  const ox = o[0] - c.x;
  const oy = o[1] - c.y;
  const a = d[0] * d[0] + d[1] * d[1];
  const b = ox * d[0] + oy * d[1];
  const q = ox * ox + oy * oy - c.radius * c.radius;
  const disc = b * b - a * q;
  if (disc < 0) return null;
  const root = Math.sqrt(disc);
  for (const side of [-1, 1]) {
    const t = (-b + side * root) / a;
    const z = o[2] + t * d[2];
    if (t > 1e-3 && z > 0 && z < c.height && (side < 0 || open)) {
      const n: Vec = [(-side * (ox + t * d[0])) / c.radius, (-side * (oy + t * d[1])) / c.radius, 0];
      return { t, normal: n, kind };
    }
    const level = open ? c.height - 14 : c.height;
    const tc = (level - o[2]) / d[2];
    const x = ox + tc * d[0];
    const y = oy + tc * d[1];
    if (tc > 1e-3 && x * x + y * y < c.radius ** 2 * (open ? 0.84 : 1) && side < 0 && !open)
      return { t: tc, normal: [0, 0, 1], kind };
    if (open && side > 0 && tc > 1e-3 && tc < t && x * x + y * y < c.radius ** 2)
      return { t: tc, normal: [0, 0, 1], kind: 'coffee' };
  }
  return null;
}

function hitPencil(o: Vec, d: Vec): Hit | null {
  const axis = add(PENCIL.b, PENCIL.a, -1);
  const m = add(o, PENCIL.a, -1);
  const aa = dot(axis, axis);
  const ad = dot(axis, d);
  const am = dot(axis, m);
  const dm = dot(d, m);
  const mm = dot(m, m);
  const a = aa - ad * ad;
  const b = aa * dm - am * ad;
  const c = aa * mm - am * am - PENCIL.radius ** 2 * aa;
  const h = b * b - a * c;
  if (h < 0) return null;
  const t = (-b - Math.sqrt(h)) / a;
  const y = am + t * ad;
  if (t < 1e-3 || y < 0 || y > aa) return null;
  return { t, normal: normalise(add(add(m, d, t), axis, -y / aa)), kind: 'pencil' };
}

function nearest(o: Vec, d: Vec): Hit | null {
  let best: Hit | null = d[2] < -1e-6 ? { t: -o[2] / d[2], normal: [0, 0, 1], kind: 'table' } : null;
  const offer = (h: Hit | null): void => {
    if (h && h.t > 1e-3 && (!best || h.t < best.t)) best = h;
  };
  offer(hitPhone(o, d));
  offer(hitCylinder(o, d, MUG, 'mug', true));
  offer(hitCylinder(o, d, WEIGHT, 'weight', false));
  offer(hitPencil(o, d));
  return best;
}

/** Light of the room along a direction that leaves the table: a dim wall, the window with its bars, the lamp. */
function room(o: Vec, d: Vec): Vec {
  if (d[0] < -1e-6) {
    const t = (WINDOW.x - o[0]) / d[0];
    const y = o[1] + t * d[1];
    const z = o[2] + t * d[2];
    if (y > WINDOW.y0 && y < WINDOW.y1 && z > WINDOW.z0 && z < WINDOW.z1) {
      const my = ((y - WINDOW.y0) / (WINDOW.y1 - WINDOW.y0)) * 3;
      const mz = ((z - WINDOW.z0) / (WINDOW.z1 - WINDOW.z0)) * 2;
      const bar = Math.abs(my - Math.round(my)) < 0.035 || Math.abs(mz - Math.round(mz)) < 0.03;
      const sky = mix([2.6, 3.1, 3.6], [3.8, 3.4, 2.9], valueNoise(y / 180, z / 120, 5));
      return bar ? [0.1, 0.09, 0.08] : sky;
    }
  }
  const glow = Math.max(0, dot(d, normalise(LAMP))) ** 60;
  return add([0.055, 0.05, 0.047], [6, 4, 2], glow);
}

function wood(x: number, y: number): Vec {
  const board = Math.floor(y / 95);
  const along = x * 0.012 + board * 7.3;
  const across = y * 0.11;
  const grain = fractal(along * 0.7, across + 2.4 * fractal(along * 1.3, across * 0.3, 11, 3), 3 + board, 4);
  const rings = 0.5 + 0.5 * Math.sin(46 * grain);
  const seam = Math.abs(y / 95 - Math.round(y / 95)) < 0.012 ? 0.25 : 1;
  const base = mix([0.115, 0.055, 0.027], [0.24, 0.125, 0.062], 0.35 * rings + 0.65 * grain);
  return scale(base, seam * (0.85 + 0.3 * hash(board, 3, 9)));
}

function tableColour(x: number, y: number, t: Textures): Vec {
  const c = Math.cos(-0.16);
  const s = Math.sin(-0.16);
  const u = (x * c - y * s) / 460 + 0.47;
  const v = 0.55 - (x * s + y * c) / 340;
  if (u < 0 || u > 1 || v < 0 || v > 1) return wood(x, y);
  const fold = Math.abs(u - 0.5) < 0.004 || Math.abs(v - 0.5) < 0.005 ? 0.86 : 1;
  return scale(sample(t.chart, u, v), fold * (0.94 + 0.1 * fractal(x / 9, y / 9, 21, 3)));
}

/** The green card on the glass: emitted light by position on the screen, crosses in dark green. */
function card(u: number, v: number): Vec {
  const cross = (cu: number, cv: number): boolean =>
    (Math.abs(u - cu) < 0.75 && Math.abs(v - cv) < 4.2) || (Math.abs(v - cv) < 0.75 && Math.abs(u - cu) < 4.2);
  const marks =
    cross(0, 0) ||
    [-1, 1].some((a) => [-1, 1].some((b) => cross(a * (SCREEN.halfWidth - 9), b * (SCREEN.halfLength - 12))));
  return marks ? [0.012, 0.1, 0.026] : [0.045, 0.44, 0.1];
}

/** Light from one point of each of the two area lights, with a shadow ray to each. */
function lit(p: Vec, n: Vec, r1: number, r2: number): Vec {
  const one = (at: Vec, power: Vec, towards: number): Vec => {
    const to = add(at, p, -1);
    const distance2 = dot(to, to);
    const d = scale(to, 1 / Math.sqrt(distance2));
    const facing = dot(n, d);
    if (facing <= 0) return [0, 0, 0];
    const shadow = nearest(add(p, n, 0.05), d);
    if (shadow && shadow.t * shadow.t < distance2 && shadow.kind !== 'table') return [0, 0, 0];
    return scale(power, (facing * (towards > 0 ? Math.max(0, -d[0]) : 1)) / distance2);
  };
  const window: Vec = [WINDOW.x, WINDOW.y0 + r1 * (WINDOW.y1 - WINDOW.y0), WINDOW.z0 + r2 * (WINDOW.z1 - WINDOW.z0)];
  return add(
    one(window, [4.94e5, 5.82e5, 6.76e5], 1),
    one(add(LAMP, [(r2 - 0.5) * 160, (r1 - 0.5) * 160, 0]), [2.97e5, 2.02e5, 1.14e5], 0),
  );
}

/** Soft shadows of everything that stands on the table, on a grid, from stratified points of both lights. */
export function bakeTableLight(side: number, strata: number): Picture {
  const data = new Float32Array(side * side * 3);
  for (let y = 0; y < side; y++)
    for (let x = 0; x < side; x++) {
      const p: Vec = [((x + 0.5) / side - 0.5) * 2 * BAKED, ((y + 0.5) / side - 0.5) * 2 * BAKED, 0];
      for (let i = 0; i < strata; i++)
        for (let j = 0; j < strata; j++) {
          const k = y * side + x;
          const c = lit(p, [0, 0, 1], (i + hash(k, i, j)) / strata, (j + hash(k, j, i + 50)) / strata);
          for (let q = 0; q < 3; q++) data[k * 3 + q]! += c[q]! / (strata * strata);
        }
    }
  return { width: side, height: side, data };
}

function fresnel(cosine: number, base: number): number {
  return base + (1 - base) * (1 - cosine) ** 5;
}

/** Green light that the screen throws on what stands near it, without shadows. */
function screenGlow(p: Vec, n: Vec): Vec {
  const [u, v] = toPhone(p[0], p[1]);
  const du = Math.max(Math.abs(u) - SCREEN.halfWidth, 0);
  const dv = Math.max(Math.abs(v) - SCREEN.halfLength, 0);
  const dz = p[2] - PHONE.top;
  if (dz < -0.5) return [0, 0, 0];
  const k = (0.35 * Math.max(0.05, 1 - n[2])) / (1 + (du * du + dv * dv + dz * dz) / 700);
  return [0.045 * k, 0.44 * k, 0.1 * k];
}

/** Scene-linear light along a ray. `r` are three random numbers in 0..1 of this sample. */
export function trace(o: Vec, d: Vec, t: Textures, r: readonly [number, number, number], depth = 0): Vec {
  const h = nearest(o, d);
  if (!h || h.t > 4000) return room(o, d);
  const p = add(o, d, h.t);
  const n = h.normal;
  const cosine = Math.max(0, -dot(n, d));
  let base: Vec = [0, 0, 0];
  let emitted: Vec = [0, 0, 0];
  let mirror = 0;
  let rough = 0;
  if (h.kind === 'table') {
    base = tableColour(p[0], p[1], t);
    const onPaper = base[0] > 0.4;
    mirror = onPaper ? 0 : 0.25 * fresnel(cosine, 0.04);
    rough = 0.12;
  } else if (h.kind === 'phone') {
    const [u, v] = toPhone(p[0], p[1]);
    const edge = roundRectangle(u, v, SCREEN.halfWidth, SCREEN.halfLength, SCREEN.radius);
    if (n[2] > 0.99) {
      base = [0.006, 0.006, 0.007];
      if (edge < 0) emitted = card(u, v);
      else if (Math.hypot(u, v - PHONE.halfLength + 2.3) < 1) base = [0.02, 0.02, 0.03];
      mirror = fresnel(cosine, 0.045);
    } else {
      base = [0.05, 0.055, 0.06];
      mirror = 0.45;
      rough = 0.1;
    }
  } else if (h.kind === 'mug') {
    const band = p[2] > 58 && p[2] < 70;
    const speck = fractal(Math.atan2(p[1] - MUG.y, p[0] - MUG.x) * 9, p[2] / 6, 31, 3);
    base = band ? [0.06, 0.16, 0.2] : mix([0.62, 0.58, 0.5], [0.45, 0.4, 0.33], speck > 0.62 ? 1 : 0.3 * speck);
    mirror = 0.5 * fresnel(cosine, 0.05);
    rough = 0.04;
  } else if (h.kind === 'coffee') {
    base = [0.03, 0.014, 0.006];
    mirror = fresnel(cosine, 0.03);
  } else if (h.kind === 'weight') {
    base = [0.3, 0.19, 0.06];
    const turned = 0.5 + 0.5 * Math.sin(Math.hypot(p[0] - WEIGHT.x, p[1] - WEIGHT.y) * 2.4);
    base = scale(base, 0.75 + 0.25 * turned);
    mirror = 0.42;
    rough = 0.14;
  } else {
    const along = dot(add(p, PENCIL.a, -1), add(PENCIL.b, PENCIL.a, -1)) / 15944;
    if (along > 0.93) base = [0.62, 0.42, 0.25];
    else if (along < 0.06) base = [0.55, 0.2, 0.16];
    else base = [0.58, 0.14, 0.05];
    mirror = 0.15 * fresnel(cosine, 0.05);
    rough = 0.1;
  }
  const top = h.kind === 'phone' && n[2] > 0.99;
  let direct: Vec;
  if (h.kind === 'table') direct = sample(t.tableLight, p[0] / (2 * BAKED) + 0.5, p[1] / (2 * BAKED) + 0.5);
  else if (top) direct = [0.9, 0.9, 0.9];
  else direct = lit(p, n, r[0], r[1]);
  const ambient = scale([0.16, 0.155, 0.16], 0.5 + 0.5 * n[2]);
  let out = add(mul(base, add(add(direct, ambient), screenGlow(p, n))), emitted);
  if (mirror > 0.004 && depth < 2) {
    const wobble: Vec = rough > 0 ? [(r[2] - 0.5) * rough, (r[0] - 0.5) * rough, (r[1] - 0.5) * rough] : [0, 0, 0];
    const away = normalise(add(add(d, n, 2 * cosine), wobble));
    const seen = trace(add(p, n, 0.05), away, t, [r[2], r[1], r[0]], depth + 1);
    out = add(out, h.kind === 'weight' ? mul(seen, [1, 0.72, 0.34]) : seen, mirror);
  }
  return out;
}
