/** The first demo shot: camera movement, exposure, and the rendering of one frame with shutter and lens. */
import { clamp } from '@yarlop/core/clamp';
import type { Film, View } from './camera';
import { lookAt, project } from './camera';
import type { Textures } from './chart-table';
import { screenCorners, trace } from './chart-table';
import { hash, valueNoise } from './noise';
import type { Vec } from './vector';
import { add, normalise } from './vector';

/** Frames of the shot: three seconds. */
export const FRAMES = 72;
/** Frames a second. */
export const RATE = 24;
/** Share of a frame's time; 180 degrees. Common practice, no source. */
const SHUTTER = 0.5;
/** mm; radius of the lens's opening, for its depth of field. */
const APERTURE = 3.1;
/** Standard deviation of the grain, share of the range. */
const GRAIN = 0.008;

export function film(width: number): Film {
  return { width, height: Math.round((width * 9) / 16), focal: width * 1.28 };
}

/** The camera at a time in frames: a slow arc with a hand's tremor and one quicker swing in the middle. */
export function view(time: number): View {
  const t = time / FRAMES;
  const shake = (k: number, rate: number): number => valueNoise(time / rate, k, 90 + k) - 0.5;
  const swing = 1 / (1 + Math.exp(-(time - 38) / 3.2));
  const angle = -1.95 + 0.42 * t + 0.34 * swing;
  const height = 330 - 70 * t - 46 * swing;
  const reach = 345 - 70 * t;
  const eye: Vec = [
    reach * Math.cos(angle) + 6 * shake(1, 9),
    reach * Math.sin(angle) + 6 * shake(2, 11),
    height + 5 * shake(3, 13),
  ];
  const target: Vec = [2 + 14 * shake(4, 10) + 10 * swing, -2 + 12 * shake(5, 12), 4];
  return lookAt(eye, target, 0.05 * shake(6, 14) - 0.03);
}

/** Exact corners TL, TR, BR, BL at the shutter's centre. */
export function truth(frame: number, f: Film): [number, number][] {
  const v = view(frame);
  return screenCorners().map((p) => project(v, f, p));
}

/** Filmic shoulder, then the sRGB curve. */
function develop(v: number): number {
  const x = v * 1.12;
  const s = x < 0.7 ? x : 0.7 + 0.3 * (1 - Math.exp(-(x - 0.7) / 0.3));
  return s <= 0.0031308 ? 12.92 * s : 1.055 * s ** (1 / 2.4) - 0.055;
}

/** @returns RGB, 8 bit, `width*height*3` */
export function renderFrame(frame: number, f: Film, t: Textures, samples: number): Uint8Array {
  const { width, height, focal } = f;
  const out = new Uint8Array(width * height * 3);
  const views = Array.from({ length: samples }, (_, s) => view(frame + SHUTTER * ((s + 0.5) / samples - 0.5)));
  const rows = Math.ceil(Math.sqrt(samples));
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const sum: [number, number, number] = [0, 0, 0];
      const key = y * width + x;
      for (let s = 0; s < samples; s++) {
        const r = (k: number): number => hash(key, s * 8 + k, frame);
        const v = views[s]!;
        const sub = (s * 5 + 3) % samples;
        const px = x + ((sub % rows) + r(0)) / rows;
        const py = y + (Math.floor(sub / rows) + r(1)) / Math.ceil(samples / rows);
        const dx = (px - width / 2) / focal;
        const dy = (py - height / 2) / focal;
        const focus = add(add(add(v.eye, v.forward, v.focus), v.right, dx * v.focus), v.down, dy * v.focus);
        const a = 2 * Math.PI * r(2);
        const q = APERTURE * Math.sqrt(r(3));
        const eye = add(add(v.eye, v.right, q * Math.cos(a)), v.down, q * Math.sin(a));
        const c = trace(eye, normalise(add(focus, eye, -1)), t, [(s + r(4)) / samples, r(5), r(6)]);
        for (let k = 0; k < 3; k++) sum[k]! += Math.min(c[k]!, 4) / samples;
      }
      const vignette = 1 - 0.22 * ((x / width - 0.5) ** 2 + (y / height - 0.5) ** 2) * 2;
      for (let k = 0; k < 3; k++) {
        const gauss =
          Math.sqrt(-2 * Math.log(1 - hash(key, 900 + k, frame))) * Math.cos(6.2832 * hash(key, 950 + k, frame));
        const lin = sum[k]! * vignette;
        out[key * 3 + k] = Math.round(255 * clamp(develop(lin) + GRAIN * gauss * (1.2 - 0.6 * Math.min(lin, 1)), 0, 1));
      }
    }
  return out;
}
