/** A Screen's recipe for another version of its plate. */
import { describe, expect, it } from 'vitest';
import { movedRecipe } from '../src/moved-recipe';
import { parseScreen } from '../src/screen-file';

const pin = [
  [120, 90],
  [300, 90],
  [300, 210],
  [120, 210],
];
const screen = parseScreen({
  format: 'yarlop-screen',
  version: 1,
  name: 'quay phone',
  referenceFrame: 5,
  pin,
  area: [
    [100, 80],
    [320, 80],
    [320, 230],
    [210, 260],
    [100, 230],
  ],
  patches: [
    {
      kind: 'ignore',
      points: [
        [10, 10],
        [40, 10],
        [40, 40],
      ],
      keys: [
        {
          frame: 8,
          points: [
            [20, 10],
            [50, 10],
            [50, 40],
          ],
        },
      ],
    },
  ],
  hand: [{ frame: 9, corners: pin }],
  presence: [{ from: 2, to: 30 }],
  dress: {
    holdouts: [
      {
        kind: 'found',
        found: { columns: 4, rows: 3, ring: 1, from: 2, masks: ['3 2', '', '4 1'], edge: 1, isEven: true },
      },
    ],
    retouches: [
      {
        kind: 'paint-out',
        from: 'beside',
        offset: [-30, 12],
        points: pin.slice(0, 3),
        handles: [
          [0, 0, 8, 4],
          [-8, -4, 0, 0],
          [0, 0, 0, 0],
        ],
        soft: [0, 6, 0],
        softness: [{ frame: 7, value: 4 }],
      },
      { kind: 'grade', points: pin, blur: 3, levels: { gain: 0.5 } },
      { kind: 'paint-out', from: 'frame', frame: 20, points: pin },
    ],
  },
});
const half = { offset: 4, scale: 0.5, frameCount: 60 };

describe('a recipe for a plate of half the size that begins four frames earlier', () => {
  const moved = movedRecipe(screen, half);

  it('has every place where the new plate shows it: pin, area, outlines, hand keys', () => {
    expect(moved.pin).toEqual(pin.map(([x, y]) => [x! / 2, y! / 2]));
    expect(moved.area).toEqual(screen.area!.map(([x, y]) => [x / 2, y / 2]));
    expect(moved.patches![0]!.points[1]).toEqual([20, 5]);
    expect(moved.patches![0]!.keys![0]).toMatchObject({
      frame: 12,
      points: [
        [10, 5],
        [25, 5],
        [25, 20],
      ],
    });
    expect(moved.hand).toEqual([{ frame: 13, corners: moved.pin }]);
  });

  it('retouches the same places from the same places', () => {
    const [beside, graded, other] = moved.dress!.retouches!;
    expect(beside).toMatchObject({
      offset: [-15, 6],
      handles: [
        [0, 0, 4, 2],
        [-4, -2, 0, 0],
        [0, 0, 0, 0],
      ],
      soft: [0, 3, 0],
      softness: [{ frame: 11, value: 2 }],
    });
    expect(graded).toMatchObject({ blur: 1.5, levels: { gain: 0.5 } });
    expect(other).toMatchObject({ frame: 24 });
    // What is taken from a frame that is gone goes too.
    expect(movedRecipe(screen, { ...half, frameCount: 22 }).dress!.retouches).toHaveLength(2);
  });

  it('keeps what was found to stand in front, on the frames that are left', () => {
    const found = (offset: number): object | undefined =>
      (movedRecipe(screen, { ...half, offset }).dress!.holdouts![0] as { found?: object }).found;
    expect(found(4)).toMatchObject({ columns: 4, ring: 1, from: 6, masks: ['3 2', '', '4 1'], edge: 1 });
    expect(found(-4)).toMatchObject({ from: 0, masks: ['4 1'] });
    expect(found(-5)).toMatchObject({ from: 0, masks: [''] });
  });

  it('counts its frames anew, and keeps what is no place', () => {
    expect(moved).toMatchObject({ referenceFrame: 9, presence: [{ from: 6, to: 34 }], name: 'quay phone', version: 1 });
  });

  it('is a recipe still', () => {
    expect(() => parseScreen(moved)).not.toThrow();
  });

  it('is refused with a sentence where the reference frame is not in the new plate', () => {
    expect(() => movedRecipe(screen, { ...half, offset: -6 })).toThrow(/reference frame/i);
    expect(() => movedRecipe(screen, { ...half, frameCount: 9 })).toThrow(/reference frame/i);
  });
});
