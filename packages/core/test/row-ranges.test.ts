/** Px that are taken for sure without a closer look, against the closer look at each: facts of plane geometry. */
import { describe, expect, it } from 'vitest';
import { random } from './builders/scene';
import { slotsOfRow } from '../src/dress/element/bowed-rows';
import type { ElementTask } from '../src/dress/element/element-task';
import type { SureSquare } from '../src/dress/element/row-ranges';
import { isWithin, notBeyond, sureSquares, surelyInside } from '../src/dress/element/row-ranges';
import { bentSides, unbend } from '../src/dress/shape/bend';
import type { EdgeShape } from '../src/dress/shape/edge';
import { coverageAt } from '../src/dress/shape/edge';
import { mapPoint, unitSquareToQuad } from '../src/geometry/homography';
import type { Matrix3 } from '../src/geometry/matrix3';
import { inverse, multiply } from '../src/geometry/matrix3';
import type { Quad } from '../src/geometry/quad';

const SIDE = 96;
const SHARP: EdgeShape = { inset: [0, 0, 0, 0], feather: [0, 0, 0, 0], radius: [0, 0, 0, 0], wrap: 0, wrapReach: 0 };

/** Corners anywhere about the picture, in order, seen from the front. */
function thrownCorners(roll: () => number): Quad {
  const at = (x: number, y: number): [number, number] => [x + 22 * (roll() - 0.5), y + 22 * (roll() - 0.5)];
  return [at(20, 24), at(74, 18), at(78, 70), at(16, 76)];
}

/** A fill that is scaled, turned, moved, and ends within the slot or beyond it. */
function thrownTask(roll: () => number): ElementTask {
  const size = 0.3 + roll();
  const a = (roll() - 0.5) * 2;
  const [c, s] = [Math.cos(a) / size, Math.sin(a) / size];
  const toUnit: Matrix3 = [c, -s, 0.5 - 0.5 * (c - s) + 0.3 * (roll() - 0.5), s, c, 0.5 - 0.5 * (c + s), 0, 0, 1];
  const each = (most: number): number[] => [0, 1, 2, 3].map(() => most * roll());
  const edge =
    roll() < 0.5 ? SHARP : { ...SHARP, inset: each(6).map((v) => v - 3), feather: each(5), radius: each(0.2) };
  return {
    fill: [{ width: 40, height: 30, data: new Float32Array(40 * 30 * 4) }],
    corners: thrownCorners(roll),
    toFill: multiply([40, 0, 0, 0, 30, 0, 0, 0, 1], toUnit),
    ends: roll() < 0.7,
    bend: null,
    edge,
    aspect: 4 / 3,
  };
}

const toSlotOf = (corners: Quad): Matrix3 => inverse(unitSquareToQuad(corners));

/** How much of the px (x, y) the outline covers, by its place and what a px to the right and down changes of it. */
function coverOf({ edge, aspect }: ElementTask, toSlot: Matrix3, x: number, y: number): number {
  const step = 1e-5;
  const [s, t] = mapPoint(toSlot, [x, y]);
  const right = mapPoint(toSlot, [x + step, y]);
  const down = mapPoint(toSlot, [x, y + step]);
  const change = [right[0] - s, down[0] - s, right[1] - t, down[1] - t].map((d) => d / step);
  return coverageAt(edge, aspect, s, t, change[0]!, change[1]!, change[2]!, change[3]!);
}

/** Px from a place in the fill to the nearest side of its picture, by the change from px to px. */
function pxWithin(square: SureSquare, x: number, y: number): number {
  const [u, v] = mapPoint(square.map, [x, y]);
  const [ur, vr] = mapPoint(square.map, [x + 1e-5, y]);
  const [ud, vd] = mapPoint(square.map, [x, y + 1e-5]);
  const gu = 1e-5 / Math.hypot(ur - u, ud - u);
  const gv = 1e-5 / Math.hypot(vr - v, vd - v);
  return Math.min(u * gu, (1 - u) * gu, v * gv, (1 - v) * gv);
}

