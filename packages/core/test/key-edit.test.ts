/** Keys that are moved, copied, deleted and eased, wherever they stand; what was not chosen stays. */
import { describe, expect, it } from 'vitest';
import type { ChosenKey } from '../src/dress/base/key-edit';
import {
  copiedKeys,
  easedKeys,
  keyTracks,
  movedKeys,
  pathId,
  valuedKeys,
  withoutKeys,
} from '../src/dress/base/key-edit';

const LAST = 40;
const dress = {
  levels: {
    gain: [
      { frame: 4, value: 1 },
      { frame: 10, value: 2, ease: 'hold' as const },
    ],
    lift: 0.1,
    measured: { from: 0, values: [1, 2] },
  },
  lights: [{ x: 0.5 }, { x: [{ frame: 10, value: 0.2 }] }],
  holdouts: [
    {
      kind: 'outline',
      points: [[0, 0]],
      keys: [
        { frame: 10, points: [[1, 1]] },
        { frame: 20, points: [[2, 2]] },
      ],
    },
  ],
};
const GAIN = ['levels', 'gain'];
const LIGHT = ['lights', 1, 'x'];
const SHAPE = ['holdouts', 0, 'keys'];
const on = (path: ChosenKey['path'], ...frames: number[]): ChosenKey[] => frames.map((frame) => ({ path, frame }));
const frames = (root: unknown, path: ChosenKey['path']): number[] =>
  keyTracks(root)
    .find((t) => pathId(t.path) === pathId(path))!
    .keys.map((k) => k.frame);

describe('keys of a dress', () => {
  it('are found wherever they stand; steady values, lists and what is measured have none', () => {
    expect(keyTracks(dress).map((t) => t.path)).toEqual([GAIN, LIGHT, SHAPE]);
    expect(keyTracks(undefined)).toEqual([]);
  });

  it('of several values are moved together, and everything else stays the very same', () => {
    const moved = movedKeys(dress, [...on(GAIN, 10), ...on(LIGHT, 10), ...on(SHAPE, 10)], 5, LAST);
    expect(frames(moved, GAIN)).toEqual([4, 15]);
    expect(frames(moved, LIGHT)).toEqual([15]);
    expect(frames(moved, SHAPE)).toEqual([15, 20]);
    expect(moved.holdouts[0]!.keys[0]!.points).toBe(dress.holdouts[0]!.keys[0]!.points);
    expect(moved.lights[0]).toBe(dress.lights[0]);
    expect(frames(dress, GAIN)).toEqual([4, 10]);
    expect(Object.keys(moved.levels)).toEqual(Object.keys(dress.levels));
  });

  it('stay in the shot, keep their distances, and take the place of a key that they come upon', () => {
    expect(frames(movedKeys(dress, on(GAIN, 4, 10), -30, LAST), GAIN)).toEqual([0, 6]);
    expect(frames(movedKeys(dress, on(GAIN, 4, 10), 99, LAST), GAIN)).toEqual([34, 40]);
    const upon = movedKeys(dress, on(GAIN, 4), 6, LAST);
    expect(upon.levels.gain).toEqual([{ frame: 10, value: 1 }]);
    // Past the other: in rising order again.
    expect(movedKeys(dress, on(GAIN, 4), 9, LAST).levels.gain.map((k) => k.value)).toEqual([2, 1]);
  });

  it('are copied from a frame on, and those beyond the shot are left out', () => {
    const copied = copiedKeys(dress, on(GAIN, 4, 10), 30, LAST);
    expect(frames(copied, GAIN)).toEqual([4, 10, 30, 36]);
    expect(copied.levels.gain[3]).toEqual({ frame: 36, value: 2, ease: 'hold' });
    expect(frames(copiedKeys(dress, on(GAIN, 4, 10), 38, LAST), GAIN)).toEqual([4, 10, 38]);
  });

  it('are deleted; a number without keys is steady, a shape without keys is the outline itself', () => {
    expect(frames(withoutKeys(dress, on(GAIN, 4)), GAIN)).toEqual([10]);
    expect(withoutKeys(dress, on(GAIN, 4, 10)).levels.gain).toBe(1);
    expect(withoutKeys(dress, on(SHAPE, 10, 20)).holdouts[0]).toEqual({ kind: 'outline', points: [[0, 0]] });
  });

  it('are eased, numbers and shapes alike; only numbers take a value', () => {
    const eased = easedKeys(dress, [...on(GAIN, 4), ...on(SHAPE, 10)], 'eased');
    expect(eased.levels.gain[0]).toEqual({ frame: 4, value: 1, ease: 'eased' });
    expect(eased.holdouts[0]!.keys[0]).toEqual({ ...dress.holdouts[0]!.keys[0], ease: 'eased' });
    expect(eased.holdouts[0]!.keys[1]).toBe(dress.holdouts[0]!.keys[1]);
    expect(valuedKeys(dress, on(SHAPE, 10), 3).holdouts[0]!.keys).toEqual(dress.holdouts[0]!.keys);
    expect(valuedKeys(dress, on(LIGHT, 10), 0.7).lights[1]!.x).toEqual([{ frame: 10, value: 0.7 }]);
  });

  it('that are not there any more change nothing', () => {
    expect(movedKeys(dress, on(GAIN, 5), 1, LAST)).toBe(dress);
    expect(withoutKeys(dress, on(['levels', 'lift'], 5))).toBe(dress);
  });
});
