/** A pin that is set anew, and what was placed by hand. */
import { describe, expect, it } from 'vitest';
import { quadToQuad } from '@yarlop/core/geometry/homography';
import type { Quad } from '@yarlop/core/geometry/quad';
import { farthest, mapQuad } from '@yarlop/core/geometry/quad';
import { withPin } from '../src/edits/use-pin-edit';
import { followedApart } from '../src/follow/followed-apart';
import type { ScreenTrackState } from '../src/stores/tracks';
import type { Recipe } from '../src/types';

const PIN: Quad = [
  [100, 100],
  [300, 110],
  [290, 240],
  [95, 230],
];
const BY_HAND: Quad = [
  [140, 90],
  [350, 105],
  [345, 260],
  [130, 225],
];
const APART: Quad = [
  [150, 120],
  [420, 100],
  [400, 300],
  [140, 260],
];
const recipe = {
  format: 'yarlop-screen',
  version: 1,
  name: 'quay',
  referenceFrame: 0,
  pin: PIN,
} as unknown as Recipe;
const track = (area: Quad | null, outdated = false): ScreenTrackState => ({
  solveId: 1,
  outdated,
  stale: [],
  area,
  frames: new Map(),
  lens: 0,
  shutter: null,
  halted: [],
  scene: null,
});

describe('a pin that is set anew', () => {
  it('leaves the plane of what was placed by hand as it was, and is carried by it', () => {
    const placed = { ...recipe, hand: [{ frame: 7, corners: BY_HAND }] } as unknown as Recipe;
    const { pin, hand } = withPin(placed, APART as unknown as Recipe['pin']);
    expect(pin).toEqual(APART);
    const plane = quadToQuad(PIN, BY_HAND);
    expect(farthest(hand![0]!.corners as Quad, mapQuad(plane, APART))).toBeLessThan(1e-9);
    const [p, q] = [quadToQuad(pin as Quad, hand![0]!.corners as Quad), plane];
    for (const [i, v] of p.entries()) expect(v / p[8]!).toBeCloseTo(q[i]! / q[8]!, 9);
  });
  it('needs no hand', () => {
    expect(withPin(recipe, APART as unknown as Recipe['pin'])).toEqual({ ...recipe, pin: APART });
  });
});

describe('what is followed', () => {
  it('is told apart from the pin where it was dropped elsewhere', () => {
    expect(followedApart({ ...recipe, pin: APART } as unknown as Recipe, track(PIN))).toEqual(PIN);
  });
  it.each<[string, Recipe, ScreenTrackState | undefined]>([
    ['it is the pin', recipe, track(PIN)],
    [
      'the pin was nudged by a px',
      { ...recipe, pin: PIN.map(([x, y]) => [x + 1, y]) } as unknown as Recipe,
      track(PIN),
    ],
    ['nothing was followed', { ...recipe, pin: APART } as unknown as Recipe, undefined],
    ['it was followed otherwise', { ...recipe, pin: APART } as unknown as Recipe, track(PIN, true)],
  ])('is not where %s', (_, r, t) => expect(followedApart(r, t)).toBeNull());
  it('is the area that the recipe tells, whatever its outline', () => {
    const area = [...PIN.slice(0, 3), [150, 300], [80, 200]];
    expect(followedApart({ ...recipe, area } as unknown as Recipe, track(PIN))).toEqual(area);
  });
});
