import { describe, expect, it } from 'vitest';
import fc from 'fast-check';
import { asLayers } from '../src/dress/content/as-layers';
import { coveringPicture } from '../src/dress/content/before-layers';
import { boxContour, movedBy, ovalContour, ring } from '../src/dress/content/contours';
import { coverOf } from '../src/dress/content/cover';
import { drawnLayer, layerCorners, layerMatrix } from '../src/dress/content/layer-parts';
import { layerPlane, numbersOfSeat } from '../src/dress/content/layer-plane';
import type { ContentLayer } from '../src/dress/content/layers';
import { isLayerShown, seatOf } from '../src/dress/content/layers';
import type { LetterOutlines } from '../src/dress/content/letters';
import { madeFrame, madeSize, makeFill } from '../src/dress/content/made-fill';
import { PIECES, clockAt } from '../src/dress/content/pieces';
import type { PieceKind } from '../src/dress/content/pieces';
import { wrapped } from '../src/dress/content/words';
import { fillPyramid } from '../src/dress/fill/fill-pyramid';
import type { LinearPicture } from '../src/dress/fill/fill-pyramid';
import { placed } from '../src/dress/shape/place-by-hand';
import { mapPoint } from '../src/geometry/homography';
import { distance } from '../src/geometry/point';
import type { Quad } from '../src/geometry/quad';
import { mean } from '../src/statistics';
import { painted } from './builders/picture';

/** Every letter is a square half a body wide: widths can be reckoned. */
const square: LetterOutlines = (text) => ({
  contours: [...text].map((_, i) => [[i / 2, -0.7], [i / 2 + 0.4, -0.7], [i / 2 + 0.4, 0], [i / 2, 0]]), // prettier-ignore
  width: text.length / 2,
});
const SIZE = [160, 100] as const;
const NO_PICTURES = { background: null, foreground: null, letters: square };

function drawn(
  layers: readonly ContentLayer[],
  frame = 0,
  pictures: Parameters<typeof makeFill>[3] = NO_PICTURES,
): LinearPicture {
  return makeFill({ ground: [0, 0, 0], layers }, frame, SIZE, pictures);
}
const pixel = ({ width, data }: LinearPicture, x: number, y: number): number[] => [
  ...data.subarray(4 * (y * width + x), 4 * (y * width + x) + 4),
];
/** How much of the content is light, px. */
const lit = ({ data }: LinearPicture): number => data.reduce((sum, v, i) => (i % 4 === 0 ? sum + v : sum), 0);

describe('shapes', () => {
  it('cover as much as they hold: pi r squared, and what a square with round corners has (textbook geometry)', () => {
    const area = (contours: Parameters<typeof coverOf>[0]): number =>
      coverOf(movedBy(contours as never, [50, 50], 80), { x: 0, y: 0, width: 100, height: 100 }).reduce(
        (a, b) => a + b,
        0,
      );
    expect(area([ovalContour(1, 1)]) / (Math.PI * 1600)).toBeCloseTo(1, 2);
    const r = 0.2;
    expect(area([boxContour(1, 0.5, r)]) / (6400 * (0.5 - (4 - Math.PI) * r * r))).toBeCloseTo(1, 2);
    expect(area(ring(ovalContour(1, 1), ovalContour(0.5, 0.5))) / (Math.PI * 1200)).toBeCloseTo(1, 2);
  });

  it('are filled whichever way they run, and left out where two run against each other', () => {
    const box = boxContour(1, 1, 0);
    const sum = (c: Parameters<typeof coverOf>[0]): number =>
      coverOf(movedBy(c as never, [20, 20], 30), { x: 0, y: 0, width: 40, height: 40 }).reduce((a, b) => a + b, 0);
    expect(sum([[...box].reverse()])).toBeCloseTo(sum([box]), 6);
    expect(sum([box, [...box].reverse()])).toBeCloseTo(0, 6);
  });
});

