/**
 * Direct alignment of a remembered picture to a frame: inverse compositional Gauss-Newton, coarse to fine, each cell a
 * sensor of displacement, all brought to one motion by consensus.
 * Source: S. Baker and I. Matthews, Lucas-Kanade 20 Years On, IJCV 2004 (inverse compositional form).
 */
import { clamp } from '../clamp';
import type { Matrix3 } from '../geometry/matrix3';
import { multiply } from '../geometry/matrix3';
import { mapPoint, normaliseHomography, scaleAt } from '../geometry/homography';
import type { Point } from '../geometry/point';
import type { Quad } from '../geometry/quad';
import type { Pyramid } from '../image/pyramid';
import type { Sensors } from './cell-sensors';
import { senseCells } from './cell-sensors';
import type { Consensus, Levels } from './consensus';
import { agree, groupGradients, slipsAfter } from './consensus';
import { cornerInformation, cornerSigmas } from '../geometry/corner-information';
import type { Equations } from '../geometry/motion-equations';
import { addCorners, noEquations, pointJacobian, solveStep, stepped } from '../geometry/motion-equations';
import type { Motion } from '../geometry/motion';
import { tighter } from '../geometry/motion';
import type { Offset } from './readout';
import type { Template, TemplateLevel } from './template';
import { TRUST_GRID, noiseAtLevel } from './template';

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

/** Evidence of another kind that is solved together with the texture. */
export interface OtherEvidence {
  /** adds its terms; `h` maps normalised template coordinates to px of level 0 */
  add(eq: Equations, h: Matrix3): void;
  /** gradients of its clusters at the solution */
  clusters(h: Matrix3): Float64Array[];
}

export interface AlignmentOptions {
  readonly motion: Motion;
  /** each cell for itself when left out */
  readonly levels?: Levels;
  readonly frameNoise: number;
  /** trust remembered per place of the trust grid, 0 to 1; for cells on probation apart */
  readonly trust: Float32Array;
  readonly proven: Float32Array;
  /** corners of the pin on the template's frame, and where a frame-rate motion model expects them in the frame */
  readonly pin: Quad;
  readonly expected: Quad;
  /** standard deviation in px of `expected` */
  readonly expectedSigma: number;
  /** coarsest level to begin at; all levels when left out */
  readonly coarsest?: number;
  readonly other?: OtherEvidence;
  /** what is known beside evidence: adds its terms; `h` maps (u, v) of the corners to px of level 0 */
  readonly prior?: (eq: Equations, h: Matrix3, u: readonly number[], v: readonly number[]) => void;
  /** px of level 0 that a cell may slip by when the start is known well */
  readonly slipLimit?: number;
  /** whether a place (px of the template's frame) is followed on this frame; all are when left out */
  readonly followed?: ((at: Point) => boolean) | undefined;
  /** where the picture of a place of the template's frame lies beside the plane's motion; nowhere when left out */
  readonly offset?: Offset | undefined;
  /** px per corner that no evidence shows of itself */
  readonly floor: readonly number[];
}

const ALIGNMENT = {
  /** Weight from which a cell counts as agreeing. By trial. */
  agrees: 0.15,
  /** Steps a level; alignment either settles within a few or not at all. By trial. */
  maxIterations: 8,
  /** px of the level; an update that moves no corner farther ends the level. By trial. */
  converged: 0.01,
  /** px of the level; the same on levels that are only on the way. By trial. */
  roughlyConverged: 0.08,
  /** px of the level; updates below this are made with cubic samples, which are dearer. By trial. */
  goCubic: 0.3,
  /** px of its level that a single cell may always slip. By trial. */
  leastSlip: 0.15,
  /** px; what a corner counts as known to that nothing tells of. By trial. */
  unknown: 50,
  /** Cells a side of the trust grid that are taken to share their errors. By trial. */
  block: 4,
} as const;

const blocks = new WeakMap<TemplateLevel, Int32Array>();