describe('px of a row', () => {
  const roll = random(417);
  const tasks = Array.from({ length: 120 }, () => thrownTask(roll));

  it('that are taken as inside are covered wholly, by the outline and by the fill; those that are passed over not at all', () => {
    let [inside, passed, looked] = [0, 0, 0];
    const wrong: number[][] = [];
    for (const t of tasks) {
      const toSlot = toSlotOf(t.corners);
      const squares = sureSquares(t, toSlot, t.corners);
      const [, own] = squares;
      for (let y = 0; y < SIDE; y += 3) {
        const [first, end] = notBeyond(squares, y, 0, SIDE);
        const [from, to] = surelyInside(squares, y, first, end);
        for (let x = 0; x < SIDE; x++) {
          const covered = coverOf(t, toSlot, x + 0.5, y + 0.5);
          if (x < first || x >= end) {
            if (covered > 0 && !(own && pxWithin(own, x + 0.5, y + 0.5) <= -0.5)) wrong.push([x, y, covered]);
            passed++;
          } else if (x >= from && x < to) {
            if (covered < 1 || (own && pxWithin(own, x + 0.5, y + 0.5) < 0.5)) wrong.push([x, y, covered]);
            inside++;
          } else looked++;
        }
      }
    }
    expect(wrong).toEqual([]);
    // Sure of most: a closer look at each would be the same, only slow.
    expect(inside).toBeGreaterThan(30_000);
    expect(passed).toBeGreaterThan(200_000);
    expect(looked).toBeLessThan(0.3 * (inside + passed));
  });

  it('are each looked at where sides are bent so much that nothing is sure', () => {
    const bent = { ...tasks[0]!, bend: bentSides({ top: [{ at: 0.5, y: 0.4 }] }, 0) };
    const squares = sureSquares(bent, toSlotOf(bent.corners), bent.corners);
    expect(notBeyond(squares, 40, 0, SIDE)).toEqual([0, SIDE]);
    expect(surelyInside(squares, 40, 0, SIDE)).toEqual([0, 0]);
  });

  it('of a bent slot lie where the bend takes them within a twentieth of a px, and are sure where they are said to be', () => {
    const out = new Float64Array(2 * SIDE);
    let [farthest, sure] = [0, 0];
    const wrong: number[][] = [];
    for (const plain of tasks.slice(0, 40)) {
      const move = (): number => 0.1 * (roll() - 0.5);
      const bend = bentSides(
        { top: [{ at: 0.3 + 0.4 * roll(), y: move() }], left: [{ at: 0.5, x: move(), y: move() }] },
        0,
      )!;
      const t = { ...plain, bend };
      const toSlot = toSlotOf(t.corners);
      const [slot] = sureSquares(t, toSlot, t.corners);
      const [reachS, reachT] = slot.beyond;
      const exact = (x: number, y: number): readonly [number, number] => {
        const at = new Float64Array(2);
        unbend(bend, ...mapPoint(toSlot, [x, y]), at);
        return [at[0]!, at[1]!];
      };
      for (let y = 2; y < SIDE; y += 7) {
        slotsOfRow({ t, m: toSlot }, [0.5, y + 0.5], out);
        for (let x = 0; x < SIDE; x++) {
          const [s, v] = exact(x + 0.5, y + 0.5);
          const [right, down] = [exact(x + 1.5, y + 0.5), exact(x + 0.5, y + 1.5)];
          const [sx, sy, tx, ty] = [right[0] - s, down[0] - s, right[1] - v, down[1] - v];
          const px = Math.min(Math.hypot(sx, sy), Math.hypot(tx, ty));
          // Beyond the slot the bend goes on without being seen.
          if (isWithin([0, 0], s, v))
            farthest = Math.max(farthest, Math.hypot(out[2 * x]! - s, out[2 * x + 1]! - v) / px);
          const covered = coverageAt(t.edge, t.aspect, s, v, sx, sy, tx, ty);
          const isInside = isWithin(slot.within, s, v);
          const isBeyond = !isWithin([-reachS, -reachT], s, v);
          if ((isInside && covered < 1) || (isBeyond && covered > 0)) wrong.push([x, y, s, v, covered]);
          if (isInside || isBeyond) sure++;
        }
      }
    }
    expect(wrong).toEqual([]);
    // Of slots 55 px wide, bent by up to 3 px; it falls as the slot's width grows.
    expect(farthest).toBeLessThan(0.05);
    expect(sure).toBeGreaterThan(25_000);
  });

  it('behind a lens have margins as much wider as the lens stretches there', () => {
    const t = { ...tasks[0]!, edge: SHARP };
    const toSlot = toSlotOf(t.corners);
    const [plain] = sureSquares(t, toSlot, t.corners);
    const lens = { radial: -0.2, width: SIDE, height: SIDE };
    const [wide] = sureSquares({ ...t, lens }, toSlot, t.corners);
    expect(wide.within[0] / plain.within[0]).toBeGreaterThan(1.2);
    expect(isWithin(plain.within, 0.5, 0.5)).toBe(true);
    expect(isWithin(plain.within, plain.within[0] / 2, 0.5)).toBe(false);
  });
});
