import { describe, expect, it } from 'vitest';
import { boxFigures } from '../src/dress/colour/box-figures';

describe('the figures of a box', () => {
  it('are darkest, mean and brightest of each channel by itself', () => {
    const data = Uint8ClampedArray.from([10, 200, 30, 255, 50, 100, 0, 255, 0, 0, 60, 255]);
    expect(boxFigures({ width: 3, height: 1, channels: 4, data })).toEqual({
      darkest: [0, 0, 0],
      mean: [20, 100, 30],
      brightest: [50, 200, 60],
    });
  });
  it('count floats as they are, and are nothing for no pixel', () => {
    const data = Float32Array.from([-0.5, 2, 0.25, 0.5, 4, 0.75]);
    expect(boxFigures({ width: 2, height: 1, channels: 3, data })).toEqual({
      darkest: [-0.5, 2, 0.25],
      mean: [0, 3, 0.5],
      brightest: [0.5, 4, 0.75],
    });
    expect(boxFigures({ width: 0, height: 4, channels: 3, data })).toBeNull();
  });
});
