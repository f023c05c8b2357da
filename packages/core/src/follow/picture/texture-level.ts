/**
 * One level of a direct alignment: inverse compositional Gauss-Newton, each cell a sensor of displacement, all brought to one
 * motion by consensus.
 * Source: S. Baker and I. Matthews, Lucas-Kanade 20 Years On, IJCV 2004 (inverse compositional form).
 */
import { clamp } from '../../clamp';
import type { Matrix3 } from '../../geometry/matrix3';
import { multiply } from '../../geometry/matrix3';
import { mapPoint } from '../../geometry/homography';
import type { Equations } from '../../geometry/motion-equations';
import { addCorners, noEquations, pointJacobian, stepped } from '../../geometry/motion-equations';
import type { Motion } from '../../geometry/motion';
import { tighter } from '../../geometry/motion';
import type { Point } from '../../geometry/point';
import type { Quad } from '../../geometry/quad';
import type { Pyramid } from '../../image/pyramid';
import type { Sensors } from './cell-sensors';
import { senseCells } from './cell-sensors';
import type { Consensus, Levels } from './consensus';
import { agree } from './consensus';
import type { Offset } from '../timing/readout';
import type { Template, TemplateLevel } from './template';
import { TRUST_GRID, noiseAtLevel } from './template';

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

const LEVEL = {
  /** Steps a level; alignment either settles within a few or not at all. By trial. */
  maxIterations: 8,
  /** px of the level; an update that moves no corner farther ends the level. By trial. */
  converged: 0.01,
  /** px of the level; the same on levels that are only on the way. By trial. */
  roughlyConverged: 0.08,
  /** px of the level; updates below this are made with cubic samples, which are dearer. By trial. */
  goCubic: 0.3,
  /** Steps, the last ones, that are made with those in any case. By trial. */
  lastCubic: 4,
  /** px of its level that a single cell may always slip. By trial. */
  leastSlip: 0.15,
  /** Cells a side of the trust grid that are taken to share their errors. By trial. */
  block: 4,
} as const;

const blocks = new WeakMap<TemplateLevel, Int32Array>();

/** Per cell, the block of the trust grid in which it lies. */
export function blocksOf(t: TemplateLevel): Int32Array {
  const before = blocks.get(t);
  if (before) return before;
  const per = TRUST_GRID / LEVEL.block;
  const own = Int32Array.from(t.place, (place) => {
    const row = Math.floor(Math.floor(place / TRUST_GRID) / LEVEL.block);
    return row * per + Math.floor((place % TRUST_GRID) / LEVEL.block);
  });
  blocks.set(t, own);
  return own;
}

/** Normalised template coordinates to px of a pyramid level. */
export function toLevel(h: Matrix3, template: Template, level: number): number[] {
  const s = template.halfSize;
  const [cx, cy] = template.centre;
  const k = 1 / (1 << level);
  const n = multiply(h, [s, 0, cx, 0, s, cy, 0, 0, 1]);
  return n.map((v, i) => (i < 6 ? v * k : v));
}

/** Px of a pyramid level's map back to that of the template's px to px of level 0. */
export function fromLevel(n: Matrix3, template: Template, level: number): number[] {
  const s = template.halfSize;
  const [cx, cy] = template.centre;
  return multiply(atLevelZero(n, level), [1 / s, 0, -cx / s, 0, 1 / s, -cy / s, 0, 0, 1]);
}

