/** What single pieces of evidence say, and how much of it is believed. */
import { describe, expect, it } from 'vitest';
import { senseCells } from '../src/follow/picture/cell-sensors';
import { cornerSigmas, inAll } from '../src/geometry/corner-information';
import { lightStep } from '../src/follow/edges/edge-profile';
import { lightOf } from '../src/image/light';
import { Follower } from '../src/follow/follower';
import { findRails } from '../src/follow/edges/rails';
import { followRegion } from '../src/follow/outline/region';
import type { FollowSetup } from '../src/follow/memory/follower-state';
import { smearBeyond } from '../src/follow/timing/shutter';
import { buildTemplate } from '../src/follow/picture/template';
import { distance } from '../src/geometry/point';
import type { Point } from '../src/geometry/point';
import type { Quad } from '../src/geometry/quad';
import { mapQuad } from '../src/geometry/quad';
import { buildPyramid } from '../src/image/pyramid';
import type { RawLuma } from '../src/image/image';
import { calibrate } from '../src/solve/rigid-screen';
import { moved, random, renderScene } from './builders/scene';

const setup = (pin: Quad): FollowSetup => ({
  pin,
  patches: [],
  motion: 'perspective',
  density: 'usual',
  evidence: ['texture', 'edges'],
});
const soft = (d: number): number => Math.min(1, Math.max(0, 0.5 + d));

describe('smear of a picture that is smeared already', () => {
  const by = (path: Point, own: Point): Point =>
    smearBeyond(
      () => path,
      () => own,
    )([0, 0]);
  it('is what is left of the squares along the path', () => {
    expect(by([5, 0], [3, 0])[0]).toBeCloseTo(4, 9);
    expect(by([3, 4], [0, 0])).toEqual([3, 4]);
    expect(by([6, 0], [0, 9])).toEqual([6, 0]);
    expect(by([2, 0], [5, 0])).toEqual([0, 0]);
  });
});

describe('what is known of the corners', () => {
  it('is less on a corner that moves, and as before on one that does not', () => {
    const information = new Float64Array(64);
    for (let i = 0; i < 8; i++) information[i * 9] = 1 / 0.1 ** 2;
    const [still, fast] = cornerSigmas(
      inAll(information, [
        [0, 0],
        [30, 40],
        [0, 0],
        [0, 0],
      ]),
      100,
    );
    expect(still).toBeCloseTo(0.115, 3);
    expect(fast).toBeCloseTo(Math.hypot(0.115, 0.5), 2);
  });
});

describe('light', () => {
  it('rises by a step of grey as the curve does', () => {
    for (const grey of [30, 90, 160, 230])
      expect(Math.abs(lightStep(lightOf(grey)) / (lightOf(grey + 0.5) - lightOf(grey - 0.5)) - 1)).toBeLessThan(0.12);
  });
});

describe('a cell around the pin', () => {
  /** A straight upright edge, with fine noise. */
  const picture = (): RawLuma => {
    const r = random(8);
    return {
      width: 240,
      height: 200,
      data: Uint8Array.from({ length: 240 * 200 }, (_, i) => 60 + 90 * soft((i % 240) - 119.5) + 4 * (r() - 0.5)),
    };
  };
  it('that holds only an edge tells nothing along it, unlike one that needs no proof', () => {
    const pin: Quad = [
      [60, 50],
      [180, 50],
      [180, 150],
      [60, 150],
    ];
    const region = followRegion(pin, [], { radial: 0, width: 240, height: 200 });
    const pyramid = buildPyramid(picture(), 1);
    const along = (onProbation: boolean): { across: number; along: number } => {
      const [level] = buildTemplate(pyramid, {
        region,
        count: 60,
        noise: 1,
        toReference: [1, 0, 0, 0, 1, 0, 0, 0, 1],
        trustBounds: region.bounds,
        probation: () => onProbation,
      }).levels;
      const { centre, halfSize } = buildTemplate(pyramid, {
        region,
        count: 60,
        noise: 1,
        toReference: [1, 0, 0, 0, 1, 0, 0, 0, 1],
        trustBounds: region.bounds,
        probation: () => onProbation,
      });
      const s = senseCells(level!, pyramid[0]!, [halfSize, 0, centre[0], 0, halfSize, centre[1], 0, 0, 1], false, 1);
      const sum = (k: number): number =>
        Array.from({ length: level!.cells }, (_, c) => s.information[3 * c + k]!).reduce((a, b) => a + b, 0);
      return { across: sum(0), along: sum(2) };
    };
    const free = along(false);
    const bound = along(true);
    expect(free.along).toBeGreaterThan(0);
    expect(bound.across / free.across).toBeCloseTo(1, 1);
    expect(bound.along).toBeLessThan(0.02 * free.along + 1e-9);
  });
});

