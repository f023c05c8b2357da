/** Handles of a fill: what is dragged comes along, what should stay stays, and lines are met. Facts of plane geometry. */
import { describe, expect, it } from 'vitest';
import { random } from './builders/scene';
import type { FillPlane, Grip, PlacedNumbers } from '../src/dress/shape/place-by-hand';
import {
  SCALE_GRIPS,
  laidPlane,
  nudged,
  numbersOf,
  placed,
  slotPlane,
  unitsOf,
} from '../src/dress/shape/place-by-hand';
import type { Placement } from '../src/dress/shape/placement';
import { slotToFill } from '../src/dress/shape/placement';
import { mapPoint, unitSquareToQuad } from '../src/geometry/homography';
import { multiply, scaling } from '../src/geometry/matrix3';
import type { Point } from '../src/geometry/point';
import type { Quad } from '../src/geometry/quad';

const FILL = { width: 300, height: 200 };
const PLATE = { width: 640, height: 360 };
const PIN: Quad = [
  [200, 110],
  [440, 118],
  [432, 270],
  [192, 262],
];
const ASPECT = 1.6;
const dice = random(7);
const within = (a: number, b: number): number => a + (b - a) * dice();

function thrownNumbers(): PlacedNumbers {
  const at = { x: within(-0.4, 0.4), y: within(-0.4, 0.4), turn: within(-180, 180), shear: within(-0.5, 0.5) };
  return { ...at, scale: within(0.3, 2), scaleY: within(0.3, 2) };
}
/** Fills that lie in the slot in all ways, and one that is laid over the plate. */
const LAYINGS: readonly [string, (n: PlacedNumbers) => { plane: FillPlane; n: PlacedNumbers }][] = [
  ...(['stretch', 'contain', 'cover'] as const).map(
    (fit, i): [string, (n: PlacedNumbers) => { plane: FillPlane; n: PlacedNumbers }] => [
      `in the slot, ${fit}`,
      (n) => ({ plane: slotPlane({ fit, quarterTurns: i, crop: [10, 0, 30, 20] }, 0, FILL, ASPECT), n }),
    ],
  ),
  // A fill over the plate does not lean.
  ['over the plate', (n) => ({ plane: laidPlane({ lay: 'plate' }, 0, FILL, PIN, PLATE), n: { ...n, shear: 0 } })],
];
const near = (a: Point, b: Point, digits = 8): void => {
  expect(a[0]).toBeCloseTo(b[0], digits);
  expect(a[1]).toBeCloseTo(b[1], digits);
};
const on = (plane: FillPlane, n: PlacedNumbers, at: Point): Point => mapPoint(plane.frame(n), at);

