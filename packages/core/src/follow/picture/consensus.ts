/**
 * One motion out of many cells that each tell a displacement: iterated reweighting with a redescending weight (J.
 * Tukey's biweight on the two-dimensional Mahalanobis distance), whose scale comes from the better cells, since more
 * than half of a screen may be covered or mirror something else. Other evidence joins the same equations.
 */
import type { Sensors } from './cell-sensors';
import type { Equations } from '../../geometry/motion-equations';
import { solveStep } from '../../geometry/motion-equations';
import { quantile } from '../../statistics';
import type { Motion } from '../../geometry/motion';

export interface Consensus {
  /** null when the equations fall apart */
  readonly step: Float64Array | null;
  /** per cell, 0 to 1: robust weight times prior, over how much more cells scatter than they claim */
  readonly weight: Float64Array;
  /** per cell, remaining displacement in normalised template coordinates, u and v */
  readonly slip: Float64Array;
  /** the cells' own part, at the step taken */
  readonly texture: Equations;
  /** per cell, 0 to 1: how far it agrees */
  readonly agreement: Float64Array;
}

/**
 * How brightness may differ from the remembered picture: each cell for itself, the screen as a whole, or not at all.
 */
export type Levels = 'cells' | 'screen' | 'fixed';

export interface ConsensusOptions {
  readonly motion: Motion;
  readonly levels: Levels;
  /** per cell, 0 to 1 */
  readonly prior: Float64Array;
  /** everything but the cells; `b` at a step of zero */
  readonly rest: Equations;
  /** per cell, the number of its group, from 0; cells of one group share errors that their number does not make smaller */
  readonly groups: Int32Array;
  /** slip that is always tolerated, and the most that is when the motion is known already; normalised coordinates */
  readonly tolerated: number;
  readonly most: number;
}

const CONSENSUS = {
  /** Rounds of weighting and solving; weights stand still after three or four. By trial. */
  rounds: 4,
  /** Cut-off of Tukey's biweight in units of the scale. By trial. */
  tukey: 3.4,
  /**
   * Share of its own information that a cell keeps, since neighbours share their errors (light, reflections,
   * compression). By trial.
   */
  ownInformation: 0.25,
  /** Quantile of the squared distances that gives the scale: robust while a third of the cells agree. By trial. */
  scaleQuantile: 0.35,
  /** Value of that quantile for two dimensions of unit normal noise: -2 ln(1 - 0.35). */
  scaleNormal: 0.862,
  /** Of their floor; cells may agree much better than it claims, and this much of it is kept. By trial. */
  leastScatter: 0.35,
  /** Misfit, in units of the better cells', from which a cell shows another picture. By trial. */
  otherPicture: 3.2,
  /** Correlation with the remembered picture below which a cell shows another one. By trial. */
  leastCorrelation: 0.45,
  /** Grey steps that a cell's level may be off by before it no longer counts. By trial. */
  levelOff: 18,
  /** Of the level, added to that. By trial. */
  levelShare: 0.18,
  /** Octaves that its contrast may be off by. By trial. */
  contrastOff: 1,
} as const;

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

/** Takes likeness from cells whose brightness changed otherwise than it may. */
function compareLevels(s: Sensors, levels: Exclude<Levels, 'cells'>, likeness: Float64Array): void {
  const own = s.level.source;
  const known = [...likeness.keys()].filter((c) => likeness[c]! > 0.3);
  const gain =
    levels === 'fixed'
      ? 1
      : quantile(
          known.map((c) => s.gain[c]!),
          0.5,
        ) || 1;
  const offset =
    levels === 'fixed'
      ? 0
      : quantile(
          known.map((c) => s.mean[c]! - gain * own[c]!.mean),
          0.5,
        ) || 0;
  for (let c = 0; c < likeness.length; c++) {
    if (likeness[c] === 0) continue;
    const level = gain * own[c]!.mean + offset;
    const z = Math.hypot(
      (s.mean[c]! - level) / (CONSENSUS.levelOff + CONSENSUS.levelShare * Math.abs(level)),
      Math.log2(s.gain[c]! / gain) / CONSENSUS.contrastOff,
    );
    likeness[c]! *= z < 1 ? (1 - z * z) ** 2 : 0;
  }
}

