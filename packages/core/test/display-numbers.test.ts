import { describe, expect, it } from 'vitest';
import { levelsAt } from '../src/dress/colour/levels';
import { applyLook, lookAt } from '../src/dress/light/display-look';
import type { Quad } from '../src/geometry/quad';

const PIN: Quad = [
  [0, 0],
  [20, 0],
  [20, 10],
  [0, 10],
];

describe('sampled black and white', () => {
  it('change between their keys, each channel by itself', () => {
    const black = [
      [
        { frame: 0, value: 0 },
        { frame: 10, value: 0.1 },
      ],
      0.02,
      0,
    ] as const;
    const at = (frame: number) => levelsAt({ black, white: [1, 0.8, 1] }, frame, 24);
    expect(at(0).offset).toEqual([0, 0.02, 0]);
    expect(at(5).offset[0]).toBeCloseTo(0.05, 12);
    expect(at(99).offset[0]).toBeCloseTo(0.1, 12);
    // White stays what it is told: what is added to black is taken off the range.
    expect(at(5).offset[0] + at(5).matrix[0]!).toBeCloseTo(1, 12);
    expect(at(5).offset[1] + at(5).matrix[4]!).toBeCloseTo(0.8, 12);
  });
});

describe('noise of the panel', () => {
  const noise = (noiseSeed: number | undefined, frame: number): number[] => {
    const element = new Float32Array(20 * 10 * 4).fill(1);
    const look = lookAt({ noise: 0.2, ...(noiseSeed === undefined ? {} : { noiseSeed }) }, frame, 24)!;
    const region = { x: 0, y: 0, width: 20, height: 10 };
    applyLook(element, region, PIN, look, { width: 20, height: 10 }, 2, [0, 0, 0]);
    return [...element.filter((_, i) => i % 4 === 0)];
  };

  it('is another one by its seed and by its frame, and the same by the same', () => {
    expect(noise(3, 7)).toEqual(noise(3, 7));
    expect(noise(undefined, 7)).toEqual(noise(0, 7));
    expect(noise(3, 7)).not.toEqual(noise(4, 7));
    expect(noise(3, 7)).not.toEqual(noise(3, 8));
    const mean = noise(3, 7).reduce((a, b) => a + b, 0) / 200;
    expect(Math.abs(mean - 1)).toBeLessThan(0.03);
  });
});
