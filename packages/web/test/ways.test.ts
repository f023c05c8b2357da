import { describe, expect, it } from 'vitest';
import { withWays } from '../src/edits/use-ways';
import { wordsOf } from '../src/follow/section-words';
import type { Recipe } from '../src/types';

const RECIPE = {
  format: 'yarlop-screen',
  version: 1,
  name: 'quay',
  referenceFrame: 0,
  pin: [
    [0, 0],
    [9, 0],
    [9, 9],
    [0, 9],
  ],
} as unknown as Recipe;

describe('a change of how a Screen is followed', () => {
  it('over the whole shot is the Screen’s own, and sections say nothing else of it any more', () => {
    const cut = withWays(RECIPE, { from: 5, to: 9 }, { motion: 'affine', density: 'few' });
    const whole = withWays(cut, null, { motion: 'similarity' });
    expect(whole).toEqual({ ...RECIPE, motion: 'similarity', sections: [{ from: 5, to: 9, density: 'few' }] });
    expect(withWays(whole, null, { density: 'many' })).toEqual({ ...RECIPE, motion: 'similarity', density: 'many' });
  });
  it('from a frame on leaves the Screen’s own settings as they are', () => {
    const cut = withWays({ ...RECIPE, motion: 'affine' }, { from: 5, to: 9 }, { motion: 'still' });
    expect(cut).toEqual({ ...RECIPE, motion: 'affine', sections: [{ from: 5, to: 9, motion: 'still' }] });
  });
});

describe('a section in words', () => {
  it('names what differs, and no more', () => {
    const patch = { kind: 'ignore' as const, points: [] as never };
    expect(wordsOf({ from: 1, to: 2, patches: [patch], evidence: ['edges'] })).toBe('one outline, edges alone');
    expect(wordsOf({ from: 1, to: 2, motion: 'perspective', over: {} })).toBe('on the steadied plate, perspective');
    expect(wordsOf({ from: 1, to: 2, evidence: ['hand', 'spots'], lens: 0.1 })).toBe('hand,spots, lens 0.1');
  });
});
