/**
 * Cells as sensors of displacement. One pass over a cell's sampled pixels tells how far the picture lies from where a
 * motion puts it, how well that is known (its structure against its residual), and whether it is the same picture at
 * all. Brightness (gain and offset of each cell) drops out by construction of the template.
 */
import { clamp } from '../../clamp';
import type { Matrix3 } from '../../geometry/matrix3';
import type { PyramidLevel } from '../../image/pyramid';
import { sampleCell } from '../../image/sample';
import type { TemplateLevel } from './template';

/** One entry per cell; displacements and information in normalised template coordinates. */
export interface Sensors {
  readonly level: TemplateLevel;
  /** 1 where the whole cell lies inside the picture */
  readonly seen: Uint8Array;
  readonly du: Float64Array;
  readonly dv: Float64Array;
  /** `cells*3`: information of the displacement, uu uv vv */
  readonly information: Float64Array;
  /** `cells*2`: information times displacement, well defined also where a direction is not known at all */
  readonly score: Float64Array;
  /** of template and frame after gain and offset, -1 to 1; NaN where the cell is not seen */
  readonly correlation: Float64Array;
  /** contrast of the frame's cell against the template's */
  readonly gain: Float64Array;
  /** of the frame's cell, grey */
  readonly mean: Float64Array;
  /** residual in units of what noise and resampling leave; 1 is typical */
  readonly misfit: Float64Array;
}

/**
 * Share of a cell's contrast that a perfect alignment still leaves as residual (resampling, blur, compression). By
 * trial.
 */
const MODEL_ERROR = 0.06;
/**
 * px of its level by which a cell's displacement is wrong whatever its contrast: it keeps strong cells from ruling
 * alone. By trial.
 */
const CELL_FLOOR = 0.15;

/** Sums over one cell: value, square, product with the template and with its two gradients. */
function sumUp(t: TemplateLevel, base: number, n: number, samples: Float32Array, out: Float64Array): void {
  const { values, gradientU, gradientV } = t;
  const first = samples[0]!;
  let s = 0;
  let ss = 0;
  let st = 0;
  let bu = 0;
  let bv = 0;
  for (let k = 0; k < n; k++) {
    const d = samples[k]! - first;
    s += d;
    ss += d * d;
    st += d * values[base + k]!;
    bu += d * gradientU[base + k]!;
    bv += d * gradientV[base + k]!;
  }
  out[0] = s;
  out[1] = ss;
  out[2] = st;
  out[3] = bu;
  out[4] = bv;
}

/**
 * @param h normalised template coordinates to px of `image`
 * @param noise of `image`, grey values
 * @param offsets per cell, px of `image` by which its picture lies beside where `h` puts it, x and y
 */