/** How much a cell's picture is the remembered one, 0 to 1, whatever its displacement. */
function likenessOf(s: Sensors, prior: Float64Array, levels: Levels): Float64Array {
  const out = new Float64Array(s.level.cells);
  const seen: number[] = [];
  const gains: number[] = [];
  for (let c = 0; c < out.length; c++)
    if (s.seen[c] && prior[c]! > 0.3 && s.gain[c]! > 1e-3) {
      seen.push(s.misfit[c]!);
      if (s.correlation[c]! > 0.6) gains.push(s.gain[c]!);
    }
  const scale = Math.max(1, 1.2 * (quantile(seen, 0.3) || 1));
  const typical = quantile(gains, 0.5) || 0;
  for (let c = 0; c < out.length; c++) {
    if (!s.seen[c] || !(s.correlation[c]! > CONSENSUS.leastCorrelation) || !(s.gain[c]! > 0.2 * typical)) continue;
    const z = s.misfit[c]! / (scale * CONSENSUS.otherPicture);
    if (z < 1) out[c] = (1 - z * z) ** 2 * Math.min(1, (s.correlation[c]! - CONSENSUS.leastCorrelation) / 0.25);
  }
  if (levels !== 'cells') compareLevels(s, levels, out);
  return out;
}

function addCell(eq: Equations, s: Sensors, c: number, w: number, ju: Float64Array, jv: Float64Array): void {
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

/** px of the level by which a whole group of neighbouring cells is wrong however many they are. By trial. */
const GROUP_FLOOR = 0.1;

/** Takes weight from cells whose group says more together than its common error allows. */
function shareErrors(s: Sensors, weight: Float64Array, groups: Int32Array): void {
  const px = s.level.step ** 2;
  const total = new Float64Array(1 + groups.reduce((most, g) => Math.max(most, g), 0));
  for (let c = 0; c < weight.length; c++)
    if (weight[c]! > 0)
      total[groups[c]!]! += 0.5 * weight[c]! * px * (s.information[3 * c]! + s.information[3 * c + 2]!);
  for (let c = 0; c < weight.length; c++) if (weight[c]! > 0) weight[c]! /= 1 + total[groups[c]!]! * GROUP_FLOOR ** 2;
}

/** The motion that most of the cells agree on, with what else is known; see {@link Consensus} for shapes and units. */
export function agree(s: Sensors, o: ConsensusOptions): Consensus {
  const { level } = s;
  const n = level.cells;
  const middle = ((level.side - 1) / 2) * level.step;
  const likeness = likenessOf(s, o.prior, o.levels);
  const weight = new Float64Array(n);
  const agreement = new Float64Array(n);
  let slip: Float64Array = new Float64Array(2 * n);
  const ju = new Float64Array(8);
  const jv = new Float64Array(8);
  const distance = new Float64Array(n);
  let step = new Float64Array(8);
  let texture: Equations = { a: new Float64Array(64), b: new Float64Array(8) };
  let solved = true;
  for (let round = 0; round <= CONSENSUS.rounds; round++) {
    const trusted: number[] = [];
    slip = slipsAfter(s, step);
    for (let c = 0; c < n; c++) {
      if (likeness[c] === 0) continue;
      const u = slip[2 * c]!;
      const v = slip[2 * c + 1]!;
      const m = s.information;
      const d = u * u * m[3 * c]! + 2 * u * v * m[3 * c + 1]! + v * v * m[3 * c + 2]!;
      distance[c] = d;
      if (o.prior[c]! * likeness[c]! > 0.1) trusted.push(d);
    }
    const scale = Math.max(
      CONSENSUS.leastScatter,
      quantile(trusted, CONSENSUS.scaleQuantile) / CONSENSUS.scaleNormal || 1,
    );
    const cut = CONSENSUS.tukey * CONSENSUS.tukey * scale;
    for (let c = 0; c < n; c++) {
      const z = distance[c]! / cut;
      const reach = Math.hypot(slip[2 * c]!, slip[2 * c + 1]!);
      const far = Math.min(1, Math.max(0, reach - o.tolerated) / o.most);
      // The first round starts from wherever the prediction was: a heavy-tailed weight finds the majority.
      let robust: number;
      if (round === 0) robust = 1 / (1 + distance[c]! / scale);
      else if (z < 1) robust = (1 - z) ** 2;
      else robust = 0;
      agreement[c] = likeness[c]! * robust * (1 - far * far) ** 2;
      weight[c] = (CONSENSUS.ownInformation * o.prior[c]! * agreement[c]!) / scale;
    }
    shareErrors(s, weight, o.groups);
    if (round === CONSENSUS.rounds) break;
    texture = { a: new Float64Array(64), b: new Float64Array(8) };
    for (let c = 0; c < n; c++) {
      if (weight[c]! < 1e-4) continue;
      displacementRows(level.u[c]! + middle, level.v[c]! + middle, ju, jv);
      addCell(texture, s, c, weight[c]!, ju, jv);
    }
    mirror(texture.a);
    const dp = solveStep(o.motion, {
      a: texture.a.map((v, i) => v + o.rest.a[i]!),
      b: texture.b.map((v, i) => v + o.rest.b[i]!),
    });
    if (!dp) {
      solved = false;
      break;
    }
    step = Float64Array.from(dp);
  }
  return { step: solved ? step : null, weight, slip, texture, agreement };
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
