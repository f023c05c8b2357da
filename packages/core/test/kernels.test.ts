/** The hot loops as WASM against the same loops in TypeScript: both must see the same picture. */
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import type { Lens } from '../src/geometry/lens';
import type { Quad } from '../src/geometry/quad';
import { mapQuad } from '../src/geometry/quad';
import type { RawLuma } from '../src/image/image';
import { moved, random, renderScene, waves } from './builders/scene';

const load = async () => ({
  pyramid: await import('../src/image/pyramid'),
  sample: await import('../src/image/sample'),
  profile: await import('../src/follow/edges/edge-profile'),
  look: await import('../src/follow/edges/edge-look'),
  matcher: await import('../src/follow/edges/edge-matcher'),
  template: await import('../src/follow/picture/template'),
  blurred: await import('../src/follow/picture/blurred-template'),
  region: await import('../src/follow/outline/region'),
  follower: await import('../src/follow/follower'),
  kernels: await import('../src/image/kernels'),
});
type Modules = Awaited<ReturnType<typeof load>>;
let wasm: Modules;
let plain: Modules;
beforeAll(async () => {
  wasm = await load();
  vi.resetModules();
  vi.doMock('../src/image/kernels', async (original) => ({
    ...(await original<object>()),
    kernels: () => null,
    kernelsFor: () => null,
  }));
  plain = await load();
});
afterAll(() => {
  vi.doUnmock('../src/image/kernels');
  vi.resetModules();
});

const r = random(3);
const W = 211;
const H = 133;
const bytes: RawLuma = { width: W, height: H, data: Uint8Array.from({ length: W * H }, () => Math.floor(256 * r())) };
const words: RawLuma = {
  width: W,
  height: H,
  data: Uint16Array.from({ length: W * H }, () => Math.floor(65536 * r())),
};
const LENS: Lens = { radial: -0.08, width: W, height: H };
const apart = (a: ArrayLike<number>, b: ArrayLike<number>): number => {
  expect(a).toHaveLength(b.length);
  let worst = 0;
  for (let i = 0; i < a.length; i++) worst = Math.max(worst, Math.abs(a[i]! - b[i]!));
  return worst;
};