/** Per cell, the block of the trust grid in which it lies. */
function blocksOf(t: TemplateLevel): Int32Array {
  const before = blocks.get(t);
  if (before) return before;
  const per = TRUST_GRID / ALIGNMENT.block;
  const own = Int32Array.from(t.place, (place) => {
    const row = Math.floor(Math.floor(place / TRUST_GRID) / ALIGNMENT.block);
    return row * per + Math.floor((place % TRUST_GRID) / ALIGNMENT.block);
  });
  blocks.set(t, own);
  return own;
}

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

/** Normalised template coordinates to px of a pyramid level. */
function toLevel(h: Matrix3, template: Template, level: number): number[] {
  const s = template.halfSize;
  const [cx, cy] = template.centre;
  const k = 1 / (1 << level);
  const n = multiply(h, [s, 0, cx, 0, s, cy, 0, 0, 1]);
  return n.map((v, i) => (i < 6 ? v * k : v));
}

function fromLevel(n: Matrix3, template: Template, level: number): number[] {
  const s = template.halfSize;
  const [cx, cy] = template.centre;
  return multiply(atLevelZero(n, level), [1 / s, 0, -cx / s, 0, 1 / s, -cy / s, 0, 0, 1]);
}

/** The same map to px of level 0. */
function atLevelZero(n: Matrix3, level: number): number[] {
  const k = 1 << level;
  return n.map((v, i) => (i < 6 ? v * k : v));
}

/** Per cell, x and y in px of the level. @param full normalised template coordinates to px of level 0 */
function cellOffsets(
  t: TemplateLevel,
  { centre, halfSize }: Template,
  full: Matrix3,
  level: number,
  offset: Offset,
): Float64Array {
  const out = new Float64Array(2 * t.cells);
  const middle = ((t.side - 1) / 2) * t.step;
  const k = 1 / (1 << level);
  for (let c = 0; c < t.cells; c++) {
    const u = t.u[c]! + middle;
    const v = t.v[c]! + middle;
    const [x, y] = offset([centre[0] + halfSize * u, centre[1] + halfSize * v], mapPoint(full, [u, v]));
    out[2 * c] = k * x;
    out[2 * c + 1] = k * y;
  }
  return out;
}

/** px of a level that a template must span before an affine motion is told from a shift. By trial. */
const AFFINE_SPAN = 24;
/** px of a level that it must span before perspective is told from an affine motion. By trial. */
const PERSPECTIVE_SPAN = 56;

