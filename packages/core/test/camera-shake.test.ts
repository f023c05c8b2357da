/** A camera that shakes: points that look alike are told apart by what moves about them, and rows go by the camera. */
import { describe, expect, it } from 'vitest';
import { commonMotion } from '../src/camera/common-motion';
import { isShaken, keyFrames } from '../src/camera/key-frames';
import { PointTracker } from '../src/camera/point-tracks';
import { turnsWithReadout, withRowsExpected } from '../src/camera/row-turning';
import { Sightings } from '../src/camera/sightings';
import { ROWS_AT, ROWS_EXPECTED_AT, atRow, isRolling, movedView, viewOfNothing } from '../src/camera/view-model';
import type { RawLuma } from '../src/image/image';
import { random, waves } from './builders/scene';

const WIDTH = 480;
const HEIGHT = 270;
/** Px between two keys that look nearly alike. */
const PITCH = 12;

describe('the movement that most points share', () => {
  const next = random(3);
  const inside = Array.from({ length: 60 }, () => ({ x: WIDTH * next(), y: HEIGHT * next() }));
  const truth = ({ x, y }: { x: number; y: number }): { x: number; y: number } => ({
    x: x + 14 + 0.02 * x - 0.01 * y,
    y: y - 9 + 0.015 * x + 0.01 * y,
  });
  it('is found among a third that have gone elsewhere', () => {
    const points = inside.map((from, i) => {
      const to = truth(from);
      return { from, to: i % 3 === 0 ? { x: to.x + PITCH, y: to.y } : to };
    });
    const found = commonMotion(points, WIDTH)!;
    for (const from of inside) {
      const [a, b] = [found(from), truth(from)];
      expect(Math.hypot(a.x - b.x, a.y - b.y)).toBeLessThan(0.6);
    }
  });
  it('is not told by fewer than eight points', () => {
    const seven = inside.slice(0, 7).map((from) => ({ from, to: truth(from) }));
    expect(commonMotion(seven, WIDTH)).toBeNull();
  });
});

describe('points on keys that look nearly alike', () => {
  /** A wall of soft patches, and before it a field of keys, each with a mark that is only a little its own. */
  const seed = random(11);
  const marks = Array.from({ length: 4096 }, () => seed());
  const wall = waves(5);
  function level(x: number, y: number): number {
    const isKeys = x > 160 && x < 320 && y > 90 && y < 170;
    if (!isKeys) return wall(x, y);
    const [col, row] = [Math.floor(x / PITCH), Math.floor(y / PITCH)];
    const [u, v] = [x - col * PITCH, y - row * PITCH];
    const isGap = u < 2 || v < 2;
    const mark = marks[(61 * row + col) % marks.length]!;
    return isGap ? 40 : 150 + 30 * mark * Math.sin(u / 2 + 6 * mark);
  }
  const shake = (n: number): [number, number] => [8 * Math.sin(1.83 * n) + 1.5 * n, 6 * Math.cos(1.83 * n)];
  function picture(n: number): RawLuma {
    const [dx, dy] = shake(n);
    const data = new Uint8Array(WIDTH * HEIGHT);
    for (let y = 0; y < HEIGHT; y++)
      for (let x = 0; x < WIDTH; x++) data[y * WIDTH + x] = Math.round(level(x + dx, y + dy));
    return { width: WIDTH, height: HEIGHT, data };
  }
  it('do not go over to the next key when the picture is shaken by more than one', () => {
    const tracker = new PointTracker();
    const frames = 14;
    for (let n = 0; n < frames; n++) tracker.add(picture(n));
    const offs = tracker.tracks.flatMap(({ first, places }) => {
      const [x0, y0] = shake(first);
      return Array.from({ length: places.length / 2 }, (_, i) => {
        const [dx, dy] = shake(first + i);
        return Math.hypot(places[2 * i]! - places[0]! + dx - x0, places[2 * i + 1]! - places[1]! + dy - y0);
      }).filter((off) => Number.isFinite(off));
    });
    expect(offs.length).toBeGreaterThan(500);
    expect(offs.filter((off) => off > 2).length).toBeLessThan(0.02 * offs.length);
  });
});

describe('a shot', () => {
  const next = random(5);
  const at = Array.from({ length: 40 }, () => [WIDTH * next(), HEIGHT * next()] as const);
  const shot = (way: (n: number) => number): Sightings => {
    const tracks = at.map(([x, y], id) => ({
      id,
      first: 0,
      places: Array.from({ length: 24 }, (_, n) => [x + way(n), y]).flat(),
    }));
    return new Sightings(tracks, { width: WIDTH, height: HEIGHT }, 24);
  };
  it('shakes where most points turn about on most frames, and not where they go fast and evenly', () => {
    expect(isShaken(shot((n) => 5 * Math.sin(1.83 * n) + 2 * n))).toBe(true);
    expect(isShaken(shot((n) => 12 * n))).toBe(false);
    expect(isShaken(shot((n) => 0.1 * n * n))).toBe(false);
  });
  it('has key frames as close as it is asked for, its first and last among them', () => {
    const still = shot(() => 0);
    const [usual, close] = [keyFrames(still), keyFrames(still, 5)];
    expect(close.length).toBeGreaterThan(1.5 * usual.length);
    for (const keys of [usual, close]) expect([keys[0], keys.at(-1)]).toEqual([0, 23]);
    expect(Math.max(...close.slice(1).map((k, i) => k - close[i]!))).toBeLessThanOrEqual(5);
  });
});

describe('rows of a camera that shakes', () => {
  const READOUT = 0.6;
  const AMPLITUDE = 0.008;
  /** a focal length that is off makes itself felt as rows that all turn alike */
  const BIAS = 0.012;
  const speed = (n: number): number => 1.83 * AMPLITUDE * Math.cos(1.83 * n);
  const views = new Map(
    Array.from({ length: 30 }, (_, n) => {
      const view = movedView(viewOfNothing(), [AMPLITUDE * Math.sin(1.83 * n), 0, 0, 0.01 * n, 0, 0]);
      view[ROWS_AT] = READOUT * speed(n) + BIAS;
      return [n, { view, focal: 2 }] as const;
    }),
  );
  it('are known by turning with it, whatever is the same on all frames', () => {
    expect(turnsWithReadout(views)).toBe(true);
    const still = new Map([...views].map(([n, { view }]) => [n, { view: turnedBack(view, n), focal: 2 }]));
    expect(turnsWithReadout(still)).toBe(false);
  });
  /** Its rows turned at random instead. */
  function turnedBack(view: Float64Array, n: number): Float64Array {
    const out = view.slice();
    out[ROWS_AT] = 0.01 * Math.sin(7.7 * n * n);
    return out;
  }
  it('are expected without what is the same on all frames', () => {
    const told = withRowsExpected(views);
    for (let n = 8; n < 22; n++) {
      const expected = told.get(n)!.view[ROWS_EXPECTED_AT]!;
      expect(Math.abs(expected - READOUT * speed(n))).toBeLessThan(0.002);
    }
  });
  it('bend within a frame as a view turned by itself does', () => {
    const view = viewOfNothing();
    expect(isRolling(view)).toBe(false);
    view[ROWS_AT + 3] = 0.02;
    expect(isRolling(view)).toBe(true);
    const direct = movedView(viewOfNothing(), [0.25 * 0.02, 0, 0, 0, 0, 0]);
    const row = atRow(view, 0.5);
    for (let k = 0; k < 9; k++) expect(row[k]).toBeCloseTo(direct[k]!, 12);
  });
});
