import { createPinia, setActivePinia } from 'pinia';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { Quad } from '@yarlop/core/geometry/quad';
import { CutOuts } from '../src/pictures/cut-outs';
import { takenOf, windowAbout } from '../src/pictures/ride-window';
import type { LayerRequest } from '../src/shared/picture-request';
import { usePlayhead } from '../src/stores/playhead';
import { placeIn } from '../src/stores/ride';

const PLATE = [1920, 1080] as const;
const PIN: Quad = [
  [400, 300],
  [800, 320],
  [780, 620],
  [390, 600],
];

describe('the place that is ridden on', () => {
  it('is a corner, the middle of a side, or where the diagonals cross', () => {
    expect(placeIn(PIN, 'BR')).toEqual([780, 620]);
    expect(placeIn(PIN, 'top')).toEqual([600, 310]);
    expect(placeIn(PIN, 'left')).toEqual([395, 450]);
    const [x, y] = placeIn(PIN, 'middle');
    const cross = (a: readonly number[], b: readonly number[]): number =>
      (b[0]! - a[0]!) * (y - a[1]!) - (b[1]! - a[1]!) * (x - a[0]!);
    expect(Math.abs(cross(PIN[0], PIN[2]))).toBeLessThan(1e-6);
    expect(Math.abs(cross(PIN[1], PIN[3]))).toBeLessThan(1e-6);
  });
});

describe('the window', () => {
  it('lies about the place, a little larger than what is seen, in whole px', () => {
    expect(windowAbout([600.4, 310.2], [234.5, 131], PLATE)).toEqual({ x: 481, y: 243, width: 239, height: 135 });
  });
  it.each([
    ['the left and upper border', [2, 3] as const, { x: 0, y: 0 }],
    ['the right and lower border', [1919, 1079] as const, { x: 1920 - 239, y: 1080 - 135 }],
  ])('stays within the plate at %s', (_, place, corner) => {
    expect(windowAbout(place, [234.5, 131], PLATE)).toMatchObject(corner);
  });
  it('is no larger than the plate', () => {
    expect(windowAbout([5, 5], [9000, 9000], PLATE)).toEqual({ x: 0, y: 0, width: 1920, height: 1080 });
  });
});

describe('what is taken of the plate for a window', () => {
  const layer: LayerRequest = { corners: PIN, fill: { card: [64, 64], kind: 'survey', opacity: 1 } };
  const window = { x: 1000, y: 700, width: 100, height: 60 };
  const asked = { layers: [layer], show: 'dressed', transfer: 'srgb', window } as const;
  it('is the window alone where nothing is laid over the plate', () => {
    expect(takenOf({ ...asked, layers: [] }, PLATE)).toEqual(window);
  });
  it('holds the window and all of the Screen with what its dress reaches', () => {
    const bare = takenOf(asked, PLATE);
    expect(bare.x).toBeLessThan(390);
    expect(bare.y).toBeLessThan(300);
    expect(bare.x + bare.width).toBe(1100);
    expect(bare.y + bare.height).toBe(760);
    const soft = takenOf({ ...asked, layers: [{ ...layer, dress: { softness: { more: 6 } } }] }, PLATE);
    expect(soft.x).toBeLessThan(bare.x - 6);
  });
  it('is the whole plate where spill is taken everywhere', () => {
    const dress = { spill: { colour: [0, 1, 0] } };
    expect(takenOf({ ...asked, layers: [{ ...layer, dress }] }, PLATE)).toEqual({
      x: 0,
      y: 0,
      width: 1920,
      height: 1080,
    });
  });
});

describe('frames that are played round and round', () => {
  beforeEach(() => setActivePinia(createPinia()));
  it('are those of the span, from wherever playing begins, and the range again without it', () => {
    const playhead = usePlayhead();
    playhead.setup(100, 24);
    [playhead.from, playhead.to] = [10, 90];
    playhead.span = [40, 43];
    expect([40, 42, 43, 80].map((n) => playhead.next(n))).toEqual([41, 43, 40, 40]);
    playhead.span = null;
    expect(playhead.next(90)).toBe(10);
  });
});

describe('cut-outs', () => {
  const plate = { hash: 'a'.repeat(64), size: PLATE, frames: 30 };
  /** Frame f has rectangles of px that all hold f, then f + 100. */
  const wanted = (f: number) => [
    { x: f, y: 0, width: 2, height: 2 },
    { x: 1919, y: 1079, width: 3, height: 1 },
  ];
  interface Asked {
    readonly from: number;
    readonly width: number;
    readonly height: number;
    readonly each: number;
    readonly at: readonly { x: number; y: number }[];
  }
  let asked: Asked[];
  let signals: AbortSignal[];
  beforeEach(() => {
    [asked, signals] = [[], []];
    vi.stubGlobal('fetch', (_: string, init: { body: string; signal: AbortSignal }) => {
      const a = JSON.parse(init.body) as Asked;
      asked.push(a);
      signals.push(init.signal);
      const size = 3 * a.width * a.height;
      const data = new Uint8Array(size * a.at.length);
      a.at.forEach((_place, i) =>
        data.fill(a.from + Math.floor(i / a.each) + 100 * (i % a.each), i * size, (i + 1) * size),
      );
      return Promise.resolve(new Response(data));
    });
  });
  afterEach(() => vi.unstubAllGlobals());

  it('are fetched half a second at once, of one size and within the plate, and each frame gets its own', async () => {
    const cutOuts = new CutOuts();
    const [a, b] = await cutOuts.of(plate, 14, wanted);
    expect(asked).toHaveLength(1);
    expect(asked[0]).toMatchObject({ from: 12, width: 3, height: 2, each: 2 });
    expect(asked[0]!.at).toHaveLength(24);
    expect(asked[0]!.at[1]).toEqual({ x: 1917, y: 1078 });
    expect([a!.x, a!.y, a!.data.every((v) => v === 14)]).toEqual([14, 0, true]);
    expect([b!.x, b!.y, b!.data.every((v) => v === 114)]).toEqual([1917, 1078, true]);
    await cutOuts.of(plate, 20, wanted);
    expect(asked).toHaveLength(1);
  });
  it('end with the plate', async () => {
    await new CutOuts().of(plate, 29, wanted);
    expect(asked[0]).toMatchObject({ from: 24 });
    expect(asked[0]!.at).toHaveLength(12);
  });
  it('that are not wanted any more are not waited for', async () => {
    const cutOuts = new CutOuts();
    await cutOuts.of(plate, 3, wanted);
    cutOuts.clear();
    expect(signals[0]!.aborted).toBe(true);
    await cutOuts.of(plate, 3, wanted);
    expect(asked).toHaveLength(2);
  });
});
