/** What the Prove stage works out in the page: touch-ups made by moving corners, likenesses, curves, aids in words. */
import { describe, expect, it } from 'vitest';
import { mapPoint } from '../../core/src/geometry/homography';
import { IDENTITY } from '../../core/src/geometry/matrix3';
import type { Point } from '../../core/src/geometry/point';
import { mapQuad } from '../../core/src/geometry/quad';
import { correctedPin, correctionAt } from '../../core/src/solve/touch-up';
import { moved } from '../../core/test/builders/scene';
import { affineAround, lookFor } from '../src/corner-board/likeness';
import { seriesOf } from '../src/prove/curves';
import { changed, fadesFor, touchUpsOf, touchedTo, withMore, without } from '../src/edits/touch-up-edit';
import type { Recipe } from '../src/types';
import { rulingLines, vanishing } from '../src/viewer/ruling';
import { PLAIN, channelMatrix, describeAid, isPlain } from '../src/shared/view-aid';

const PIN = [
  [100, 100],
  [300, 110],
  [290, 240],
  [95, 230],
] as const;
const recipe = { format: 'yarlop-screen', version: 1, name: 'a', referenceFrame: 10, pin: PIN } as unknown as Recipe;
const plane = (n: number): number[] =>
  moved(PIN as never, { x: 3 * (n - 10), turn: 0.02 * (n - 10), tilt: 0.01 * (n - 10) });

describe('a corner that is moved where a track is proved', () => {
  it('lands where it was put, by a touch-up on that frame that fades to the reference', () => {
    const h = plane(18);
    const to: Point = [340, 150];
    const r = touchedTo(recipe, 18, h, [null, to, null, null]);
    const [t] = touchUpsOf(r);
    expect(t).toMatchObject({
      frame: 18,
      before: { frames: 8, shape: 'eased' },
      after: { frames: 24, shape: 'eased' },
    });
    const at = mapPoint(h, correctedPin(r.pin as never, r as never, 18)[1]);
    expect(at[0]).toBeCloseTo(340, 6);
    expect(at[1]).toBeCloseTo(150, 6);
    expect(correctionAt(r as never, 10)).toBeNull();
    expect(r.pin).toBe(recipe.pin);
  });
  it('changes the touch-up that is there, and leaves the other corners alone', () => {
    const first = touchedTo(recipe, 18, plane(18), [null, [340, 150], null, null]);
    const second = touchedTo(first, 18, plane(18), [null, [341, 150], null, null]);
    expect(touchUpsOf(second)).toHaveLength(1);
    expect(mapPoint(plane(18), correctedPin(second.pin as never, second as never, 18)[1])[0]).toBeCloseTo(341, 6);
    expect(touchUpsOf(second)[0]!.offsets[3]).toEqual([0, 0]);
  });
  it('between two others fades to both, and a muted one is no neighbour', () => {
    const r = withMore(recipe, [
      {
        frame: 20,
        offsets: [
          [1, 0],
          [0, 0],
          [0, 0],
          [0, 0],
        ],
        ...fadesFor(recipe, 20),
      },
      {
        frame: 30,
        muted: true,
        offsets: [
          [1, 0],
          [0, 0],
          [0, 0],
          [0, 0],
        ],
        ...fadesFor(recipe, 30),
      },
    ]);
    expect(fadesFor(r, 26)).toEqual({ before: { frames: 6, shape: 'eased' }, after: { frames: 24, shape: 'eased' } });
    expect(touchUpsOf(changed(r, 0, { frame: 40 })).map((t) => t.frame)).toEqual([30, 40]);
    expect(touchUpsOf(without(r, 0)).map((t) => t.frame)).toEqual([30]);
  });
});