/** The same map to px of level 0. */
export function atLevelZero(n: Matrix3, level: number): number[] {
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

/** An alignment that is under way. */
export interface Job {
  readonly template: Template;
  readonly pyramid: Pyramid;
  readonly options: AlignmentOptions;
  /** the pin's corners in normalised template coordinates */
  readonly cu: readonly number[];
  readonly cv: readonly number[];
}

/** One level of the template on one of the frame. */
export interface Pairing {
  readonly t: TemplateLevel;
  /** of the frame's pyramid */
  readonly level: number;
  /** the motion that so small a picture tells */
  readonly motion: Motion;
  readonly isFinest: boolean;
  /** per cell, how far it was believed beforehand, 0 to 1; 0 where it is not followed on this frame */
  readonly prior: Float64Array;
}

/** What an alignment came to on one level. */
export interface Settled extends Pairing {
  /** normalised template coordinates to px of the level */
  readonly n: readonly number[];
  /** the same where the cells were last sensed */
  readonly sensedAt: readonly number[];
  readonly sensors: Sensors;
  readonly consensus: Consensus;
  /** of the evidence beside the cells */
  readonly others: Equations;
}

/** @param imageLevel of the frame's pyramid that shows the picture as large; the nearest that there is will do */
export function pairing({ template, pyramid, options }: Job, t: TemplateLevel, imageLevel: number): Pairing {
  const { centre, halfSize } = template;
  const { followed, trust, proven } = options;
  const middle = ((t.side - 1) / 2) * t.step;
  const prior = Float64Array.from(t.place, (place, c) => {
    const at: Point = [centre[0] + halfSize * (t.u[c]! + middle), centre[1] + halfSize * (t.v[c]! + middle)];
    if (followed && !followed(at)) return 0;
    return (t.probation[c] ? proven[place]! : 1) * trust[place]!;
  });
  const span = (2 * halfSize) / (1 << t.level);
  const level = clamp(imageLevel, 0, pyramid.length - 1);
  const motion = tighter(options.motion, motionToldBy(span));
  return { t, level, motion, isFinest: t.level === 0 || level === 0, prior };
}

/** How far a step moves the fastest corner, px of the level. */
function movedBy({ cu, cv }: Job, n: readonly number[], next: readonly number[]): number {
  const rows = new Float64Array(16);
  let moved = 0;
  for (let i = 0; i < 4; i++) {
    const before = pointJacobian(n, cu[i]!, cv[i]!, rows);
    const after = pointJacobian(next, cu[i]!, cv[i]!, rows);
    moved = Math.max(moved, Math.hypot(before[0] - after[0], before[1] - after[1]));
  }
  return moved;
}

/** What the cells say where the picture is thought to be, and what all evidence makes of it. */
function look(job: Job, p: Pairing, n: readonly number[], cubic: boolean): Omit<Settled, 'n'> {
  const { template, pyramid, options, cu, cv } = job;
  const { t, level } = p;
  const { slipLimit = Infinity, levels = 'cells' } = options;
  const full = atLevelZero(n, level);
  const noise = Math.max(0.3, noiseAtLevel(options.frameNoise, level));
  const offsets = options.offset && cellOffsets(t, template, full, level, options.offset);
  const sensors = senseCells(t, pyramid[level]!, n, cubic, noise, offsets);
  const others = noEquations();
  options.other?.add(others, full);
  const rest: Equations = { a: others.a.slice(), b: others.b.slice() };
  addCorners(rest, full, cu, cv, options.expected, options.expectedSigma);
  options.prior?.(rest, full, cu, cv);
  const consensus = agree(sensors, {
    motion: p.motion,
    levels,
    prior: p.prior,
    rest,
    tolerated: LEVEL.leastSlip * t.step,
    most: Math.max(LEVEL.leastSlip, slipLimit / (1 << t.level)) * t.step,
    groups: blocksOf(t),
  });
  return { ...p, sensedAt: n, sensors, consensus, others };
}

/** Gauss-Newton steps on one level. @returns null when the equations fall apart */
export function settle(job: Job, p: Pairing, start: readonly number[]): Settled | null {
  const enough = p.isFinest ? LEVEL.converged : LEVEL.roughlyConverged;
  let n = start;
  let cubic = false;
  for (let iteration = 1; ; iteration++) {
    const seen = look(job, p, n, cubic);
    const { step } = seen.consensus;
    if (!step || job.options.motion === 'still') return { ...seen, n };
    const next = stepped(n, step);
    const moved = movedBy(job, n, next);
    if (!Number.isFinite(moved)) return null;
    n = next;
    const isSettled = moved < enough && (cubic || !p.isFinest);
    if (isSettled || iteration === LEVEL.maxIterations) return { ...seen, n };
    const isNear = moved < LEVEL.goCubic || iteration > LEVEL.maxIterations - LEVEL.lastCubic;
    if (p.isFinest && isNear) cubic = true;
  }
}
