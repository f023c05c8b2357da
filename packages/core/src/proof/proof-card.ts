/**
 * Proof cards: test pictures for judging a track by eye once they are pinned into the plate. Pale survey paper; each
 * card makes one fault plain: slip against the bezel, shear, wobble, or a change of scale; the survey card shows a
 * little of each. A dark wedge stands in the content's top-left corner on all of them, so that a turned pin shows.
 */
import { clamp } from '../clamp';
import type { Raster } from '../image/image';

type Rgb = readonly [number, number, number];
const PAPER: Rgb = [232, 226, 210];
const INK: Rgb = [24, 52, 48];
const FAINT: Rgb = [150, 164, 152];
const ACCENT: Rgb = [176, 112, 40];

export const CARD_KINDS = ['survey', 'slip', 'shear', 'wobble', 'scale'] as const;
export type CardKind = (typeof CARD_KINDS)[number];

/** Amounts of the three colours at a place, each 0 to 1. */
interface Marks {
  faint: number;
  accent: number;
  ink: number;
}

/** A place on a card, and the card's own measures, px. */
interface Place {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
  /** a tenth of the shorter side, and the sizes of the squares that divide both sides evenly */
  readonly unit: number;
  readonly sx: number;
  readonly sy: number;
  readonly thin: number;
  readonly thick: number;
}

/** 1 on a line of `width` px at distance 0, falling to 0 over one pixel. */
function line(distance: number, width: number): number {
  return clamp(width / 2 + 0.5 - Math.abs(distance), 0, 1);
}

function nearest(value: number, step: number): number {
  return value - Math.round(value / step) * step;
}

/** Distance to the nearest side, and the place along it. */
function atEdge({ x, y, width, height }: Place): { edge: number; along: number } {
  const across = Math.min(x, width - x);
  const down = Math.min(y, height - y);
  return across < down ? { edge: across, along: y } : { edge: down, along: x };
}

const DRAW: Readonly<Record<CardKind, (p: Place) => Marks>> = {
  survey(p) {
    const { x, y, width, height, unit, sx, sy, thin, thick } = p;
    const cx = width / 2;
    const cy = height / 2;
    const r = Math.hypot(x - cx, y - cy);
    const { edge, along } = atEdge(p);
    const diagonal = Math.hypot(width, height);
    let faint = Math.max(line(nearest(x, sx), thin), line(nearest(y, sy), thin));
    let ink = Math.max(line(edge - thick, thick), line(x - cx, thick), line(y - cy, thick));
    if (edge < unit * 0.35) ink = Math.max(ink, line(nearest(along, Math.min(sx, sy) / 2), thin * 1.5));
    for (const radius of [1.2, 2.6, 4]) ink = Math.max(ink, line(r - radius * unit, thick));
    for (const [qx, qy] of [
      [sx * 1.5, sy * 1.5],
      [width - sx * 1.5, sy * 1.5],
      [width - sx * 1.5, height - sy * 1.5],
      [sx * 1.5, height - sy * 1.5],
    ] as const) {
      const q = Math.hypot(x - qx, y - qy);
      if (q < unit * 0.8) faint = 0;
      ink = Math.max(ink, line(q - unit * 0.8, thick), q < unit * 0.4 ? Number((x - qx) * (y - qy) > 0) : 0);
    }
    return {
      faint,
      ink,
      accent: Math.max(
        line(((x - cx) * height - (y - cy) * width) / diagonal, thick),
        line(((x - cx) * height + (y - cy) * width) / diagonal, thick),
      ),
    };
  },
  // Steps towards every side, narrower the nearer: a slip of a pixel hides or bares one of them.
  slip(p) {
    const { edge, along } = atEdge(p);
    const { unit, thin, thick } = p;
    const depth = edge / unit;
    let step: 0.5 | 0.0625 | 0.125;
    if (depth < 0.25) step = 0.0625;
    else if (depth < 1) step = 0.125;
    else step = 0.5;
    const inside = depth > 2.5;
    return {
      faint: inside ? Math.max(line(nearest(p.x, p.sx), thin), line(nearest(p.y, p.sy), thin)) : 0,
      ink: inside
        ? 0
        : Math.max(line(nearest(edge, step * unit), thin), depth < 1 ? line(nearest(along, unit / 2), thin) : 0),
      accent: line(edge - unit, thick),
    };
  },
  // Right angles at every crossing, and long diagonals through them.
  shear({ x, y, sx, sy, thin, thick, width, height }) {
    const k = Math.hypot(1 / sx, 1 / sy);
    const a = nearest(x / sx + y / sy, 2) / k;
    const b = nearest(x / sx - y / sy, 2) / k;
    return {
      faint: Math.max(line(nearest(x, sx), thin), line(nearest(y, sy), thin)),
      ink: Math.max(line(nearest(x, width / 2), thick), line(nearest(y, height / 2), thick)),
      accent: Math.max(line(a, thin), line(b, thin)),
    };
  },
  // Rings around many places: each breathes and leans with its own part of the pin.
  wobble({ x, y, sx, sy, unit, thin, thick }) {
    const px = nearest(x - sx, 2 * sx);
    const py = nearest(y - sy, 2 * sy);
    const r = Math.hypot(px, py);
    return {
      faint: line(nearest(r, unit * 0.2), thin) * Number(r < unit * 0.85),
      ink: Math.max(line(r - unit * 0.85, thick), line(r, thick * 1.5)),
      accent: 0,
    };
  },
  // Frames in frames, each a tenth smaller, and rulers through the middle.
  scale(p) {
    const { x, y, width, height, thin, thick, unit } = p;
    const u = Math.abs(x / width - 0.5) * 2;
    const v = Math.abs(y / height - 0.5) * 2;
    const m = Math.max(u, v);
    const half = u > v ? width / 2 : height / 2;
    const tick = u > v ? Math.abs(y - height / 2) : Math.abs(x - width / 2);
    return {
      faint: line(nearest(m, 0.1) * half, thin),
      ink: Math.max(line(nearest(m, 0.2) * half, thick), tick < unit * 0.3 ? line(nearest(m, 0.02) * half, thin) : 0),
      accent: Math.max(line(x - width / 2, thin), line(y - height / 2, thin)),
    };
  },
};

/** @param width px; @param height px, of the card; aspect as the Screen's; @param opacity 0 to 1 */
export function proofCard(width: number, height: number, kind: CardKind = 'survey', opacity = 1): Raster {
  const data = new Uint8ClampedArray(width * height * 4);
  const unit = Math.min(width, height) / 10;
  const thin = Math.max(1, unit / 28);
  const thick = thin * 2.5;
  const sx = width / Math.round(width / unit);
  const sy = height / Math.round(height / unit);
  const draw = DRAW[kind];
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const p: Place = { x: x + 0.5, y: y + 0.5, width, height, unit, sx, sy, thin, thick };
      const { faint, accent, ink } = draw(p);
      const { edge } = atEdge(p);
      const wedge = p.x + p.y < unit * 0.9 + 2 * thick && edge > thick;
      const at = (y * width + x) * 4;
      for (let c = 0; c < 3; c++) {
        let v = PAPER[c]! + faint * (FAINT[c]! - PAPER[c]!);
        v += accent * (ACCENT[c]! - v);
        data[at + c] = v + Math.max(ink, Number(wedge)) * (INK[c]! - v);
      }
      data[at + 3] = Math.round(255 * opacity);
    }
  return { width, height, channels: 4, data };
}
