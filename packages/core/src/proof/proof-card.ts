/**
 * The proof card: a test picture for judging slip, shear and wobble by eye once it is pinned into the plate. Pale survey
 * paper with a fine ruling for slip against the bezel, crossed diagonals for shear, rings that turn to ellipses with
 * the perspective, edge ticks at each twentieth, and a dark wedge in the content's top-left so that a turned pin shows.
 */
import type { Raster } from '../image/image';

type Rgb = readonly [number, number, number];
const PAPER: Rgb = [232, 226, 210], INK: Rgb = [24, 52, 48], FAINT: Rgb = [150, 164, 152], ACCENT: Rgb = [176, 112, 40];

/** 1 on a line of `width` px at distance 0, falling to 0 over one pixel. */
function line(distance: number, width: number): number {
  return Math.min(1, Math.max(0, width / 2 + 0.5 - Math.abs(distance)));
}

function nearest(value: number, step: number): number {
  return value - Math.round(value / step) * step;
}

/** @param width px; @param height px, of the card; aspect as the Screen's */
export function proofCard(width: number, height: number): Raster {
  const data = new Uint8ClampedArray(width * height * 4);
  const unit = Math.min(width, height) / 10, thin = Math.max(1, unit / 28), thick = thin * 2.5;
  const cx = width / 2, cy = height / 2, columns = Math.round(width / unit), rows = Math.round(height / unit);
  const sx = width / columns, sy = height / rows, diagonal = Math.hypot(width, height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const px = x + 0.5, py = y + 0.5, r = Math.hypot(px - cx, py - cy);
      const edge = Math.min(px, width - px, py, height - py), along = Math.min(px, width - px) === edge ? py : px;
      let ink = 0, faint = Math.max(line(nearest(px, sx), thin), line(nearest(py, sy), thin)), accent = 0;
      ink = Math.max(ink, line(edge - thick, thick), line(px - cx, thick), line(py - cy, thick));
      if (edge < unit * 0.35) ink = Math.max(ink, line(nearest(along, Math.min(sx, sy) / 2), thin * 1.5));
      accent = Math.max(accent, line(((px - cx) * height - (py - cy) * width) / diagonal, thick), line(((px - cx) * height + (py - cy) * width) / diagonal, thick));
      for (const radius of [1.2, 2.6, 4]) ink = Math.max(ink, line(r - radius * unit, thick));
      for (const [qx, qy] of [[sx * 1.5, sy * 1.5], [width - sx * 1.5, sy * 1.5], [width - sx * 1.5, height - sy * 1.5], [sx * 1.5, height - sy * 1.5]] as const) {
        const q = Math.hypot(px - qx, py - qy);
        if (q < unit * 0.8) faint = 0;
        ink = Math.max(ink, line(q - unit * 0.8, thick), q < unit * 0.4 ? Number((px - qx) * (py - qy) > 0) : 0);
      }
      if (px - thick < unit * 0.9 - (py - thick) && edge > thick) ink = 1;
      const at = (y * width + x) * 4;
      for (let c = 0; c < 3; c++) {
        let v = PAPER[c]! + faint * (FAINT[c]! - PAPER[c]!);
        v += accent * (ACCENT[c]! - v);
        data[at + c] = v + ink * (INK[c]! - v);
      }
      data[at + 3] = 255;
    }
  return { width, height, channels: 4, data };
}
