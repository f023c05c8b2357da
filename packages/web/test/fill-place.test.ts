/** Numbers that handles have changed, as they are written into a recipe. */
import { describe, expect, it } from 'vitest';
import type { Placement } from '@yarlop/core/dress/shape/placement';
import { numbersOf } from '@yarlop/core/dress/shape/place-by-hand';
import { withNumbers } from '../src/edits/use-fill-place';

const changed = (p: Placement, part: object): Placement =>
  withNumbers(p, 10, { ...numbersOf(p, 10), ...part }, numbersOf(p, 10));

describe('a fill placed by hand', () => {
  it('has the numbers that were changed, and no others', () => {
    expect(changed({}, { x: 0.12345678 })).toEqual({ x: 0.123457 });
    expect(changed({ fit: 'cover', turn: 3 }, {})).toEqual({ fit: 'cover', turn: 3 });
  });

  it('keeps one scale while width and height go together', () => {
    expect(changed({ scale: 2 }, { scale: 1.5, scaleY: 1.5 })).toEqual({ scale: 1.5 });
  });

  it('has a height of its own once one of them is changed alone', () => {
    expect(changed({ scale: 2 }, { scale: 1.5 })).toEqual({ scale: 1.5, scaleY: 2 });
    expect(changed({ scale: 2 }, { scaleY: 3 })).toEqual({ scale: 2, scaleY: 3 });
    expect(changed({ scale: 2, scaleY: 3 }, { scale: 1, scaleY: 1 })).toEqual({ scale: 1, scaleY: 1 });
  });

  it('sets a key on the frame where a value has keys', () => {
    const keys = [
      { frame: 0, value: 0 },
      { frame: 20, value: 1 },
    ];
    expect(changed({ x: keys, y: 0.5 }, { x: 0.7, y: 0.6 })).toEqual({
      x: [keys[0], { frame: 10, value: 0.7 }, keys[1]],
      y: 0.6,
    });
    // A height that went along with animated widths goes on from them.
    expect(changed({ scale: keys }, { scaleY: 2 })).toEqual({
      scale: keys,
      scaleY: [keys[0], { frame: 10, value: 2 }, keys[1]],
    });
  });
});