describe('rails', () => {
  it('doubt a faint edge by more px than a strong one', () => {
    const pin: Quad = [
      [60, 50],
      [260, 50],
      [260, 180],
      [60, 180],
    ];
    const step = (x: number, y: number, rise: number): number =>
      90 + rise * Math.min(soft(x - 60), soft(260 - x), soft(y - 50), soft(180 - y));
    const doubt = (rise: number): number => {
      const luma: RawLuma = {
        width: 320,
        height: 240,
        data: Uint8Array.from({ length: 320 * 240 }, (_, i) => step((i % 320) + 0.5, Math.floor(i / 320) + 0.5, rise)),
      };
      return Math.max(...findRails(pin, buildPyramid(luma, 1)[0]!, []).map((r) => r.doubt));
    };
    expect(doubt(120)).toBeLessThan(0.05);
    expect(doubt(8)).toBeGreaterThan(5 * doubt(120));
  });
  it('of a bright rim around dark glass hold while bright and dark things pass behind it', () => {
    const device: Quad = [
      [100, 60],
      [330, 66],
      [324, 250],
      [104, 244],
    ];
    const glass: Quad = [
      [116, 76],
      [314, 81],
      [309, 235],
      [119, 229],
    ];
    const inset = (x: number, y: number): number =>
      Math.min(
        ...device.map((a, i) => {
          const b = device[(i + 1) % 4]!;
          const l = distance(a, b);
          return ((b[0] - a[0]) * (y - a[1]) - (b[1] - a[1]) * (x - a[0])) / l;
        }),
      );
    const o = {
      width: 480,
      height: 320,
      pin: device,
      homography: (n: number) => moved(device, { x: 7 * n, y: -3 * n, turn: 0.01 * n }),
      noise: 1,
      texture: (x: number, y: number) => 28 + 150 * (1 - soft(inset(x, y) - 3)),
      background: (x: number, y: number) => (x > 250 ? 165 : 45) + (y > 200 ? 40 : 0),
    };
    const f = new Follower(setup(glass), 0, renderScene(o, 0));
    for (let n = 1; n <= 12; n++) {
      const r = f.step(n, renderScene(o, n));
      expect(r.homography).not.toBeNull();
      mapQuad(r.homography!, glass).forEach((p, i) =>
        expect(distance(p, mapQuad(o.homography(n), glass)[i]!)).toBeLessThan(0.8),
      );
    }
  });
});

describe('stiffness', () => {
  it('learnt from one view holds views near it far tighter than views far off', () => {
    const information = new Float64Array(64);
    const still: Quad = [
      [700, 300],
      [1200, 310],
      [1190, 640],
      [705, 630],
    ];
    for (let i = 0; i < 8; i++) information[i * 9] = 1 / 0.1 ** 2;
    const rigid = calibrate([{ corners: still, information }], 1920, 1080)!;
    const spread = (by: number): number =>
      Math.max(
        ...rigid
          .constraints(still.map(([x, y]): Point => [x + by, y]) as unknown as Quad, 0)
          .map((c) => 1 / Math.sqrt(c.weight)),
      );
    expect(spread(6)).toBeLessThan(0.004);
    expect(spread(300)).toBeGreaterThan(4 * spread(6));
  });
});
