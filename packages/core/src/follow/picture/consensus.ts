/**
 * One motion out of many cells that each tell a displacement: iterated reweighting with a redescending weight (J.
 * Tukey's biweight on the two-dimensional Mahalanobis distance), whose scale comes from the better cells, since more
 * than half of a screen may be covered or mirror something else. Other evidence joins the same equations.
 */
import { slipsAfter, textureOf } from './cell-equations';
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

/** What becomes of the cells from round to round. */
interface Weighing {
  /** 0 for what is not the same picture */
  readonly likeness: Float64Array;
  readonly weight: Float64Array;
  readonly agreement: Float64Array;
  /** squared, by the cell's own information */
  readonly distance: Float64Array;
}

/** Scatter of the cells about a motion: a low quantile of what is believed, so that a majority rules. */
function scatterOf(s: Sensors, o: ConsensusOptions, slip: Float64Array, { likeness, distance }: Weighing): number {
  const m = s.information;
  const trusted: number[] = [];
  for (let c = 0; c < likeness.length; c++) {
    if (likeness[c] === 0) continue;
    const u = slip[2 * c]!;
    const v = slip[2 * c + 1]!;
    const d = u * u * m[3 * c]! + 2 * u * v * m[3 * c + 1]! + v * v * m[3 * c + 2]!;
    distance[c] = d;
    if (o.prior[c]! * likeness[c]! > 0.1) trusted.push(d);
  }
  return Math.max(CONSENSUS.leastScatter, quantile(trusted, CONSENSUS.scaleQuantile) / CONSENSUS.scaleNormal || 1);
}

/** Weighs the cells by how far each lies from a motion. @param isFirst the motion is a mere prediction */
function weigh(o: ConsensusOptions, slip: Float64Array, w: Weighing, scale: number, isFirst: boolean): void {
  const cut = CONSENSUS.tukey * CONSENSUS.tukey * scale;
  for (let c = 0; c < w.weight.length; c++) {
    const z = w.distance[c]! / cut;
    const reach = Math.hypot(slip[2 * c]!, slip[2 * c + 1]!);
    const far = Math.min(1, Math.max(0, reach - o.tolerated) / o.most);
    // The first round starts from wherever the prediction was: a heavy-tailed weight finds the majority.
    let robust: number;
    if (isFirst) robust = 1 / (1 + w.distance[c]! / scale);
    else if (z < 1) robust = (1 - z) ** 2;
    else robust = 0;
    w.agreement[c] = w.likeness[c]! * robust * (1 - far * far) ** 2;
    w.weight[c] = (CONSENSUS.ownInformation * o.prior[c]! * w.agreement[c]!) / scale;
  }
}

/** The motion that most of the cells agree on, with what else is known; see {@link Consensus} for shapes and units. */
export function agree(s: Sensors, o: ConsensusOptions): Consensus {
  const n = s.level.cells;
  const w: Weighing = {
    likeness: likenessOf(s, o.prior, o.levels),
    weight: new Float64Array(n),
    agreement: new Float64Array(n),
    distance: new Float64Array(n),
  };
  const { weight, agreement } = w;
  let step: Float64Array = new Float64Array(8);
  let texture: Equations = { a: new Float64Array(64), b: new Float64Array(8) };
  for (let round = 0; ; round++) {
    const slip = slipsAfter(s, step);
    weigh(o, slip, w, scatterOf(s, o, slip, w), round === 0);
    shareErrors(s, weight, o.groups);
    if (round === CONSENSUS.rounds) return { step, weight, slip, texture, agreement };
    texture = textureOf(s, weight);
    const dp = solveStep(o.motion, {
      a: texture.a.map((v, i) => v + o.rest.a[i]!),
      b: texture.b.map((v, i) => v + o.rest.b[i]!),
    });
    if (!dp) return { step: null, weight, slip, texture, agreement };
    step = Float64Array.from(dp);
  }
}