describe('layers', () => {
  it('lie over one another in their order, each in its own place', () => {
    const box = (x: number, colour: readonly [number, number, number]): ContentLayer => ({
      kind: 'shape',
      shape: 'box',
      width: 0.4,
      height: 0.4,
      x,
      y: 0.5,
      colour,
    });
    const picture = drawn([box(0.5, [1, 0, 0]), box(0.6, [0, 1, 0])]);
    expect(pixel(picture, 64, 50)).toEqual([1, 0, 0, 1]);
    expect(pixel(picture, 90, 50)).toEqual([0, 1, 0, 1]);
    expect(pixel(picture, 20, 50)).toEqual([0, 0, 0, 1]);
  });

  it('show between their frames, follow their keys, and keep their area when they turn', () => {
    const l: ContentLayer = {
      kind: 'shape',
      shape: 'box',
      width: 0.5,
      height: 0.2,
      from: 5,
      to: 20,
      turn: [
        { frame: 5, value: 0 },
        { frame: 15, value: 90 },
      ],
      opacity: [
        { frame: 5, value: 1 },
        { frame: 15, value: 0.5 },
      ],
    };
    expect([4, 5, 20, 21].map((f) => isLayerShown(l, f))).toEqual([false, true, true, false]);
    expect(lit(drawn([l], 4))).toBe(0);
    expect(lit(drawn([l], 5))).toBeCloseTo(1000, -1);
    expect(lit(drawn([l], 15))).toBeCloseTo(500, -1);
    expect(pixel(drawn([l], 15), 80, 30)[0]).toBeCloseTo(0.5, 5);
    expect(isLayerShown({ ...l, off: true }, 5)).toBe(false);
  });

  it('keep their look at every size of the content', () => {
    const layers: ContentLayer[] = [
      { kind: 'words', text: 'abc\nde', size: 0.2, x: 0.4, y: 0.4 },
      { kind: 'shape', shape: 'oval', width: 0.3, height: 0.2, line: 0.03, x: 0.7, y: 0.7 },
    ];
    const share = (k: number): number =>
      lit(makeFill({ ground: [0, 0, 0], layers }, 0, [160 * k, 100 * k], NO_PICTURES)) / (k * k);
    expect(share(3) / share(1)).toBeCloseTo(1, 1);
  });

  it('show pictures where they lie, turned and scaled', () => {
    const half = fillPyramid(painted(40, 40, (x, _y, c) => (x < 20 ? [255, 0, 0] : [0, 0, 255])[c]!));
    const at = (l: object, x: number, y: number): number[] =>
      pixel(
        drawn([{ kind: 'picture', media: 'x', size: 0.8, ...l } as ContentLayer], 0, {
          ...NO_PICTURES,
          layers: [half],
        }),
        x,
        y,
      );
    expect(at({}, 60, 50)).toEqual([1, 0, 0, 1]);
    expect(at({}, 100, 50)).toEqual([0, 0, 1, 1]);
    // A quarter clockwise takes the left half to the top.
    expect(at({ turn: 90 }, 80, 30)[0]).toBeCloseTo(1, 3);
    expect(at({ turn: 90 }, 80, 70)[2]).toBeCloseTo(1, 3);
    expect(at({ scale: 0.5 }, 45, 50)).toEqual([0, 0, 0, 1]);
    expect(at({ opacity: 0.25 }, 60, 50)[0]).toBeCloseTo(0.25, 5);
  });

  it('lose the colour of their key, its spill, and as much of the edge as they are told', () => {
    const green = [20, 200, 40];
    const person = fillPyramid(painted(40, 40, (x, _y, c) => (x < 20 ? green : [120, 180, 120])[c]!));
    const key = { colour: [20 / 255, 200 / 255, 40 / 255], gone: 0.4, solid: 0.7 } as const;
    const on = (more: object): LinearPicture =>
      drawn([{ kind: 'picture', media: 'x', size: 1, key: { ...key, ...more } }], 0, {
        ...NO_PICTURES,
        layers: [person],
      });
    expect(pixel(on({}), 50, 50)).toEqual([0, 0, 0, 1]);
    expect(pixel(on({}), 110, 50)[1]).toBeGreaterThan(pixel(on({}), 110, 50)[0]!);
    const [r, g] = pixel(on({ spill: 1 }), 110, 50);
    expect(g!).toBeCloseTo(r!, 5);
    // 50 thousandths of 100 px are 5.
    expect(pixel(on({ grow: -50 }), 83, 50)[0]).toBeCloseTo(0, 3);
    expect(pixel(on({}), 83, 50)[0]).toBeGreaterThan(0.1);
    const soft = on({ softness: 80 });
    expect(pixel(soft, 80, 50)[0]! / pixel(soft, 118, 50)[0]!).toBeGreaterThan(0.2);
    expect(pixel(soft, 80, 50)[0]! / pixel(soft, 118, 50)[0]!).toBeLessThan(0.8);
  });

  it('take hold by handles: what is dragged comes along, whatever they are turned and scaled by', () => {
    const number = (min: number, max: number): fc.Arbitrary<number> => fc.double({ min, max, noNaN: true });
    fc.assert(
      fc.property(
        number(0.1, 0.9),
        number(-170, 170),
        number(0.3, 3),
        number(-0.3, 0.3),
        number(-0.3, 0.3),
        (x, turn, scale, dx, dy) => {
          const l: ContentLayer = { kind: 'shape', shape: 'box', width: 0.6, height: 0.3, x, y: 0.4, turn, scale };
          const plane = layerPlane({ width: 0.6, height: 0.3 }, 1.6);
          const n = numbersOfSeat(seatOf(l, 0));
          const moved = placed(plane, n, { does: 'move', at: [0.5, 0.5] }, [[0, 0], [dx, dy]]).numbers; // prettier-ignore
          const middle = mapPoint(plane.frame(moved), [0.5, 0.5]);
          expect(distance(middle, [1.6 * x + dx, 0.4 + dy])).toBeLessThan(1e-9);
          // The frame of the handles is what is drawn.
          const corners = layerCorners({ width: 0.6, height: 0.3 }, layerMatrix(seatOf(l, 0), 1.6));
          expect(distance(mapPoint(plane.frame(n), [1, 1]), corners[2])).toBeLessThan(1e-9);
        },
      ),
    );
  });
});

