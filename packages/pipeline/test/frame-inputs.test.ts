import { describe, expect, it } from 'vitest';
import { frameInputs, isSameInput, lastingOf } from '../src/frame-inputs';

const SPOT = { name: 'a', at: [10, 20] as [number, number] };
const outline = (dx: number): [number, number][] => [
  [dx, 0],
  [10 + dx, 0],
  [10 + dx, 8],
];

describe('what a frame is followed with', () => {
  it('is nothing of its own where the Screen has no spots and ignores nothing', () => {
    expect(frameInputs({ referenceFrame: 3 }, [])).toBeNull();
  });
  it('changes from a placed spot on, away from the reference, in both directions', () => {
    const of = (frame: number) => {
      const keys = [{ frame, at: [1, 2] as [number, number] }];
      return frameInputs({ referenceFrame: 5, spots: [{ ...SPOT, keys }] }, [])!;
    };
    const plain = frameInputs({ referenceFrame: 5, spots: [SPOT] }, [])!;
    const changed = (placed: number): number[] =>
      Array.from({ length: 12 }, (_, n) => n).filter((n) => !isSameInput(plain(n), of(placed)(n)));
    expect(changed(8)).toEqual([8, 9, 10, 11]);
    expect(changed(2)).toEqual([0, 1, 2]);
    expect(changed(5)).toEqual([...Array(12).keys()]);
  });
  it('is the same in whatever order frames are asked for', () => {
    const spots = [{ ...SPOT, path: [4, 6, 9].map((n): [number, number, number, number] => [n, n, n, 1]), to: 8 }];
    const [one, other] = [
      frameInputs({ referenceFrame: 5, spots }, [])!,
      frameInputs({ referenceFrame: 5, spots }, [])!,
    ];
    const all = Array.from({ length: 12 }, (_, n) => one(n));
    expect([11, 0, 7, 5, 9].map((n) => other(n))).toEqual([11, 0, 7, 5, 9].map((n) => all[n]));
  });
  it('goes by where what passes lies, to less than its margin', () => {
    const of = (dx: number) =>
      frameInputs({ referenceFrame: 0, ignores: ['hand'] }, [[{ frame: 2, points: outline(dx) }]])!;
    expect(isSameInput(of(0)(2), of(1)(2))).toBe(true);
    expect(isSameInput(of(0)(2), of(2)(2))).toBe(false);
    expect(isSameInput(of(0)(3), of(2)(3))).toBe(true);
    expect(isSameInput(of(0)(2), of(0)(3))).toBe(false);
  });
  it('of an earlier version, which kept none, is not doubted', () => {
    expect(isSameInput(null, { spots: 'x' })).toBe(true);
  });
});

describe('what lasts of spots', () => {
  it('is their place, box and reach; of one matched to placed frames those too', () => {
    const keys = [{ frame: 4, at: [1, 2] as [number, number] }];
    expect(lastingOf([{ ...SPOT, keys, from: 2, to: 9, path: [] }])).toEqual([SPOT]);
    expect(lastingOf([{ ...SPOT, keys, match: 'hand' }])).toEqual([{ ...SPOT, match: 'hand', keys }]);
  });
});
