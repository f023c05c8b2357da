import { describe, expect, it } from 'vitest';
import { Follower } from '../src/follow/follower';
import { distance } from '../src/geometry/point';
import { mapQuad } from '../src/geometry/quad';
import { greyOf, lightOf, toGrey } from '../src/image/light';
import type { DeviceOptions } from './builders/device';
import { GLASS, SETUP, device } from './builders/device';
import { moved, renderOpen, srgbLight, waves } from './builders/scene';

describe('light and grey', () => {
  it('keeps within 0.4 % of white to the curve of sRGB (IEC 61966-2-1)', () => {
    for (let grey = 0; grey <= 255; grey++) expect(Math.abs(lightOf(grey) - srgbLight(grey))).toBeLessThan(0.004 * 255);
  });
  it('comes back to the grey that it was made of', () => {
    const greys = Float32Array.from({ length: 1021 }, (_, i) => i / 4);
    const back = greys.map(lightOf);
    toGrey(back);
    for (const [i, grey] of greys.entries()) expect(Math.abs(back[i]! - grey)).toBeLessThan(0.1);
    expect(greyOf(lightOf(128))).toBeCloseTo(128, -1);
  });
  it('keeps to what a plate can hold', () => {
    const light = Float32Array.of(-3, 300);
    toGrey(light);
    expect(light[0]).toBeCloseTo(0, 5);
    expect(light[1]).toBeCloseTo(255, 3);
  });
});

/** A bright picture in a dark bezel that moves ever faster, the reference already, with a shutter open for so long. */
function errorsWith(shutter: number, glassGrey: DeviceOptions['glassGrey']): { errors: number[]; share: number } {
  const scene = device(
    { bezel: 14, glassGrey, bezelGrey: 12, behind: 120 },
    { width: 540, homography: (n) => moved(GLASS, { x: 8 * n + 0.9 * n * n, y: 3 * n, scale: 1 + 0.01 * n }) },
  );
  const follower = new Follower(SETUP, 0, renderOpen(scene, 0, shutter));
  const errors = Array.from({ length: 10 }, (_, i) => {
    const { homography } = follower.step(i + 1, renderOpen(scene, i + 1, shutter));
    const truth = mapQuad(scene.homography(i + 1), GLASS);
    return Math.max(...mapQuad(homography!, GLASS).map((p, k) => distance(p, truth[k]!)));
  });
  return { errors, share: follower.shutterEstimate.share };
}

describe('a Screen that moves while the shutter is open', () => {
  const shows = waves(7, 10, 70);
  const picture = (x: number, y: number): number => 70 + 0.7 * shows(x, y);
  it('is followed by its picture, smeared in light, and tells how long the shutter is open', () => {
    const { errors, share } = errorsWith(0.3, picture);
    expect(Math.max(...errors)).toBeLessThan(0.3);
    expect(share).toBeGreaterThan(0.2);
    expect(share).toBeLessThan(0.4);
  });
  it('keeps learning of the shutter, whatever the first fast frame says', () => {
    const { errors, share } = errorsWith(0.85, picture);
    // Smears of up to 20 px on a Screen 200 px wide.
    expect(Math.max(...errors)).toBeLessThan(2.2);
    expect(share).toBeGreaterThan(0.7);
  });
  it('tells by its lines alone where it shows nothing', () => {
    const { errors, share } = errorsWith(0.25, 130);
    expect(Math.max(...errors)).toBeLessThan(0.5);
    expect(share).toBeGreaterThan(0.1);
    expect(share).toBeLessThan(0.4);
  });
});