describe('a likeness', () => {
  it('is the nearest frame on which that very corner was right', () => {
    const r = {
      ...recipe,
      likenesses: [
        { corner: 1, frame: 40, at: [320, 120] },
        { corner: 2, frame: 20, at: [5, 5] },
      ],
    } as Recipe;
    expect(lookFor(r, 1, 22)).toEqual({ frame: 10, at: [300, 110] });
    expect(lookFor(r, 1, 33)).toEqual({ frame: 40, at: [320, 120] });
  });
  it("is laid over a frame by the plane's own movement around the corner", () => {
    const to = plane(25);
    const there = mapPoint(to, PIN[0] as never);
    const [a, b, c, d, e, f] = affineAround(IDENTITY, to, PIN[0] as never, there);
    const near: Point = [PIN[0][0] + 3, PIN[0][1] - 2];
    const want = mapPoint(to, near);
    expect(Math.hypot(a * near[0] + c * near[1] + e - want[0], b * near[0] + d * near[1] + f - want[1])).toBeLessThan(
      0.05,
    );
  });
});

describe('curves', () => {
  const input = {
    from: 0,
    count: 4,
    corners: (n: number) => (n < 0 || n > 2 ? null : mapQuad(IDENTITY, PIN.map(([x, y]) => [x + n * n, y]) as never)),
    solved: (n: number) => ({ frame: n, trust: n / 4, sigma: [0.1, 0.2, 0.3, 0.4], blur: 2 }) as never,
    slips: new Map([[1, { frame: 1, by: [[3, 4], null, [0, 1], null] as never }]]),
    scale: 2,
  };
  it('tell slip, speed and acceleration at the size of a picture 1920 wide, and nothing where nothing is known', () => {
    expect(seriesOf('slip', input).map((s) => s.values[1])).toEqual([10, null, 2, null]);
    expect(seriesOf('speed', input)[0]!.values).toEqual([null, 4, null, null]);
    expect(seriesOf('acceleration', input)[0]!.values[1]).toBe(4);
    expect(seriesOf('path', input)).toHaveLength(8);
    expect(seriesOf('sigma', input)[3]!.values[0]).toBe(0.8);
    expect(seriesOf('trust', input)[0]!.values).toEqual([0, 0.25, 0.5, 0.75]);
    expect(seriesOf('blur', input)[0]!.values[0]).toBe(4);
  });
});

describe('view aids', () => {
  it('are named in words, and gone when all are plain', () => {
    expect(describeAid(PLAIN)).toBe('');
    expect(isPlain({ ...PLAIN, gamma: 1.2 })).toBe(false);
    expect(describeAid({ ...PLAIN, brighten: 2, channel: 'green', edges: true })).toBe('2.0x, green, edges');
  });
  it('read luma by the weights of Rec. ITU-R BT.709', () => {
    expect(channelMatrix('luma').startsWith('0.2126 0.7152 0.0722 0 0 0.2126')).toBe(true);
    expect(channelMatrix('all')).toBe('1 0 0 0 0 0 1 0 0 0 0 0 1 0 0 0 0 0 1 0');
  });
});

describe('the ruling', () => {
  it('runs through the corners, as far as it is asked to, and no farther than the horizon', () => {
    const near = rulingLines(PIN as never, 4, 0);
    const far = rulingLines(PIN as never, 4, 12);
    expect(near).toHaveLength(10);
    expect(far.length).toBeGreaterThan(40);
    expect(far.flat().flat().every(Number.isFinite)).toBe(true);
  });
  it('has its vanishing points where opposite sides meet', () => {
    const { across, down, horizon } = vanishing(PIN as never);
    const cross = (a: readonly number[], b: readonly number[], p: readonly number[]): number =>
      (b[0]! - a[0]!) * (p[1]! - a[1]!) - (b[1]! - a[1]!) * (p[0]! - a[0]!);
    expect(Math.abs(cross(PIN[0], PIN[1], across!)) / 1e4).toBeLessThan(1e-3 * Math.hypot(...across!));
    expect(Math.abs(cross(PIN[1], PIN[2], down!)) / 1e4).toBeLessThan(1e-3 * Math.hypot(...down!));
    expect(horizon).toEqual([across, down]);
    expect(
      vanishing([
        [0, 0],
        [10, 0],
        [10, 10],
        [0, 10],
      ]).horizon,
    ).toBeNull();
  });
});
