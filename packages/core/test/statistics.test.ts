/** Order statistics against sorting, which is the textbook's own way. */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { mean, median, quantile, spread } from '../src/statistics';

/** Nought of either sign is one number. */
const finite = fc.array(
  fc.double({ noNaN: true, noDefaultInfinity: true }).map((v) => v + 0),
  { minLength: 1, maxLength: 200 },
);
const sorted = (values: readonly number[]): number[] => [...values].sort((a, b) => a - b);

describe('median and quantiles', () => {
  it('are those of the sorted list, and leave the list as it is', () => {
    fc.assert(
      fc.property(finite, fc.double({ min: 0, max: 1, noNaN: true }), (values, q) => {
        const before = [...values];
        expect(median(values)).toBe(sorted(values)[values.length >> 1]! + 0);
        expect(quantile(values, q)).toBe(sorted(values)[Math.floor(q * (values.length - 1))]! + 0);
        expect(values).toEqual(before);
      }),
    );
  });
  it('hold among many equal values', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: 3 }), { minLength: 1, maxLength: 2000 }), (values) => {
        expect(median(values)).toBe(sorted(values)[values.length >> 1]);
      }),
    );
  });
  it('take what is no number for more than any', () => {
    expect(median([NaN, 1, 2])).toBe(2);
    expect(median([NaN, NaN, 1])).toBeNaN();
    expect(quantile([NaN, 4, 3], 0)).toBe(3);
  });
  it('are no number for none', () => {
    expect(median([])).toBeNaN();
    expect(quantile([], 0.5)).toBeNaN();
    expect(mean([])).toBe(0);
  });
});

describe('so many of a list', () => {
  it('come from all over it, in its order', () => {
    expect(spread([0, 1, 2, 3, 4, 5, 6, 7], 4)).toEqual([0, 2, 4, 6]);
    expect(spread([0, 1], 4)).toEqual([0, 1]);
  });
});
