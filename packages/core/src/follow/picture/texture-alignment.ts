/**
 * Direct alignment of a remembered picture to a frame: inverse compositional Gauss-Newton, coarse to fine, each cell a
 * sensor of displacement, all brought to one motion by consensus.
 * Source: S. Baker and I. Matthews, Lucas-Kanade 20 Years On, IJCV 2004 (inverse compositional form).
 */
import { cornerInformation, cornerSigmas } from '../../geometry/corner-information';
import { normaliseHomography, scaleAt } from '../../geometry/homography';
import type { Matrix3 } from '../../geometry/matrix3';
import { solveStep, stepped } from '../../geometry/motion-equations';
import type { Pyramid } from '../../image/pyramid';
import { groupGradients, slipsAfter } from './cell-equations';
import type { Sensors } from './cell-sensors';
import type { Consensus } from './consensus';

import type { Template } from './template';
import type { AlignmentOptions, Job, Settled } from './texture-level';
import { atLevelZero, blocksOf, fromLevel, pairing, settle, toLevel } from './texture-level';

/** What cells that agree with the motion taken tell by themselves. */
export interface Alone {
  /** template px to frame px */
  readonly homography: number[];
  /** per corner, px */
  readonly sigma: readonly number[];
}

export interface Alignment {
  /** template px to frame px */
  readonly homography: number[];
  /** what the last pass over the finest level used saw of every cell, and what became of it */
  readonly sensors: Sensors;
  readonly consensus: Consensus;
  /** per cell, how far it was believed beforehand, 0 to 1; 0 where it is not followed on this frame */
  readonly prior: Float64Array;
  /** share of the template's information that lies inside the frame */
  readonly visible: number;
  /** share of the visible information whose cells agree with the template */
  readonly support: number;
  readonly agreeing: number;
  /** what the evidence knows of the corners, 8x8 in px^-2 of the frame, expectation left out */
  readonly information: Float64Array;
  /** where its cells alone have it, worked out when it is asked for; null where they do not tell */
  readonly alone: () => Alone | null;
  /** trace of the normal matrix by kind of evidence */
  readonly shares: { readonly texture: number; readonly edges: number };
}

const ALIGNMENT = {
  /** Weight from which a cell counts as agreeing. By trial. */
  agrees: 0.15,
  /** px; what a corner counts as known to that nothing tells of. By trial. */
  unknown: 50,
  /** Share of a coarser level's agreement that a finer one must keep. By trial. */
  keeps: 0.35,
  /** Share of the cells' weight that need not agree with the coarser one. By trial. */
  keepsAlways: 0.5,
} as const;

function traceOf(a: Float64Array): number {
  let s = 0;
  for (let i = 0; i < 8; i++) s += a[i * 9]!;
  return s;
}

/**
 * Cells that are known by now not to belong count little, so that a strip of background in the outline does not look
 * like a cover.
 */
function summarise(
  s: Sensors,
  c: Consensus,
  prior: Float64Array,
): { visible: number; support: number; agreeing: number } {
  let all = 0;
  let seen = 0;
  let agreed = 0;
  let agreeing = 0;
  for (let k = 0; k < s.level.cells; k++) {
    const i = Math.sqrt(s.level.structure[k * 3]! + s.level.structure[k * 3 + 2]!) * prior[k]!;
    all += i;
    if (!s.seen[k]) continue;
    seen += i;
    if (c.agreement[k]! > ALIGNMENT.agrees && prior[k]! > 0.02) {
      agreed += i;
      if (prior[k]! > 0.2) agreeing++;
    }
  }
  return { visible: all > 0 ? seen / all : 0, support: seen > 0 ? agreed / seen : 0, agreeing };
}

/** The alignment that a level came to. */
function alignmentOf(job: Job, s: Settled): Alignment {
  const { template, options, cu, cv } = job;
  const { consensus, sensors, others, level } = s;
  const full = atLevelZero(s.n, level);
  const groups = blocksOf(s.t);
  const knownBy = (a: Float64Array, clusters: readonly Float64Array[]): Float64Array =>
    cornerInformation(options.motion, a, clusters, full, cu, cv, options.floor);
  const ofCells = (slip: Float64Array): Float64Array[] => groupGradients(sensors, consensus.weight, slip, groups);
  const alone = (): Alone | null => {
    const step = solveStep(options.motion, consensus.texture);
    if (!step) return null;
    const known = knownBy(consensus.texture.a, ofCells(slipsAfter(sensors, step)));
    const homography = fromLevel(stepped(s.sensedAt, step), template, level);
    return { homography, sigma: cornerSigmas(known, ALIGNMENT.unknown) };
  };
  const evidence = others.a.map((v, i) => v + consensus.texture.a[i]!);
  return {
    homography: normaliseHomography(fromLevel(s.n, template, level), template.centre),
    sensors,
    consensus,
    prior: s.prior,
    ...summarise(sensors, consensus, s.prior),
    information: knownBy(evidence, [...ofCells(consensus.slip), ...(options.other?.clusters(full) ?? [])]),
    alone,
    shares: { texture: traceOf(consensus.texture.a), edges: traceOf(others.a) },
  };
}

/** Whether a finer level has lost the agreement that a coarser one had: blur wipes out fine detail first. */
function losesAgreement(s: Settled, before: Settled): boolean {
  const now = summarise(s.sensors, s.consensus, s.prior);
  const then = summarise(before.sensors, before.consensus, before.prior);
  const isLess = now.support * now.agreeing < ALIGNMENT.keeps * then.support * then.agreeing;
  return isLess && now.support < ALIGNMENT.keepsAlways;
}

/**
 * Aligns from `start`. Levels are worked coarse to fine; when a finer level loses the agreement that a coarser one had
 * (motion blur wipes out fine detail first) the coarser result stands.
 * @param start template px to frame px
 * @returns null when no cell of any level lies inside the frame or the equations fall apart
 */
export function alignTexture(
  template: Template,
  pyramid: Pyramid,
  start: Matrix3,
  options: AlignmentOptions,
): Alignment | null {
  const { centre, halfSize } = template;
  const cu = options.pin.map((p) => (p[0] - centre[0]) / halfSize);
  const cv = options.pin.map((p) => (p[1] - centre[1]) / halfSize);
  const job: Job = { template, pyramid, options, cu, cv };
  let h: readonly number[] = start;
  let best: Settled | null = null;
  for (const t of [...template.levels].reverse()) {
    const level = Math.round(t.level + Math.log2(scaleAt(h, centre)));
    if (!Number.isFinite(level)) break;
    if (level < 0 && best) break;
    if (t.level > (options.coarsest ?? Infinity) && t !== template.levels[0]) continue;
    const p = pairing(job, t, level);
    const settled = settle(job, p, toLevel(h, template, p.level));
    if (!settled || (best && losesAgreement(settled, best))) break;
    best = settled;
    h = fromLevel(settled.n, template, settled.level);
  }
  return best && h.every(Number.isFinite) ? alignmentOf(job, best) : null;
}