/** @param span of the cells on the level, px */
function motionToldBy(span: number): Motion {
  if (span < AFFINE_SPAN) return 'translation';
  return span < PERSPECTIVE_SPAN ? 'affine' : 'perspective';
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
  let h: number[] = [...start];
  let best: Omit<Alignment, 'information' | 'alone'> | null = null;
  let information = (): Float64Array => new Float64Array(64);
  let alone = (): Alone | null => null;
  const whole = (): Alignment | null =>
    best && best.homography.every(Number.isFinite)
      ? {
          ...best,
          homography: normaliseHomography(best.homography, template.centre),
          information: information(),
          alone,
        }
      : null;
  const s = template.halfSize;
  const [cx, cy] = template.centre;
  const rows = new Float64Array(16);
  const cu = options.pin.map((p) => (p[0] - cx) / s);
  const cv = options.pin.map((p) => (p[1] - cy) / s);
  for (const t of [...template.levels].reverse()) {
    const imageLevel = Math.round(t.level + Math.log2(scaleAt(h, template.centre)));
    if (!Number.isFinite(imageLevel)) return whole();
    if (imageLevel < 0 && best) break;
    if (t.level > (options.coarsest ?? Infinity) && t !== template.levels[0]) continue;
    const level = clamp(imageLevel, 0, pyramid.length - 1);
    const image = pyramid[level]!;
    const span = (2 * s) / (1 << t.level);
    const motion = tighter(options.motion, motionToldBy(span));
    const finest = t.level === 0 || level === 0;
    const noise = Math.max(0.3, noiseAtLevel(options.frameNoise, level));
    const middle = ((t.side - 1) / 2) * t.step;
    const { followed } = options;
    const prior = Float64Array.from(t.place, (p, c) =>
      followed && !followed([cx + s * (t.u[c]! + middle), cy + s * (t.v[c]! + middle)])
        ? 0
        : (t.probation[c] ? options.proven[p]! : 1) * options.trust[p]!,
    );
    const tolerated = ALIGNMENT.leastSlip * t.step;
    const most =
      options.slipLimit === undefined
        ? Infinity
        : Math.max(ALIGNMENT.leastSlip, options.slipLimit / (1 << t.level)) * t.step;
    let n = toLevel(h, template, level);
    let sensedAt = n;
    let sensors: Sensors | null = null;
    let consensus: Consensus | null = null;
    let others = noEquations();
    let cubic = false;
    for (let iteration = 0; iteration < ALIGNMENT.maxIterations; iteration++) {
      const full = atLevelZero(n, level);
      sensedAt = n;
      sensors = senseCells(
        t,
        image,
        n,
        cubic,
        noise,
        options.offset && cellOffsets(t, template, full, level, options.offset),
      );
      others = noEquations();
      options.other?.add(others, full);
      const rest: Equations = { a: others.a.slice(), b: others.b.slice() };
      addCorners(rest, full, cu, cv, options.expected, options.expectedSigma);
      options.prior?.(rest, full, cu, cv);
      consensus = agree(sensors, {
        motion,
        levels: options.levels ?? 'cells',
        prior,
        rest,
        tolerated,
        most,
        groups: blocksOf(t),
      });
      if (!consensus.step || options.motion === 'still') break;
      const next = stepped(n, consensus.step);
      let moved = 0;
      for (let i = 0; i < 4; i++) {
        const before = pointJacobian(n, cu[i]!, cv[i]!, rows);
        const after = pointJacobian(next, cu[i]!, cv[i]!, rows);
        moved = Math.max(moved, Math.hypot(before[0] - after[0], before[1] - after[1]));
      }
      if (!Number.isFinite(moved)) return whole();
      n = next;
      if (moved < (finest ? ALIGNMENT.converged : ALIGNMENT.roughlyConverged) && (cubic || !finest)) break;
      if (finest && (moved < ALIGNMENT.goCubic || iteration >= ALIGNMENT.maxIterations - 4)) cubic = true;
    }
    if (!sensors || !consensus) continue;
    const summary = summarise(sensors, consensus, prior);
    if (best && summary.support * summary.agreeing < 0.35 * best.support * best.agreeing && summary.support < 0.5)
      break;
    h = fromLevel(n, template, level);
    const full = atLevelZero(n, level);
    const evidence = others.a.map((v, i) => v + consensus!.texture.a[i]!);
    const [seen, agreed] = [sensors, consensus];
    const knownBy = (a: Float64Array, clusters: readonly Float64Array[]): Float64Array =>
      cornerInformation(options.motion, a, clusters, full, cu, cv, options.floor);
    const ofCells = (slip: Float64Array): Float64Array[] => groupGradients(seen, agreed.weight, slip, blocksOf(t));
    best = {
      homography: h,
      sensors,
      consensus,
      prior,
      ...summary,
      shares: { texture: traceOf(consensus.texture.a), edges: traceOf(others.a) },
    };
    information = () => knownBy(evidence, [...ofCells(agreed.slip), ...(options.other?.clusters(full) ?? [])]);
    const from = sensedAt;
    alone = () => {
      const step = solveStep(options.motion, agreed.texture);
      if (!step) return null;
      const sigma = cornerSigmas(knownBy(agreed.texture.a, ofCells(slipsAfter(seen, step))), ALIGNMENT.unknown);
      return { homography: fromLevel(stepped(from, step), template, level), sigma };
    };
  }
  return whole();
}
