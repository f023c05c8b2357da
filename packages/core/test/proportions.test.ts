/** A Screen's own proportions, however it is tipped: against rectangles drawn by a pinhole camera. */
import { describe, expect, it } from 'vitest';
import { keptProportions, slotAspect } from '../src/dress/shape/placement';
import { projectCorners } from '../src/geometry/pose';
import { DEVICE_SHAPES, deviceOf, proportionsOf } from '../src/pin/proportions';

const PICTURE = { width: 1920, height: 1080 };

/** A rectangle turned about the upright and the lying axis (rad), before a lens of that focal length, picture widths. */
function seen(ratio: number, [upright, lying]: readonly [number, number], focal: number) {
  const [c, s] = [Math.cos(upright), Math.sin(upright)];
  const [k, t] = [Math.cos(lying), Math.sin(lying)];
  const rotation = [c, s * t, s * k, 0, k, -t, -s, c * t, c * k];
  return projectCorners({ ...PICTURE, focal }, { rotation, centre: [0.1, -0.05, 3] }, ratio);
}

describe('proportions of a Screen', () => {
  it.each([
    [9 / 19.5, 0, 0.9],
    [16 / 10, 0.8, 0.3],
    [4 / 3, -0.6, -0.7],
  ])('of %d by height are told behind a known lens, tipped by %d and %d', (ratio, upright, lying) => {
    const pin = seen(ratio, [upright, lying], 1.1);
    expect(proportionsOf(pin, PICTURE, 1.1)).toBeCloseTo(ratio, 6);
    // As it looks it is foreshortened.
    expect(Math.abs(slotAspect(pin) / ratio - 1)).toBeGreaterThan(0.04);
  });
  it('are told well enough behind a usual lens to see whether a fill was made for them', () => {
    for (const focal of [0.9, 1.3, 2]) {
      const told = proportionsOf(seen(16 / 10, [0.35, 0.2], focal), PICTURE);
      expect(keptProportions(16 / 10, told)).toBeNull();
      expect(keptProportions(4 / 3, told)).toEqual({ fit: 'cover', proportions: Number(told.toFixed(3)) });
    }
  });
  it('that were typed count instead of what the pin looks like', () => {
    const pin = seen(16 / 10, [0.8, 0], 1.3);
    expect(slotAspect(pin, { proportions: 1.6 })).toBe(1.6);
    expect(slotAspect(pin, {})).toBe(slotAspect(pin));
  });
});

describe('the kind of device', () => {
  it.each(DEVICE_SHAPES)('of $name is told by its proportions', ({ device, ratio }) =>
    expect(deviceOf(ratio)).toBe(device),
  );
  it('of a panel as wide as it is high is a tablet, and of a strip a phone', () => {
    expect(deviceOf(1)).toBe('tablet');
    expect(deviceOf(1 / 3)).toBe('phone');
  });
});