export function senseCells(
  t: TemplateLevel,
  image: PyramidLevel,
  h: Matrix3,
  cubic: boolean,
  noise: number,
  offsets?: Float64Array,
): Sensors {
  const { side, cells, step } = t;
  const n = side * side;
  const samples = new Float32Array(n);
  const sums = new Float64Array(5);
  const floor = (CELL_FLOOR * step) ** 2;
  const out: Sensors = {
    level: t,
    seen: new Uint8Array(cells),
    du: new Float64Array(cells),
    dv: new Float64Array(cells),
    information: new Float64Array(cells * 3),
    score: new Float64Array(cells * 2),
    correlation: new Float64Array(cells).fill(NaN),
    gain: new Float64Array(cells),
    mean: new Float64Array(cells),
    misfit: new Float64Array(cells),
  };
  for (let c = 0; c < cells; c++) {
    if (!sampleCell(image, h, t.u[c]!, t.v[c]!, step, side, cubic, samples, offsets?.[2 * c], offsets?.[2 * c + 1]))
      continue;
    sumUp(t, c * n, n, samples, sums);
    const energy = Math.max(0, sums[1]! - (sums[0]! * sums[0]!) / n);
    const along = sums[2]!;
    const gain = along / t.norm[c]!;
    out.seen[c] = 1;
    out.correlation[c] = along / Math.sqrt(energy + n * noise * noise + 1e-9);
    out.gain[c] = gain;
    out.mean[c] = samples[0]! + sums[0]! / n;
    if (!(gain > 1e-3)) continue;
    // What the displacement itself explains is no misfit.
    const uu = t.structure[c * 3]!;
    const uv = t.structure[c * 3 + 1]!;
    const vv = t.structure[c * 3 + 2]!;
    const bu = sums[3]! / gain;
    const bv = sums[4]! / gain;
    const ridge = 0.02 * (uu + vv) + 1e-12;
    const det = (uu + ridge) * (vv + ridge) - uv * uv;
    const du = ((vv + ridge) * bu - uv * bv) / det;
    const dv = ((uu + ridge) * bv - uv * bu) / det;
    const unexplained = Math.max(0, (energy - along * along) / (gain * gain) - (du * bu + dv * bv));
    const expected = noise * noise * (1 + 1 / (gain * gain)) + (MODEL_ERROR * t.norm[c]!) ** 2 / n;
    const variance = unexplained / Math.max(1, n - 4);
    out.du[c] = du;
    out.dv[c] = dv;
    out.misfit[c] = Math.sqrt(variance / expected);
    // (variance S^-1 + floor I)^-1 = S (variance I + floor S)^-1.
    const q = Math.max(variance, expected);
    const auu = q + floor * uu;
    const avv = q + floor * vv;
    const auv = floor * uv;
    const d = auu * avv - auv * auv;
    out.information[c * 3] = (uu * avv - uv * auv) / d;
    out.information[c * 3 + 1] = (uv * auu - uu * auv) / d;
    out.information[c * 3 + 2] = (vv * auu - uv * auv) / d;
    out.score[c * 2] = (avv * bu - auv * bv) / d;
    out.score[c * 2 + 1] = (auu * bv - auv * bu) / d;
    if (t.probation[c] === 1) alongItsEdge(out, c);
  }
  return out;
}

/** Ratio of a cell's structure along its edge to that across it below which it tells nothing along it. By trial. */
const EDGE_LIKE = 0.35;
/** The same ratio from which it tells all. By trial. */
const CORNER_LIKE = 0.65;

/**
 * A cell around the pin that holds little but an edge mostly straddles the device's own rim: what it shows along the
 * rim is the background that passes by, so it keeps what it tells across.
 */
function alongItsEdge(s: Sensors, c: number): void {
  const { structure } = s.level;
  const uu = structure[c * 3]!;
  const uv = structure[c * 3 + 1]!;
  const vv = structure[c * 3 + 2]!;
  const middle = (uu + vv) / 2;
  const spread = Math.hypot((uu - vv) / 2, uv);
  const keep = clamp(((middle - spread) / (middle + spread + 1e-12) - EDGE_LIKE) / (CORNER_LIKE - EDGE_LIKE), 0, 1);
  if (keep === 1) return;
  // Unit vector along the edge: the weak direction of the structure.
  const angle = 0.5 * Math.atan2(2 * uv, uu - vv) + Math.PI / 2;
  const x = Math.cos(angle);
  const y = Math.sin(angle);
  const { information: m, score } = s;
  const a = m[c * 3]!;
  const b = m[c * 3 + 1]!;
  const d = m[c * 3 + 2]!;
  const weak = (1 - keep) * (x * (a * x + b * y) + y * (b * x + d * y));
  const pull = (1 - keep) * (x * score[c * 2]! + y * score[c * 2 + 1]!);
  m[c * 3] = a - weak * x * x;
  m[c * 3 + 1] = b - weak * x * y;
  m[c * 3 + 2] = d - weak * y * y;
  score[c * 2]! -= pull * x;
  score[c * 2 + 1]! -= pull * y;
}
