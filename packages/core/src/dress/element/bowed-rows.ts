/** Places in the slot of the px of a row where straight lines are no longer straight: behind a lens, or in a slot that is bent. */
import { undistort } from '../../geometry/lens';
import type { Matrix3 } from '../../geometry/matrix3';
import type { Point } from '../../geometry/point';
import type { BentSides } from '../shape/bend';
import { unbend } from '../shape/bend';
import type { ElementTask } from './element-task';

/**
 * px of a row from one position to the next that is put through the lens and the bend; between them both are straight within
 * 0.001 px for a bow of a tenth.
 */
export const BOW_STEP = 4;

/** What places are reckoned with: the element, and the map from the ideal picture to its slot. */
export interface Mapped {
  readonly t: ElementTask;
  readonly m: Matrix3;
}

/** Whether rows of an element are reckoned here. */
export const isBowed = ({ lens, bend }: ElementTask): boolean => Boolean(lens) || bend !== null;

const scratch = new Float64Array(2);

/** A position of the picture: where a lens without bow has it, and what the bend moves there, shares of the slot. */
interface Sample {
  readonly ideal: Point;
  readonly moved: Point;
  /** which sides of the slot it lies beyond: there a bend goes on as it ends, and its change has a step */
  readonly beyond: number;
}

/** By how much the bend moves what is seen at a place of the ideal picture. */
function bentSample(bend: BentSides, m: Matrix3, ideal: Point): Sample {
  const [u, v] = ideal;
  const w = 1 / (m[6]! * u + m[7]! * v + m[8]!);
  const s = (m[0]! * u + m[1]! * v + m[2]!) * w;
  const t = (m[3]! * u + m[4]! * v + m[5]!) * w;
  unbend(bend, s, t, scratch);
  const [bs, bt] = scratch as unknown as [number, number];
  const beyond = Number(bs < 0) + 2 * Number(bs > 1) + 4 * Number(bt < 0) + 8 * Number(bt > 1);
  return { ideal, moved: [bs - s, bt - t], beyond };
}

function sampleAt({ t, m }: Mapped, p: Point): Sample {
  const ideal = t.lens ? undistort(t.lens, p) : p;
  return t.bend ? bentSample(t.bend, m, ideal) : { ideal, moved: [0, 0], beyond: 0 };
}

/** Writes the place in the slot of px `k` of a row, a share of the way from one position to another. */
function putSlot(
  out: Float64Array,
  k: number,
  m: Matrix3,
  ends: readonly [from: Sample, to: Sample],
  share: number,
): void {
  const [from, to] = ends;
  const u = from.ideal[0] + share * (to.ideal[0] - from.ideal[0]);
  const v = from.ideal[1] + share * (to.ideal[1] - from.ideal[1]);
  const w = 1 / (m[6]! * u + m[7]! * v + m[8]!);
  out[2 * k] = (m[0]! * u + m[1]! * v + m[2]!) * w + from.moved[0] + share * (to.moved[0] - from.moved[0]);
  out[2 * k + 1] = (m[3]! * u + m[4]! * v + m[5]!) * w + from.moved[1] + share * (to.moved[1] - from.moved[1]);
}

/** Places in the slot of the px of a row from a position on, s and t one after the other, into `out`. */
export function slotsOfRow(mapped: Mapped, [x, y]: Point, out: Float64Array): void {
  const n = out.length / 2;
  let from = sampleAt(mapped, [x, y]);
  for (let i = 0; i < n; i += BOW_STEP) {
    const to = sampleAt(mapped, [x + i + BOW_STEP, y]);
    const end = Math.min(n, i + BOW_STEP);
    const ends = [from, to] as const;
    for (let k = i; k < end; k++) {
      if (from.beyond === to.beyond) putSlot(out, k, mapped.m, ends, (k - i) / BOW_STEP);
      else {
        const own = sampleAt(mapped, [x + k, y]);
        putSlot(out, k, mapped.m, [own, own], 0);
      }
    }
    from = to;
  }
}
