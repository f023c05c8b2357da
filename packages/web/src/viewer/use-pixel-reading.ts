/** Values of single pixels of the picture that is seen. */
import type { SeenPicture } from '../shared/picture-request';

/** px to each side of a place whose mean is taken: one pixel alone is mostly noise. */
const ABOUT = 2;

export type PixelValue = readonly [red: number, green: number, blue: number];

/** @param seen the picture that stands in the view */
export function usePixelReading(seen: () => SeenPicture | null) {
  const probe = new OffscreenCanvas(1, 1).getContext('2d', { willReadFrequently: true })!;

  function readIn(of: OffscreenCanvas | ImageBitmap, { at }: SeenPicture, x: number, y: number): PixelValue | null {
    const k = of.width / at.width;
    const px = Math.floor((Math.floor(x) - at.x) * k);
    const py = Math.floor((Math.floor(y) - at.y) * k);
    if (px < 0 || py < 0 || px >= of.width || py >= of.height) return null;
    probe.drawImage(of, px, py, 1, 1, 0, 0, 1, 1);
    const [red, green, blue] = probe.getImageData(0, 0, 1, 1).data;
    return [red!, green!, blue!];
  }
  /** As it is shown. @param x plate px */
  function shownAt(x: number, y: number): PixelValue | null {
    const s = seen();
    return s && readIn(s.canvas, s, x, y);
  }
  /** Of the plate, where something is laid over it. @param x plate px */
  function plateAt(x: number, y: number): PixelValue | null {
    const s = seen();
    return s?.isLaidOver && s.plate ? readIn(s.plate, s, x, y) : null;
  }
  /** Mean about a place, as it is shown. @param x plate px */
  function meanAround(x: number, y: number): number[] | null {
    const all: PixelValue[] = [];
    for (let dy = -ABOUT; dy <= ABOUT; dy++)
      for (let dx = -ABOUT; dx <= ABOUT; dx++) {
        const p = shownAt(x + dx, y + dy);
        if (p) all.push(p);
      }
    return all.length > 0 ? [0, 1, 2].map((c) => all.reduce((s, p) => s + p[c]! / all.length, 0)) : null;
  }
  return { shownAt, plateAt, meanAround };
}