describe('words', () => {
  it('are broken where they would be wider, and nowhere else', () => {
    const hand = { letters: square, font: 'sans', size: 1 } as const;
    expect(wrapped('aa bb cc', 2.5, hand)).toEqual(['aa bb', 'cc']);
    expect(wrapped('aa\nbb cc', 9, hand)).toEqual(['aa', 'bb cc']);
    expect(wrapped('abcdefgh i', 1, hand)).toEqual(['abcdefgh', 'i']);
  });
});

describe('pieces', () => {
  const kinds = Object.keys(PIECES) as PieceKind[];
  const piece = (kind: PieceKind, more: object = {}): ContentLayer => ({
    kind: 'piece',
    piece: kind,
    size: 0.5,
    ...more,
  });
  it.each(kinds)('%s draws within its own frame, whatever is written in it', (kind) => {
    fc.assert(
      fc.property(fc.string({ maxLength: 200 }), fc.double({ min: 0, max: 40, noNaN: true }), (text, amount) => {
        const fields = Object.fromEntries(PIECES[kind].fields.map((f) => [f.id, text]));
        const { width, height, parts } = drawnLayer(piece(kind, { fields, amount }), 3, square, 1);
        const all = parts.flatMap((p) => p.contours.flat());
        expect(all.every(([x, y]) => Number.isFinite(x) && Number.isFinite(y))).toBe(true);
        // A line of a chat rises from below its frame; all else stays in it, but for what a cut-off line may stand out.
        expect(Math.max(0, ...all.map(([x]) => Math.abs(x)))).toBeLessThan(width / 2 + 0.35 * height);
      }),
      { numRuns: 40 },
    );
  });

  it('show how far they are', () => {
    const light = (kind: PieceKind, amount: number): number =>
      lit(drawn([piece(kind, { amount, paper: [0, 0, 0], ink: [0, 0, 0], colour: [1, 0, 0] })]));
    for (const kind of ['how-far', 'battery'] as const) {
      const steps = [0, 0.25, 0.5, 0.75, 1].map((a) => light(kind, a));
      expect([...steps].sort((a, b) => a - b)).toEqual(steps);
      expect(steps[4]!).toBeGreaterThan(2 * steps[1]!);
    }
  });

  it('say one line of a chat after the other; between two, the next one rises', () => {
    const rows = (amount: number): number =>
      drawnLayer(piece('chat', { fields: { lines: '< a\n> b\n\n< c' }, amount }), 0, square, 1).parts.length / 2;
    expect([0, 1, 2.5, 3, 9].map(rows)).toEqual([0, 1, 3, 3, 3]);
    const lowest = (amount: number): number => {
      const { parts } = drawnLayer(piece('chat', { fields: { lines: 'a\nb' }, amount }), 0, square, 1);
      return mean(parts.at(-2)!.contours[0]!.map(([, y]) => y));
    };
    expect(lowest(1.1)).toBeGreaterThan(lowest(1.9));
  });

  it('tell the time of day', () => {
    expect(clockAt('07:42', 0)).toBe('07:42');
    expect(clockAt('07:42', 60 * 20)).toBe('08:02');
    expect(clockAt('23:59:30', 45)).toBe('00:00:15');
    expect(clockAt('00:00', -60)).toBe('23:59');
    expect(clockAt('soon', 0)).toBe('00:00');
  });
});

