/** What cells say of a motion: its normal equations, what is left of each cell's displacement, and how groups of them pull. */
import type { Equations } from '../../geometry/motion-equations';
import type { Sensors } from './cell-sensors';

/** By how much a cell's displacement, u and v, changes with each parameter of a motion. */
type Rows = readonly [ju: Float64Array, jv: Float64Array];

/** d(displacement)/dp at (u, v): rows for u and for v. */
function displacementRows(u: number, v: number, ju: Float64Array, jv: Float64Array): void {
  ju[0] = u;
  ju[1] = v;
  ju[2] = 1;
  ju[6] = -u * u;
  ju[7] = -u * v;
  jv[3] = u;
  jv[4] = v;
  jv[5] = 1;
  jv[6] = -u * v;
  jv[7] = -v * v;
}

/** Adds cell `c` by its weight, whose displacement moves with the motion by `ju` and `jv`; the lower half alone. */
function addCell(eq: Equations, s: Sensors, c: number, w: number, [ju, jv]: Rows): void {
  const uu = w * s.information[c * 3]!;
  const uv = w * s.information[c * 3 + 1]!;
  const vv = w * s.information[c * 3 + 2]!;
  const su = w * s.score[c * 2]!;
  const sv = w * s.score[c * 2 + 1]!;
  const { a, b } = eq;
  for (let p = 0; p < 8; p++) {
    const pu = ju[p]!;
    const pv = jv[p]!;
    const mu = uu * pu + uv * pv;
    const mv = uv * pu + vv * pv;
    b[p]! += su * pu + sv * pv;
    for (let q = 0; q <= p; q++) a[p * 8 + q]! += mu * ju[q]! + mv * jv[q]!;
  }
}

function mirror(a: Float64Array): void {
  for (let p = 0; p < 8; p++) for (let q = 0; q < p; q++) a[q * 8 + p] = a[p * 8 + q]!;
}

/** What all cells say together. */
export function textureOf(s: Sensors, weight: Float64Array): Equations {
  const { level } = s;
  const middle = ((level.side - 1) / 2) * level.step;
  const texture: Equations = { a: new Float64Array(64), b: new Float64Array(8) };
  const ju = new Float64Array(8);
  const jv = new Float64Array(8);
  for (let c = 0; c < weight.length; c++) {
    if (weight[c]! < 1e-4) continue;
    displacementRows(level.u[c]! + middle, level.v[c]! + middle, ju, jv);
    addCell(texture, s, c, weight[c]!, [ju, jv]);
  }
  mirror(texture.a);
  return texture;
}

/** Per cell, its remaining displacement after a step, u and v. */
export function slipsAfter({ level, du, dv }: Sensors, step: Float64Array): Float64Array {
  const middle = ((level.side - 1) / 2) * level.step;
  const slip = new Float64Array(2 * level.cells);
  const ju = new Float64Array(8);
  const jv = new Float64Array(8);
  for (let c = 0; c < level.cells; c++) {
    displacementRows(level.u[c]! + middle, level.v[c]! + middle, ju, jv);
    let u = du[c]!;
    let v = dv[c]!;
    for (let p = 0; p < 8; p++) {
      u -= ju[p]! * step[p]!;
      v -= jv[p]! * step[p]!;
    }
    slip[2 * c] = u;
    slip[2 * c + 1] = v;
  }
  return slip;
}

/**
 * Gradients of groups of neighbouring cells, 8 entries each: what remains of their pull after a step.
 * @param weight per cell; `slip` per cell, its displacement after that step, u and v
 */
export function groupGradients(
  s: Sensors,
  weight: Float64Array,
  slip: Float64Array,
  groups: Int32Array,
): Float64Array[] {
  const { level } = s;
  const middle = ((level.side - 1) / 2) * level.step;
  const gradients = new Map<number, Float64Array>();
  const ju = new Float64Array(8);
  const jv = new Float64Array(8);
  for (let i = 0; i < level.cells; i++) {
    const w = weight[i]!;
    if (w < 1e-4) continue;
    const key = groups[i]!;
    const m = s.information;
    const u = slip[2 * i]!;
    const v = slip[2 * i + 1]!;
    let g = gradients.get(key);
    if (!g) gradients.set(key, (g = new Float64Array(8)));
    displacementRows(level.u[i]! + middle, level.v[i]! + middle, ju, jv);
    const mu = w * (m[3 * i]! * u + m[3 * i + 1]! * v);
    const mv = w * (m[3 * i + 1]! * u + m[3 * i + 2]! * v);
    for (let p = 0; p < 8; p++) g[p]! += mu * ju[p]! + mv * jv[p]!;
  }
  return [...gradients.values()];
}