describe.each(LAYINGS)('the handles of a fill %s', (_, lay) => {
  it('move it by as much as the pointer went', () => {
    for (let i = 0; i < 50; i++) {
      const { plane, n } = lay(thrownNumbers());
      const step: Point = [within(-2, 2), within(-2, 2)];
      const { numbers } = placed(plane, n, { does: 'move', at: [0.5, 0.5] }, [
        [0.2, 0.1],
        [0.2 + step[0], 0.1 + step[1]],
      ]);
      for (const at of SCALE_GRIPS)
        near(on(plane, numbers, at), [on(plane, n, at)[0] + step[0], on(plane, n, at)[1] + step[1]], 6);
      expect({ ...numbers, x: 0, y: 0 }).toEqual({ ...n, x: 0, y: 0 });
    }
  });

  it('scale it so that the grip comes along and what is opposite stays', () => {
    for (const at of SCALE_GRIPS) {
      const { plane, n } = lay(thrownNumbers());
      const grip: Grip = { does: 'scale', at };
      const opposite: Point = [1 - at[0], 1 - at[1]];
      // Half as far again from what stays.
      const [own, far] = [on(plane, n, at), on(plane, n, opposite)];
      const to: Point = [far[0] + 1.5 * (own[0] - far[0]), far[1] + 1.5 * (own[1] - far[1])];
      for (const apart of [false, true]) {
        const { numbers } = placed(plane, n, grip, [own, to], { apart });
        near(on(plane, numbers, opposite), far, 6);
        near(on(plane, numbers, at), to, 6);
        expect(numbers.scale / n.scale).toBeCloseTo(at[0] === 0.5 ? 1 : 1.5, 6);
        expect(numbers.scaleY / n.scaleY).toBeCloseTo(at[1] === 0.5 ? 1 : 1.5, 6);
      }
      const middle = placed(plane, n, grip, [own, to], { aboutMiddle: true }).numbers;
      near(on(plane, middle, [0.5, 0.5]), on(plane, n, [0.5, 0.5]), 6);
      near(on(plane, middle, at), to, 6);
    }
  });

  it('scale width and height of a corner together, unless they are told apart', () => {
    const { plane, n } = lay(thrownNumbers());
    const grip: Grip = { does: 'scale', at: [1, 1] };
    const own = on(plane, n, [1, 1]);
    const to: Point = [own[0] + 0.2, own[1] - 0.1];
    const together = placed(plane, n, grip, [own, to]).numbers;
    expect(together.scale / n.scale).toBeCloseTo(together.scaleY / n.scaleY, 9);
    const apart = placed(plane, n, grip, [own, to], { apart: true }).numbers;
    near(on(plane, apart, [1, 1]), to, 6);
  });

  it('keep a fill that is drawn together large enough to be taken again', () => {
    const { plane, n } = lay(thrownNumbers());
    const [own, far] = [on(plane, n, [1, 1]), on(plane, n, [0, 0])];
    const beyond: Point = [far[0] - (own[0] - far[0]), far[1] - (own[1] - far[1])];
    const { numbers } = placed(plane, n, { does: 'scale', at: [1, 1] }, [own, beyond]);
    expect([numbers.scale, numbers.scaleY]).toEqual([0.02, 0.02]);
  });

  it('turn it about its middle, by steps where they are asked for', () => {
    const { plane, n } = lay({ ...thrownNumbers(), turn: 20 });
    const grip: Grip = { does: 'turn', at: [0.5, 0] };
    const [own, middle] = [on(plane, n, [0.5, 0]), on(plane, n, [0.5, 0.5])];
    const by = (degrees: number): Point => {
      const a = (degrees * Math.PI) / 180;
      const [x, y] = [own[0] - middle[0], own[1] - middle[1]];
      return [middle[0] + Math.cos(a) * x - Math.sin(a) * y, middle[1] + Math.sin(a) * x + Math.cos(a) * y];
    };
    const free = placed(plane, n, grip, [own, by(33)]).numbers;
    expect(free.turn).toBeCloseTo(53, 6);
    near(on(plane, free, [0.5, 0.5]), middle, 6);
    expect(placed(plane, n, grip, [own, by(33)], { apart: true }).numbers.turn).toBe(60);
    expect(placed(plane, n, grip, [own, by(69.2)], { snap: 1 }).numbers.turn).toBe(90);
    expect(placed(plane, n, grip, [own, by(69.2)]).numbers.turn).toBeCloseTo(89.2, 6);
    expect(placed(plane, n, grip, [own, by(175)]).numbers.turn).toBeCloseTo(-165, 6);
  });

  it('move it by px of the picture, whatever the perspective', () => {
    const { plane, n } = lay(thrownNumbers());
    const toPicture = multiply(unitSquareToQuad(PIN), scaling(1 / ASPECT, 1));
    const before = mapPoint(toPicture, on(plane, n, [0.5, 0.5]));
    const after = mapPoint(toPicture, on(plane, nudged(plane, n, toPicture, [3, -2]), [0.5, 0.5]));
    near(after, [before[0] + 3, before[1] - 2], 5);
  });
});

