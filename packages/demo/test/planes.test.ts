/** What the generator draws must lie where its truth says, whatever the size of a texture and the number of samples. */
import { describe, expect, it } from 'vitest';
import { lookAt } from '../src/camera';
import type { Set } from '../src/planes/stage';
import { placed, renderFrame, seenAt } from '../src/planes/stage';
import { textureFromSvg } from '../src/planes/texture';

const W = 320;
const H = 180;
const disc = (w: number, h: number): string =>
  `<svg xmlns="http://www.w3.org/2000/svg" width="${w}" height="${h}"><rect width="${w}" height="${h}" fill="#000"/><ellipse cx="${0.75 * w}" cy="${0.75 * h}" rx="${0.12 * w}" ry="${0.12 * h}" fill="#999"/></svg>`;

/** Where the light of a disc on a flat thing has its centre in the picture, and where it should. */
async function shown(
  size: readonly [number, number],
  distance: number,
  least: number,
  o: { readonly speed?: number; readonly readout?: number } = {},
): Promise<{ off: number; truth: [number, number] }> {
  const texture = await textureFromSvg(disc(...size));
  const place = (t: number): ReturnType<typeof placed> =>
    placed([(o.speed ?? 0) * t, distance, 0], [1, 0, 0], [0, 0, -1], 100, 100);
  const set: Set = {
    width: W,
    height: H,
    frames: 2,
    lens: 0,
    readout: o.readout ?? 0,
    shutter: 0.5,
    grain: 0,
    focal: () => 1,
    exposure: () => 1,
    view: () => lookAt([0, 0, 0], [0, 1, 0], 0),
    surfaces: [{ texture: () => texture, place }],
  };
  const rgb = renderFrame(set, 0, place, least);
  const truth = seenAt(set, place, 0, 0.75, 0.75);
  let sx = 0;
  let sy = 0;
  let sum = 0;
  for (let y = 0; y < H; y++)
    for (let x = 0; x < W; x++) {
      // Back through the curve and the vignette to light.
      const c = rgb[3 * (y * W + x) + 1]! / 255;
      const light =
        (c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4) /
        (1 - 0.35 * ((x / W - 0.5) ** 2 + (y / H - 0.5) ** 2));
      [sx, sy, sum] = [sx + light * (x + 0.5), sy + light * (y + 0.5), sum + light];
    }
  return { off: Math.hypot(sx / sum - truth[0], sy / sum - truth[1]), truth };
}

describe('a disc that the generator draws', () => {
  it.each([
    [512, 512],
    [401, 397],
    [803, 799],
    [1601, 1603],
  ] as const)('on a texture of %d by %d px lies where it should', async (w, h) => {
    expect((await shown([w, h], 150, 6)).off).toBeLessThan(0.05);
  });
  it('does not move with the number of samples', async () => {
    for (const least of [6, 7, 11, 24]) expect((await shown([512, 512], 150, least)).off).toBeLessThan(0.05);
  });
  it('that moves fast before a camera read out row by row lies where its own row saw it', async () => {
    const rolling = await shown([512, 512], 150, 24, { speed: 12, readout: 0.4 });
    const still = await shown([512, 512], 150, 24, { speed: 12 });
    expect(Math.abs(rolling.truth[0] - still.truth[0])).toBeGreaterThan(0.5);
    expect(rolling.off).toBeLessThan(0.12);
  });
});
