/** On which frames a Screen rests on the scene's camera. */
import { describe, expect, it } from 'vitest';
import type { ScreenFile } from '@yarlop/contracts/validate';
import { sceneFrames } from '../src/scene-frames';

const recipe = (own: Partial<ScreenFile> = {}): ScreenFile => ({
  format: 'yarlop-screen',
  version: 1,
  name: 'glass',
  referenceFrame: 0,
  pin: [
    [0, 0],
    [9, 0],
    [9, 9],
    [0, 9],
  ],
  ...own,
});
const on = (own: Partial<ScreenFile>, usual: boolean): number[] => {
  const rests = sceneFrames(recipe(own), usual);
  return Array.from({ length: 10 }, (_, n) => n).filter((n) => rests?.(n));
};

describe('a Screen', () => {
  it('rests on it where its recipe says so, else as is usual', () => {
    expect(sceneFrames(recipe(), false)).toBeNull();
    expect(on({}, true)).toHaveLength(10);
    expect(on({ scene: true }, false)).toHaveLength(10);
    expect(sceneFrames(recipe({ scene: false }), true)).toBeNull();
  });

  it('goes by its sections, and rests on nothing where it is not in the shot', () => {
    const sections: ScreenFile['sections'] = [{ from: 3, to: 5, scene: false }];
    expect(on({ scene: true, sections }, false)).toEqual([0, 1, 2, 6, 7, 8, 9]);
    expect(on({ sections: [{ from: 3, to: 5, scene: true }] }, false)).toEqual([3, 4, 5]);
    expect(on({ scene: true, sections, presence: [{ from: 2, to: 7 }] }, false)).toEqual([2, 6, 7]);
  });
});