describe('a fill in its slot', () => {
  it('has its frame where the renderer puts its corners', () => {
    for (const quarterTurns of [0, 1, 2, 3]) {
      const p: Placement = { x: 0.1, turn: 12, scale: 0.7, scaleY: 0.9, shear: 0.2, keystoneX: 0.3, quarterTurns };
      const frame = slotPlane(p, 0, FILL, ASPECT).frame(numbersOf(p, 0));
      const toFill = multiply(slotToFill(p, 0, FILL.width, FILL.height, ASPECT), scaling(1 / ASPECT, 1));
      const corners = [0, 2, 4, 6].map((i) => mapPoint(toFill, mapPoint(frame, SCALE_GRIPS[i]!)));
      const own = [
        [0, 0],
        [300, 0],
        [300, 200],
        [0, 200],
      ] as const;
      // A quarter to the right brings the fill's lower left to the upper left.
      corners.forEach((c, i) => near(c, own[(i - quarterTurns + 4) % 4]!, 6));
    }
  });

  it('leans so that the handle comes along and the middle stays', () => {
    const p: Placement = {};
    const plane = slotPlane(p, 0, FILL, ASPECT);
    const n = { ...numbersOf(p, 0), turn: 30, scale: 0.8, scaleY: 0.5 };
    const own = on(plane, n, [0.75, 0]);
    const along: Point = [Math.cos(Math.PI / 6), Math.sin(Math.PI / 6)];
    const to: Point = [own[0] + 0.1 * along[0], own[1] + 0.1 * along[1]];
    const { numbers } = placed(plane, n, { does: 'lean', at: [0.75, 0] }, [own, to]);
    near(on(plane, numbers, [0.75, 0]), to);
    near(on(plane, numbers, [0.5, 0.5]), on(plane, n, [0.5, 0.5]));
    // 0.1 heights to the right at a quarter of a height above the middle.
    expect(numbers.shear).toBeCloseTo(0.4, 9);
  });

  it('meets the middle and the sides of the slot when it comes near, and says by which line', () => {
    const plane = slotPlane({}, 0, FILL, ASPECT);
    const n = { ...numbersOf({}, 0), scale: 0.5, scaleY: 0.5, x: 0.3 };
    const drag = (x: number, snap: number) =>
      placed(
        plane,
        n,
        { does: 'move', at: [0.5, 0.5] },
        [
          [0, 0],
          [x * ASPECT, 0.2],
        ],
        { snap },
      );
    expect(drag(-0.29, 0.03).numbers.x).toBeCloseTo(0, 9);
    expect(drag(-0.29, 0.03).lines).toEqual([{ axis: 0, at: ASPECT / 2 }]);
    expect(drag(-0.04, 0.03).numbers.x).toBeCloseTo(0.25, 9);
    expect(drag(-0.04, 0.03).lines).toEqual([{ axis: 0, at: ASPECT }]);
    expect(drag(-0.29, 0)).toEqual({ numbers: expect.objectContaining({ x: n.x - 0.29 }) as unknown, lines: [] });
    // A side that is scaled ends at the slot's.
    const side: Grip = { does: 'scale', at: [1, 0.5] };
    const own = on(plane, n, side.at);
    const { numbers, lines } = placed(plane, n, side, [own, [ASPECT - 0.01, own[1]]], { snap: 0.03 });
    expect(on(plane, numbers, side.at)[0]).toBeCloseTo(ASPECT, 9);
    expect(lines).toEqual([{ axis: 0, at: ASPECT }]);
    // One that is turned has no side along the slot's.
    const tilted = { ...n, turn: 10 };
    expect(placed(plane, tilted, side, [own, [ASPECT - 0.01, own[1]]], { snap: 0.03 }).lines).toEqual([]);
  });

  it('is held to one axis, the one along which the pointer went farther', () => {
    const plane = slotPlane({}, 0, FILL, ASPECT);
    const n = numbersOf({}, 0);
    const { numbers } = placed(
      plane,
      n,
      { does: 'move', at: [0.5, 0.5] },
      [
        [0, 0],
        [0.1, 0.32],
      ],
      { apart: true },
    );
    expect([numbers.x, numbers.y]).toEqual([0, expect.closeTo(0.32, 9)]);
  });

  it('is snapped within px of the picture', () => {
    const plane = slotPlane({}, 0, FILL, ASPECT);
    // Flat on: 100 px a height.
    expect(unitsOf(plane, numbersOf({}, 0), scaling(100, 100), 8)).toBeCloseTo(0.08, 9);
  });
});
