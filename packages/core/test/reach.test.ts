/** What of a plate a layer is made from: nothing beyond it may be looked at. */
import { describe, expect, it } from 'vitest';
import { fillPyramid } from '../src/dress/fill/fill-pyramid';
import type { DressRecipe } from '../src/dress/layer/recipe';
import type { Layer } from '../src/dress/render';
import { Renderer, reachOf } from '../src/dress/render';
import type { Quad } from '../src/geometry/quad';
import type { Raster } from '../src/image/image';
import { random } from './builders/scene';

const W = 320;
const H = 200;
const PIN: Quad = [
  [90, 60],
  [210, 66],
  [200, 140],
  [84, 132],
];
const r = random(5);
const plate: Raster = {
  width: W,
  height: H,
  channels: 3,
  data: Uint8Array.from({ length: 3 * W * H }, () => Math.round(60 + 120 * r())),
};
const fill = fillPyramid({
  width: 60,
  height: 40,
  channels: 4,
  data: Uint8Array.from({ length: 9600 }, (_, i) => (i % 4 === 3 ? 255 : Math.round(255 * r()))),
});
const glass = { columns: 2, rows: 2, values: Array.from({ length: 12 }, () => 0.05) };

describe('a layer', () => {
  it.each<[string, DressRecipe, Partial<Layer>]>([
    ['bare', {}, {}],
    [
      'soft and smeared',
      { softness: { more: 3 }, motionBlur: { on: true, shutter: 180 } },
      { before: PIN.map(([x, y]) => [x - 9, y + 3]) as unknown as Quad },
    ],
    ['behind a lens', { edge: { feather: 3, radius: 0.1 } }, { lens: { radial: -0.12, width: W, height: H } }],
    ['with light on the glass and its rim replaced', { glare: { measured: glass }, rim: { on: true, more: 3 } }, {}],
    ['with spill taken about it', { spill: { colour: [0.1, 0.8, 0.2], reach: 12 } }, {}],
    ['as a display shows it', { look: { bands: { depth: 0.3 } } } as DressRecipe, {}],
  ])('%s is the same from a plate that is there only as far as it reaches', (_, dress, more) => {
    const layers: Layer[] = [{ fill, corners: PIN, dress, ...more }];
    const reach = reachOf(plate, layers)!;
    expect(reach.width * reach.height).toBeLessThan(0.6 * W * H);
    const part = { ...plate, data: new Uint8Array(plate.data.length).fill(255) };
    for (let y = reach.y; y < reach.y + reach.height; y++) {
      const at = 3 * (y * W + reach.x);
      part.data.set(plate.data.subarray(at, at + 3 * reach.width), at);
    }
    const [whole, cut] = [plate, part].map((p) => {
      const target = { ...p, data: p.data.slice() };
      expect(new Renderer().render(p, layers, target)).toEqual(reach);
      return target.data;
    }) as [Uint8Array, Uint8Array];
    let differs = 0;
    let changed = 0;
    for (let y = reach.y; y < reach.y + reach.height; y++)
      for (let i = 3 * (y * W + reach.x); i < 3 * (y * W + reach.x + reach.width); i++) {
        if (whole[i] !== cut[i]) differs++;
        if (whole[i] !== plate.data[i]) changed++;
      }
    expect(changed).toBeGreaterThan(5000);
    expect(differs).toBe(0);
  });
  it('that lies outside the picture reaches nothing of it', () => {
    const away = PIN.map(([x, y]) => [x + 5000, y]) as unknown as Quad;
    expect(reachOf(plate, [{ fill, corners: away }])).toBeNull();
  });
});