describe('WASM and TypeScript', () => {
  it('are both there', () => {
    expect(wasm.kernels.kernels()).not.toBeNull();
    expect(plain.kernels.kernels()).toBeNull();
  });
  it.each([
    ['8 bit', bytes, undefined],
    ['16 bit', words, undefined],
    ['8 bit behind a lens', bytes, LENS],
    ['16 bit behind a lens', words, LENS],
  ] as const)('make the same pyramid of %s, whole and of a window', (_, frame, lens) => {
    // Behind a lens the kernels know a place to 1/2048 px, and this noise rises by up to 255 from px to px on each axis.
    const most = lens ? (2 * 255) / 2048 : 2e-3;
    for (const window of [undefined, { x0: 31, y0: 17, x1: 150, y1: 99 }]) {
      const a = wasm.pyramid.buildPyramid(frame, 4, window, lens, true);
      const b = plain.pyramid.buildPyramid(frame, 4, window, lens, true);
      expect(a.map(({ width, height, x0, y0 }) => [width, height, x0, y0])).toEqual(
        b.map(({ width, height, x0, y0 }) => [width, height, x0, y0]),
      );
      for (const [l, level] of a.entries()) expect(apart(level.data, b[l]!.data)).toBeLessThan(most);
    }
  });
  it('keep a picture of floats out of the kernels', () => {
    const floats: RawLuma = { ...bytes, data: Float32Array.from(bytes.data, (v) => v + 0.25) };
    expect(apart(wasm.pyramid.buildPyramid(floats, 2, undefined, undefined, true)[0]!.data, floats.data)).toBe(0);
  });
  it('sample the same cells, linear and cubic, and refuse the same at the border', () => {
    const [a] = wasm.pyramid.buildPyramid(bytes, 1, undefined, undefined, true);
    const [b] = plain.pyramid.buildPyramid(bytes, 1);
    const one = new Float32Array(144);
    const two = new Float32Array(144);
    const h = [60, 4, 90, -3, 55, 60, 0.01, -0.02, 1];
    for (const cubic of [false, true])
      for (const [u, v] of [
        [0, 0],
        [-0.7, 0.3],
        [0.5, -0.4],
        [1.9, 1.1],
      ] as const) {
        const seen = wasm.sample.sampleCell(a!, h, u, v, 1 / 60, 12, cubic, one);
        expect(plain.sample.sampleCell(b!, h, u, v, 1 / 60, 12, cubic, two)).toBe(seen);
        if (seen) expect(apart(one, two)).toBeLessThan(0.02);
      }
  });
  it('take the same profiles, and find the same likeness in them', () => {
    const [a] = wasm.pyramid.buildPyramid(bytes, 1, undefined, undefined, true);
    const [b] = plain.pyramid.buildPyramid(bytes, 1);
    const n = [Math.cos(0.4), Math.sin(0.4)] as const;
    const one = new Float32Array(61);
    const two = new Float32Array(61);
    expect(wasm.profile.sampleProfile(a!, [90.3, 60.8], n, [-n[1], n[0]], 0.5, 4, one)).toBe(true);
    plain.profile.sampleProfile(b!, [90.3, 60.8], n, [-n[1], n[0]], 0.5, 4, two);
    expect(apart(one, two)).toBeLessThan(0.01);
    const look = {
      profile: Float32Array.from(
        { length: 65 },
        (_, i) => 10 + 60 / (1 + Math.exp((32 - i) / 2)) - 30 / (1 + Math.exp((44 - i) / 2)),
      ),
      lo: -2,
      hi: 5,
      glass: 0,
      outside: 3,
      ofGlass: true,
    };
    const out = new Float64Array(24);
    const other = new Float64Array(24);
    wasm.look.likenessesAt(wasm.matcher.makeMatcher(look, 1.1, 0.8), one, 3, 12, out);
    plain.look.likenessesAt(plain.matcher.makeMatcher(look, 1.1, 0.8), one, 3, 12, other);
    expect(apart(out, other)).toBeLessThan(2e-3);
    expect(Math.max(...out.filter((_, i) => i % 2 === 0))).toBeLessThanOrEqual(1);
  });
  it('smear a remembered picture alike', () => {
    const o = {
      width: 300,
      height: 200,
      pin: [
        [60, 50],
        [240, 50],
        [240, 150],
        [60, 150],
      ] as Quad,
      homography: () =>
        moved(
          [
            [0, 0],
            [1, 0],
            [1, 1],
            [0, 1],
          ],
          {},
        ),
      texture: waves(4),
    };
    const luma = renderScene(o, 0);
    const lens: Lens = { radial: 0, width: 300, height: 200 };
    const make = (m: Modules): ReturnType<Modules['blurred']['blurTemplate']> => {
      const region = m.region.followRegion(o.pin, [], lens);
      const pyramid = m.pyramid.buildPyramid(luma, 2);
      const template = m.template.buildTemplate(pyramid, {
        region,
        count: 40,
        noise: 1,
        toReference: [1, 0, 0, 0, 1, 0, 0, 0, 1],
        trustBounds: region.bounds,
        probation: () => false,
      });
      return m.blurred.blurTemplate(template, 1, ([x, y]) => [7 + x / 100, -3 + y / 90]);
    };
    const a = make(wasm);
    const b = make(plain);
    for (const [l, level] of a.levels.entries()) {
      expect(apart(level.values, b.levels[l]!.values)).toBeLessThan(1e-4);
      expect(apart(level.norm, b.levels[l]!.norm)).toBeLessThan(0.05);
    }
  });
  it('follow a moving screen to the same place', () => {
    const pin: Quad = [
      [120, 90],
      [320, 90],
      [320, 220],
      [120, 220],
    ];
    const o = {
      width: 480,
      height: 320,
      pin,
      homography: (n: number) => moved(pin, { x: 6 * n, y: 2 * n, turn: 0.02 * n }),
      texture: waves(5),
      background: waves(9),
      noise: 2,
    };
    const run = (m: Modules): Quad => {
      const f = new m.follower.Follower(
        { pin, patches: [], motion: 'perspective', density: 'usual', evidence: ['texture', 'edges'] },
        0,
        renderScene(o, 0),
      );
      return mapQuad([1, 2, 3].map((n) => f.step(n, renderScene(o, n)).homography!).at(-1)!, pin);
    };
    expect(apart(run(wasm).flat(), run(plain).flat())).toBeLessThan(0.01);
  });
});
