import { describe, expect, it } from 'vitest';
import type { Proposal } from '@yarlop/core/dress/match';
import { withOutlineOf, withSettingsOf } from '../src/edits/copy-settings';
import { carriedOutline, freeName, holdoutOf } from '../src/edits/carried-outline';
import { matched } from '../src/edits/use-match';
import type { Recipe, Screen } from '../src/types';

const recipe = (own: object): Recipe =>
  ({
    format: 'yarlop-screen',
    version: 1,
    name: 'quay',
    referenceFrame: 0,
    pin: [
      [0, 0],
      [100, 0],
      [100, 50],
      [0, 50],
    ],
    ...own,
  }) as unknown as Recipe;
const triangle = (k: number): number[][] => [
  [10 * k, 10],
  [20 * k, 10],
  [20 * k, 20],
];

describe('what one Screen gives another', () => {
  it('is how it is followed: sections too, but no outlines, which lie elsewhere in the picture', () => {
    const source = recipe({
      motion: 'affine',
      lens: -0.1,
      patches: [{ kind: 'follow', points: triangle(1) }],
      sections: [
        { from: 2, to: 5, patches: [], evidence: ['edges'] },
        { from: 7, to: 9, patches: [] },
      ],
    });
    const target = recipe({ name: 'other', density: 'few', patches: [{ kind: 'ignore', points: triangle(1) }] });
    expect(withSettingsOf(target, source)).toEqual({
      ...recipe({ name: 'other', patches: target.patches }),
      motion: 'affine',
      lens: -0.1,
      sections: [{ from: 2, to: 5, evidence: ['edges'] }],
    });
  });
  it('is an outline at the same place within its pin, in all its shapes', () => {
    const wide = recipe({
      pin: [
        [0, 0],
        [200, 0],
        [200, 50],
        [0, 50],
      ],
    });
    const patch = { kind: 'ignore', points: triangle(1), keys: [{ frame: 4, points: triangle(2) }] } as never;
    const [copy] = withOutlineOf(wide, recipe({}), patch).patches!;
    expect(copy!.points[1]![0]).toBeCloseTo(40, 6);
    expect(copy!.keys![0]!.points[1]![0]).toBeCloseTo(80, 6);
    expect(copy!.points[1]![1]).toBeCloseTo(10, 6);
  });
});

describe('a dress that is matched', () => {
  it('takes what was measured, and keeps what a person set beside it', () => {
    const own = recipe({ dress: { grain: { amount: 2, measured: { size: 1 } }, softness: { more: 1 } } });
    const proposal = { part: 'grain', recipe: { grain: { measured: { size: 3 } } }, told: '' } as unknown as Proposal;
    expect(matched(own, [proposal]).dress).toEqual({
      grain: { amount: 2, measured: { size: 3 } },
      softness: { more: 1 },
    });
  });
});

describe('an outline of what passes in front', () => {
  const points = triangle(1) as unknown as readonly (readonly [number, number])[];
  const others = [{ recipe: recipe({ name: 'outline 1' }) }] as unknown as readonly Screen[];

  it('is followed by its picture, within the box about it, from the frame on which it was drawn', () => {
    const own = carriedOutline({ points }, 7, []);
    expect(own).toMatchObject({ name: 'outline 1', carried: true, referenceFrame: 7, evidence: ['texture'] });
    expect([own.pin[0], own.pin[2]]).toEqual([
      [10, 10],
      [20, 20],
    ]);
    expect(own.patches).toEqual([{ kind: 'follow', points }]);
  });
  it('has a name that no other has', () => {
    expect(carriedOutline({ points }, 0, others).name).toBe("outline 1'");
    expect(freeName('Screen 2', others)).toBe('Screen 2');
  });
  it('holds out what it was drawn about, on its own plane', () => {
    const own = carriedOutline({ points }, 0, []);
    expect(holdoutOf(own)).toEqual({ kind: 'outline', points, plane: 'outline 1', softness: 2 });
    expect(holdoutOf(recipe({}))).toBeNull();
  });
});
