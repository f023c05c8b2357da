/** Screens on surfaces of the scene: where they lie, how far before their points, and what proportions they have. */
import { describe, expect, it } from 'vitest';
import { seenAt, viewsOfFile } from '../src/camera/file-views';
import { joinScene } from '../src/camera/scene-evidence';
import { pointsAbout, pointsOn, rectangleOn } from '../src/camera/surface';
import { planeOfPoints } from '../src/camera/points-plane';
import { flipped, placeOf } from '../src/camera/view-model';
import { along, cross, dot, unit } from '../src/geometry/vector3';
import type { Quad } from '../src/geometry/quad';
import { FRAMES, REFERENCE, truthOf, withPoints } from './builders/camera-file';

const RANGE = [0, FRAMES - 1] as const;
const ON_PLANE = Array.from({ length: 20 }, (_, i) => 100 + i);
const file = withPoints();
const view = viewsOfFile(file).get(REFERENCE)!;
/** A track of which nothing but the pin is known. */
const alone = (pin: Quad): Parameters<typeof joinScene>[0] => ({
  referenceFrame: REFERENCE,
  frames: [
    {
      frame: REFERENCE,
      corners: pin,
      homography: [1, 0, 0, 0, 1, 0, 0, 0, 1],
      sigma: [0.3, 0.3, 0.3, 0.3],
      trust: 1,
      evidence: { hand: 1 },
    },
  ],
});

describe('a plane that lies before its points', () => {
  const flat = joinScene(alone(truthOf(file, REFERENCE)), file, {
    range: RANGE,
    plane: { points: ON_PLANE },
  }).corners!.map((c) => flipped(c as [number, number, number]));
  const [a, b, , d] = flat as unknown as readonly [number[], number[], number[], number[]];
  const side = Math.hypot(...along(b, a, -1));
  const normal = unit(cross(along(b, a, -1), along(d, a, -1)));
  const towards = Math.sign(dot(normal, along(placeOf(view.view), a, -1)));
  const raised = flat.map((c) => along(c, normal, 0.1 * towards * side));
  const pin = raised.map((c) => seenAt(file, view, c)!) as unknown as Quad;
  function worst(offset?: number): number {
    const { frames } = joinScene(alone(pin), file, { range: RANGE, plane: { points: ON_PLANE, offset } });
    const misses = frames.flatMap((f) =>
      f.corners.map((p, k) => {
        const truth = seenAt(file, viewsOfFile(file).get(f.frame)!, raised[k]!)!;
        return Math.hypot(p[0] - truth[0], p[1] - truth[1]);
      }),
    );
    expect(frames.length).toBe(FRAMES);
    return Math.max(...misses);
  }
  it('carries a Screen as glass goes before a bezel, and not without being told', () => {
    // The share is of the side that the rays cut out of the points' own plane, which is a little longer.
    expect(worst(0.1)).toBeLessThan(0.15 * worst());
    expect(worst()).toBeGreaterThan(2);
  });
});

describe('a surface of the scene', () => {
  it('is the points about a click, and a rectangle on it is level and as large as they are spread', () => {
    const seen = pointsOn(file, view);
    expect(seen.length).toBeGreaterThan(25);
    const [a, , c] = truthOf(file, REFERENCE);
    const ids = pointsAbout(seen, [(a[0] + c[0]) / 2, (a[1] + c[1]) / 2], 12);
    expect(ids).toHaveLength(12);
    expect(ids.filter((id) => id >= 120).length).toBeLessThan(6);
    const pin = rectangleOn(
      file,
      view,
      ids.filter((id) => id < 120),
    )!;
    // Upright as a pin is, and no larger than what the points cover.
    expect(pin[1][0]).toBeGreaterThan(pin[0][0] + 20);
    expect(pin[3][1]).toBeGreaterThan(pin[0][1] + 20);
    expect(pin[2][0] - pin[0][0]).toBeLessThan(1.5 * (c[0] - a[0]));
    expect(rectangleOn(file, view, [100, 101])).toBeNull();
  });
  it.each([9 / 19.5, 16 / 10])('has the proportions of a device in the scene, not in the picture: %f', (ratio) => {
    const pin = rectangleOn(file, view, ON_PLANE, ratio)!;
    const eye = placeOf(view.view);
    const plane = planeOfPoints(file, ON_PLANE, eye)!;
    const { corners } = joinScene(alone(pin), file, { range: RANGE, plane: { points: ON_PLANE } });
    const [a, b, c] = corners!.map((p) => [...p]) as [number[], number[], number[]];
    const [width, height] = [Math.hypot(...along(b, a, -1)), Math.hypot(...along(c, b, -1))];
    expect(width / height).toBeCloseTo(ratio, 3);
    expect(dot(along(b, a, -1), along(c, b, -1)) / (width * height)).toBeCloseTo(0, 3);
    expect(plane.points).toHaveLength(20);
  });
});
