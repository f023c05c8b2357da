/** A scene set into a world, and things that stand in it, on an invented room whose camera is known exactly. */
import { Quaternion, Vector3 } from 'three';
import { describe, expect, it } from 'vitest';
import type { CameraFile } from '../src/camera/camera-file';
import { seenAt, viewsOfFile } from '../src/camera/file-views';
import { oriented } from '../src/camera/oriented';
import { coneOn, rulingOn, standOn } from '../src/camera/proof-marks';
import { flipped } from '../src/camera/view-model';
import { cameraFile } from './builders/camera-file';
import { random } from './builders/scene';

/** Units below the first camera at the middle, and how the floor leans there. */
const FLOOR = { below: 1.3, leans: 0.12 };
const floorAt = (x: number, z: number): readonly [number, number, number] => [x, -FLOOR.below + FLOOR.leans * x, z];

/** Points 0 to 11 lie on the floor, 12 stands a unit above it. */
function room(): CameraFile {
  const dice = random(21);
  const floor = Array.from({ length: 12 }, () => floorAt(4 * dice() - 2, -3 - 4 * dice()));
  const up = new Vector3(-FLOOR.leans, 1, 0).normalize();
  const [x, y, z] = floorAt(0.3, -5);
  const above = [x + up.x, y + up.y, z + up.z] as const;
  const points = [...floor, above].map((position, id) => ({ id, position, frames: 20, error: 0.1 }));
  return { ...cameraFile(), points };
}
const GROUND = Array.from({ length: 12 }, (_, i) => i);

describe('a scene in a world', () => {
  it('has its ground level at height 0, its origin, and its true size', () => {
    const file = room();
    const placed = oriented(file, { ground: GROUND, origin: 3, length: { from: 3, to: 12, metres: 5 } });
    const at = (id: number): readonly number[] => placed.points[id]!.position;
    for (const id of GROUND) expect(at(id)[1]).toBeCloseTo(0, 9);
    at(3).forEach((v) => expect(v).toBeCloseTo(0, 9));
    expect(Math.hypot(...at(12).map((v, k) => v - at(3)[k]!))).toBeCloseTo(5, 9);
    // The camera stands above the ground, and what stands on it points up.
    expect(placed.frames[0]!.position[1]).toBeGreaterThan(0);
    expect(at(12)[1]).toBeGreaterThan(0);
  });

  it('is seen by its camera just as before: all is turned, moved and scaled together', () => {
    const file = room();
    const placed = oriented(file, { ground: GROUND, origin: 5, length: { from: 0, to: 1, metres: 2 } });
    for (const frame of [0, 14, 29]) {
      const before = viewsOfFile(file).get(frame)!;
      const after = viewsOfFile(placed).get(frame)!;
      file.points.forEach((p, i) => {
        const [a, b] = [
          seenAt(file, before, flipped(p.position))!,
          seenAt(placed, after, flipped(placed.points[i]!.position))!,
        ];
        expect(Math.hypot(a[0] - b[0], a[1] - b[1])).toBeLessThan(1e-6);
      });
    }
    // Every turn is the same one further: three.js says so of two frames.
    const turn = (f: CameraFile, n: number): Quaternion => new Quaternion(...f.frames[n]!.rotation);
    const [one, other] = [4, 20].map((n) => turn(placed, n).multiply(turn(file, n).invert()));
    expect(Math.abs(one!.dot(other!))).toBeCloseTo(1, 12);
  });

  it('is as it was where nothing is told, and says which points are wrong', () => {
    const file = room();
    expect(oriented(file, {}).points.map((p) => p.position)).toEqual(file.points.map((p) => p.position));
    expect(() => oriented(file, { origin: 77 })).toThrow('no point 77');
    expect(() => oriented(file, { length: { from: 2, to: 2, metres: 1 } })).toThrow('are one');
    const line = [0, 1, 2].map((i) => ({ id: 50 + i, position: [i, -1, -4] as const, frames: 9, error: 0.1 }));
    const flat = { ...file, points: [...file.points, ...line] };
    expect(() => oriented(flat, { ground: [50, 51, 52] })).toThrow('on a line');
  });
});

describe('things that stand in a scene', () => {
  it('are cones upright on the ground, as high as they should be', () => {
    const file = room();
    const view = viewsOfFile(file).get(6)!;
    const stand = standOn(file, GROUND)!;
    const foot = flipped(floorAt(0.3, -5));
    const cone = coneOn(file, view, stand, foot, 1)!;
    // The point that stands a unit above that place.
    const above = seenAt(file, view, flipped(file.points[12]!.position))!;
    expect(Math.hypot(cone.tip[0] - above[0], cone.tip[1] - above[1])).toBeLessThan(1e-6);
    const on = seenAt(file, view, foot)!;
    const middle = [0, 1].map((k) => cone.foot.reduce((s, p) => s + p[k]!, 0) / cone.foot.length);
    expect(Math.hypot(middle[0]! - on[0], middle[1]! - on[1])).toBeLessThan(3);
    // Nothing stands behind the camera.
    expect(coneOn(file, view, stand, [0, 1.3, -4], 1)).toBeNull();
  });

  it('are lines of a ruling that lie on the ground', () => {
    const file = room();
    const view = viewsOfFile(file).get(0)!;
    const lines = rulingOn(file, view, standOn(file, GROUND)!, 0.4);
    expect(lines.length).toBeGreaterThan(18);
    // Each is drawn below the horizon.
    const horizon = seenAt(file, view, flipped([0, -FLOOR.below, -1e6]))!;
    for (const [, y] of lines.flat()) expect(y).toBeGreaterThan(horizon[1] - 200);
    expect(standOn(file, [0, 1])).toBeNull();
  });
});
