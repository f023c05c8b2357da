import { describe, expect, it } from 'vitest';
import { gaussianMean } from '../src/dress/shape/softness';
import type { EdgeHit } from '../src/follow/edges/edge-fit';
import { measureRails, residualOf } from '../src/follow/edges/edge-fit';
import { rowsOfSide } from '../src/follow/edges/edge-rows';
import { Follower } from '../src/follow/follower';
import { findRails } from '../src/follow/edges/rails';
import { quadToQuad } from '../src/geometry/homography';
import { IDENTITY } from '../src/geometry/matrix3';
import type { Quad } from '../src/geometry/quad';
import { farthest, mapQuad } from '../src/geometry/quad';
import { lightOf, toGrey } from '../src/image/light';
import { buildPyramid } from '../src/image/pyramid';
import { median } from '../src/statistics';
import { moved, renderScene } from './builders/scene';
import type { DeviceOptions } from './builders/device';
import { GLASS, SETUP, device } from './builders/device';

/** Dark glass in a narrow dark bezel: its edge is hardly to be seen, and part of the rim's look. */
const OFF: DeviceOptions = { bezel: 3, glassGrey: 24, bezelGrey: 30, behind: 120 };
/** The same, switched on: bright, with dark lines across it. */
const ON: DeviceOptions = { ...OFF, glassGrey: (x, y) => (Math.floor(y / 9) % 3 === 0 ? 40 : 245 - 0.1 * x) };

const dark = buildPyramid(renderScene(device(OFF), 0), 1)[0]!;
const lit = buildPyramid(renderScene(device(ON), 0), 1)[0]!;
const rails = findRails(GLASS, dark, []);
const spread = new Float32Array(rails.length);
const search = { reach: 3, blur: (): [number, number] => [0, 0] };

describe('the look of a rim beside glass', () => {
  it('has a part without the glass, on the outer side alone', () => {
    const withRim = rails.filter((r) => r.bare);
    expect(new Set(withRim.map((r) => r.side)).size).toBe(4);
    for (const { bare, look, offset } of withRim) {
      expect(offset + bare!.look.lo).toBeGreaterThan(0.5);
      expect(Math.abs(bare!.look.hi - look.hi)).toBeLessThan(0.5);
      expect(bare!.look.ofGlass).toBe(false);
    }
  });
  it('is looked for without the glass where hardly anything is as it was', () => {
    const striped = rails.map((r) => ({
      ...r,
      look: { ...r.look, profile: r.look.profile.map((_, i) => (i % 8 < 4 ? 0.9 : 0.1)) },
    }));
    const view = { image: dark, search, spread };
    const first = (of: typeof rails): number => rowsOfSide(1, { ...view, rails: of }, IDENTITY)[0]!.matcher.from;
    expect(first(striped)).toBeGreaterThan(first(rails));
    const hits = measureRails(striped, dark, IDENTITY, search, spread);
    expect(hits.length).toBeGreaterThan(40);
    for (const q of hits) expect(Math.abs(residualOf(q, IDENTITY))).toBeLessThan(1);
  });
  it('lies where it lay, whatever the glass shows', () => {
    const hits = measureRails(rails, lit, IDENTITY, search, spread);
    for (let side = 0; side < 4; side++) {
      const off = hits.filter((q) => rails[q.rail]!.side === side).map((q) => residualOf(q, IDENTITY));
      off.sort((a, b) => a - b);
      expect(off.length).toBeGreaterThan(10);
      expect(Math.abs(off[off.length >> 1]!)).toBeLessThan(0.4);
    }
  });
});

/** A device that leans away, so that its bezel is twice as wide at one end of a side as at the other, out of focus. */
describe('a soft look of glass and rim, seen in perspective', () => {
  const SEEN: Quad = [
    [150, 100],
    [290, 130],
    [310, 190],
    [90, 240],
  ];
  const film = (inside: number): DeviceOptions => ({ bezel: 9, glassGrey: inside, bezelGrey: 150, behind: 30 });
  const picture = (inside: number) => {
    const { width, height, data } = renderScene(device(film(inside), { homography: () => quadToQuad(GLASS, SEEN) }), 0);
    // A lens blurs light.
    const light = Float32Array.from(data, lightOf);
    gaussianMean(light, width, height, 0.9);
    toGrey(light);
    return buildPyramid({ width, height, data: Uint8Array.from(light, Math.round) }, 1)[0]!;
  };
  const page = picture(12);
  const found = findRails(SEEN, page, []);
  const offsets = (hits: readonly EdgeHit[], side: number): number[] => {
    const own = hits.filter((q) => found[q.rail]!.side === side);
    // At the first and the last third of a side: a side that is turned lies right in its middle.
    return [own.filter((q) => q.along < 1 / 3), own.filter((q) => q.along > 2 / 3)].map((l) =>
      median(l.map((q) => residualOf(q, IDENTITY))),
    );
  };

  it('tells the same line by the part without the glass as by the whole', () => {
    const bare = found.map((r) => (r.bare ? { ...r, ...r.bare, bare: null } : r));
    expect(found.filter((r) => r.bare).length).toBeGreaterThan(1);
    const hits = measureRails(bare, page, IDENTITY, search, new Float32Array(found.length));
    for (let side = 0; side < 4; side++)
      for (const off of offsets(hits, side)) expect(Math.abs(off)).toBeLessThan(0.12);
  });

  it.each([60, 110])('lies where it lay when the glass goes from grey 12 to %i', (inside) => {
    const hits = measureRails(found, picture(inside), IDENTITY, search, new Float32Array(found.length));
    for (let side = 0; side < 4; side++) for (const off of offsets(hits, side)) expect(Math.abs(off)).toBeLessThan(0.2);
  });
});

describe('a Screen that is switched on, and off again', () => {
  it('is followed by its rim', () => {
    const homography = (n: number): number[] => [...moved(GLASS, { x: 2 * n, y: -n })];
    const [off, on] = [OFF, ON].map((o) => device(o, { homography }));
    const follower = new Follower(SETUP, 0, renderScene(off!, 0));
    for (let n = 1; n <= 9; n++) {
      const isOn = n >= 3 && n < 7;
      const result = follower.step(n, renderScene(isOn ? on! : off!, n));
      expect(result.reason).toBeNull();
      expect(farthest(mapQuad(result.homography!, GLASS), mapQuad(homography(n), GLASS))).toBeLessThan(0.6);
    }
  });
});
