import { describe, expect, it } from 'vitest';
import { measureRails, residualOf } from '../src/follow/edges/edge-fit';
import { rowsOfSide } from '../src/follow/edges/edge-rows';
import { Follower } from '../src/follow/follower';
import { findRails } from '../src/follow/edges/rails';
import { IDENTITY } from '../src/geometry/matrix3';
import { farthest, mapQuad } from '../src/geometry/quad';
import { buildPyramid } from '../src/image/pyramid';
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
      expect(offset + bare!.lo).toBeGreaterThan(0.5);
      expect(Math.abs(bare!.hi - look.hi)).toBeLessThan(0.5);
      expect(bare!.ofGlass).toBe(false);
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
