import { describe, expect, it } from 'vitest';
import { isConvex } from '../../core/src/geometry/quad';
import type { Quad } from '../../core/src/geometry/quad';
import { diced } from '../src/planes/dice';
import { cornersAt } from '../src/planes/shots';
import { distort, undistort } from '../src/planes/stage';
import type { Texture } from '../src/planes/texture';
import { LENSES, thrown } from '../src/planes/thrown';
import { KINDS, sliceDepths } from '../src/planes/thrown-devices';
import { add, cross, dot, normalise } from '../src/vector';

const blank = async (): Promise<Texture> => ({
  levels: [{ width: 1, height: 1, across: 1, down: 1, data: new Float32Array(4) }],
});
const FILM = { width: 320, height: 180 };

describe('lenses that are thrown', () => {
  it.each(LENSES)('show all of the picture, up to its corners: %s', async (lens) => {
    const { set } = await diced(5, { width: 1920, height: 1080 }, blank);
    const own = { ...set, lens };
    for (const [x, y] of [
      [0, 0],
      [1919, 0],
      [0, 540],
      [960, 1079],
    ] as const) {
      // What has no place before the lens would come back elsewhere.
      const [u, v] = distort(...undistort(x, y, own), own);
      expect(Math.hypot(u - x, v - y)).toBeLessThan(0.01);
    }
  });
});

describe('shots thrown by dice', () => {
  it('repeat exactly by their number and differ from each other', async () => {
    const [a, again, b] = await Promise.all([diced(5, FILM, blank), diced(5, FILM, blank), diced(6, FILM, blank)]);
    const way = (s: typeof a): number[][] => [0, 20, 40].flatMap((n) => cornersAt(s, s.screens[0]!, n));
    expect(way(a)).toEqual(way(again));
    expect(way(a)).not.toEqual(way(b));
    expect(a.reference).toBe(again.reference);
  });
  it('have a screen before the camera whose reference frame shows it whole enough to drop corners on', async () => {
    for (let seed = 1; seed <= 40; seed++) {
      const s = await diced(seed, FILM, blank);
      const q = cornersAt(s, s.screens[0]!, s.reference) as unknown as Quad;
      expect(isConvex(q)).toBe(true);
      expect(
        q.filter(([x, y]) => x > -40 && y > -40 && x < FILM.width + 40 && y < FILM.height + 40).length,
      ).toBeGreaterThanOrEqual(3);
    }
  });
});

describe('a thrown device', () => {
  it('has a body behind its front, as deep as such devices are, which covers no glass', async () => {
    const { set, screens } = await thrown(7401, FILM, blank);
    const front = screens[0]!.place;
    const self = set.surfaces.findIndex((s) => s.place === front);
    const { origin, across, down } = front(3);
    const outwards = normalise(cross(down, across));
    const depths = set.surfaces.slice(1, self).map((s) => -dot(outwards, add(s.place(3).origin, origin, -1)));
    expect(depths).toHaveLength(6);
    for (const [i, depth] of depths.entries()) {
      expect(depth).toBeGreaterThan(0);
      // Back to front, so that what is nearer covers what is farther.
      if (i > 0) expect(depth).toBeLessThan(depths[i - 1]!);
    }
  });
  it.each(KINDS)('of kind $device, $width mm wide, is between a half and one and a half of its usual depth', (kind) => {
    for (let seed = 1; seed < 40; seed++) {
      const [deepest] = sliceDepths(() => seed / 40, kind);
      expect(deepest! / kind.depth).toBeGreaterThan(0.5);
      expect(deepest! / kind.depth).toBeLessThan(1.5);
    }
  });
});