describe('what was made up in a slot before', () => {
  it('looks the same in layers: its lines, by whichever end they stand, and the keyed clip before it', () => {
    const person = fillPyramid(painted(20, 20, (x, _y, c) => (x < 10 ? [20, 200, 40] : [255, 0, 0])[c]!));
    const moving = [{ frame: 0, value: 0.3 }, { frame: 10, value: 0.6 }]; // prettier-ignore
    const made = {
      ground: [0.1, 0.2, 0.3],
      foreground: {
        media: 'x',
        scale: 0.5,
        x: 0.3,
        key: { colour: [20 / 255, 200 / 255, 40 / 255], gone: 0.3, solid: 0.6 },
      },
      lines: [
        { text: 'ab', size: 0.2, y: 0.9 },
        { text: 'abc', size: 0.15, x: moving, y: 0.3, align: 'left', colour: [1, 0, 0] },
        { text: 'abcd', size: 0.1, x: 0.9, y: 0.6, align: 'right', opacity: 0.5 },
      ],
    } as const;
    const layers = asLayers(made, square, 1.6);
    expect(layers.layers!.map((l) => l.kind)).toEqual(['picture', 'words', 'words', 'words']);
    for (const frame of [0, 4, 10]) {
      const before = makeFill(made, frame, SIZE, { ...NO_PICTURES, foreground: person });
      const after = makeFill(layers, frame, SIZE, { ...NO_PICTURES, layers: [person] });
      const off = before.data.map((v, i) => Math.abs(v - after.data[i]!));
      expect(Math.max(...off)).toBeLessThan(1e-5);
    }
  });
  it('covers the content with its background, cut at both ends', () => {
    expect(coveringPicture('x', { picture: 2, content: 1.6 }).size).toBe(1);
    expect(coveringPicture('x', { picture: 0.8, content: 1.6 }).size).toBe(2);
  });
});

describe('made-up content on a Screen', () => {
  const pin: Quad = [[0, 0], [300, 0], [300, 100], [0, 100]]; // prettier-ignore
  it('is made in its own proportions, no smaller than the slot asks', () => {
    expect(madeSize(pin)).toEqual([450, 150]);
    expect(madeSize(pin, { proportions: 1.5 })).toEqual([450, 300]);
    expect(madeSize(pin, { proportions: 6 })).toEqual([900, 150]);
  });
  it('begins where the slot says, if it is a document', () => {
    expect(madeFrame({ start: 12 }, 20)).toBe(20);
    expect(madeFrame({ content: {}, start: 12 }, 20)).toBe(8);
    expect(madeFrame({ content: {} }, 20)).toBe(20);
  });
});
