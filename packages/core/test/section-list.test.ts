import { describe, expect, it } from 'vitest';
import { joined, trimmed, withSettings, withoutSettings } from '../src/follow/outline/section-list';

interface Section {
  readonly from: number;
  readonly to: number;
  readonly motion?: string;
  readonly density?: string;
}
const motion =
  (value: string) =>
  (now: Partial<Section>): Omit<Section, 'from' | 'to'> => ({ ...now, motion: value });
const FEW: Section = { from: 10, to: 19, density: 'few' };

describe('settings for a span of frames', () => {
  it('make a section where there is none', () => {
    expect(withSettings([], { from: 5, to: 9 }, motion('affine'))).toEqual([{ from: 5, to: 9, motion: 'affine' }]);
  });
  it('split what lies across them, which keeps what it says otherwise', () => {
    expect(withSettings([FEW], { from: 14, to: 30 }, motion('affine'))).toEqual([
      { from: 10, to: 13, density: 'few' },
      { from: 14, to: 19, density: 'few', motion: 'affine' },
      { from: 20, to: 30, motion: 'affine' },
    ]);
  });
  it('within a section leave three parts of it', () => {
    expect(withSettings([FEW], { from: 12, to: 13 }, motion('still'))).toEqual([
      { from: 10, to: 11, density: 'few' },
      { from: 12, to: 13, density: 'few', motion: 'still' },
      { from: 14, to: 19, density: 'few' },
    ]);
  });
  it('that neighbours share join them', () => {
    const two = [
      { from: 0, to: 4, motion: 'affine' },
      { from: 8, to: 9, motion: 'affine' },
    ];
    expect(withSettings<Section>(two, { from: 5, to: 7 }, motion('affine'))).toEqual([
      { from: 0, to: 9, motion: 'affine' },
    ]);
  });
  it('set again change nothing, and the old list stays as it was', () => {
    const list = [FEW];
    const once = withSettings(list, { from: 14, to: 30 }, motion('affine'));
    expect(withSettings(once, { from: 14, to: 30 }, motion('affine'))).toEqual(once);
    expect(list).toEqual([FEW]);
  });
  it.each(Array.from({ length: 40 }, (_, seed) => seed))('say on each frame what was set there last (%i)', (seed) => {
    let state = seed + 1;
    const dice = (n: number): number => (state = (state * 48271) % 2147483647) % n;
    const truth = new Map<number, string>();
    let list: Section[] = [];
    for (let k = 0; k < 8; k++) {
      const from = dice(40);
      const span = { from, to: from + dice(12) };
      const value = ['affine', 'still', 'similarity'][dice(3)]!;
      list = withSettings(list, span, motion(value));
      for (let n = span.from; n <= span.to; n++) truth.set(n, value);
    }
    for (let n = 0; n < 60; n++) {
      const on = list.filter((s) => n >= s.from && n <= s.to);
      expect(on.length).toBeLessThan(2);
      expect(on[0]?.motion).toBe(truth.get(n));
    }
    expect(list.every((s, i) => i === 0 || s.from > list[i - 1]!.to)).toBe(true);
  });
});

describe('sections', () => {
  const two: Section[] = [FEW, { from: 25, to: 30, motion: 'still' }];
  it('are trimmed as far as their neighbours leave room', () => {
    expect(trimmed(two, 0, { from: 5, to: 28 })[0]).toEqual({ from: 5, to: 24, density: 'few' });
    expect(trimmed(two, 1, { from: 12, to: 28 })[1]).toEqual({ from: 20, to: 28, motion: 'still' });
  });
  it('are joined with what the first says, frames between among them', () => {
    expect(joined(two, 0)).toEqual([{ from: 10, to: 30, density: 'few' }]);
    expect(joined(two, 1)).toEqual(two);
  });
  it('lose a setting that holds everywhere, and go where they say nothing more', () => {
    expect(withoutSettings(two, ['density'])).toEqual([{ from: 25, to: 30, motion: 'still' }]);
  });
});
