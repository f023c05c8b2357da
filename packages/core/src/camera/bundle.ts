/**
 * Views, points and optics adjusted together until all points are seen where they were found: damped least squares, the
 * points eliminated first (Schur complement), outliers weighed down.
 * Source: B. Triggs et al., Bundle Adjustment - A Modern Synthesis, 2000.
 */
import { choleskyOfEnvelope, choleskySolve } from '../geometry/linear-algebra';
import type { Optics, View } from './view-model';
import { Projection, ROWS_FIRST, SHARED_NUMBERS, VIEW_NUMBERS, movedView } from './view-model';

/** Where points were found in views. */
export interface Observations {
  readonly view: Int32Array;
  /** rising: the observations of a point stand together */
  readonly point: Int32Array;
  /** x and y each, half diagonals from the picture's middle */
  readonly xy: Float64Array;
}

export interface Bundle {
  readonly views: readonly View[];
  /** three numbers each */
  readonly points: Float64Array;
  readonly optics: Optics;
  /** a focal length for each view in place of the shared one, half diagonals */
  readonly focals: Float64Array | null;
}

export interface BundleOptions {
  /** which of a view's numbers move, by place: 0-2 turning, 3-5 shifting, 6 its own focal length, 7-9 its rows' turning */
  readonly moves: readonly number[];
  /** which of the shared numbers move: 0 focal length, 1 and 2 radial */
  readonly shares: readonly number[];
  /** views that stay where they are, by place */
  readonly still: ReadonlySet<number>;
  /** half diagonals; residuals beyond about this count as outliers */
  readonly scale: number;
  /** steps at the most */
  readonly rounds: number;
  /** share of the cost by which a step must still make it smaller */
  readonly leastGain: number;
  /** what is known of the focal length's logarithm beforehand */
  readonly focalPrior?: { readonly log: number; readonly sigma: number };
}

/** All views' numbers, then the shared ones, with the points eliminated. */
export interface ReducedSystem {
  readonly matrix: Float64Array;
  readonly right: Float64Array;
  readonly size: number;
  /** sum of the weighed squares, half diagonals squared */
  readonly cost: number;
}

/** Weight of a residual of squared length `e2`: Cauchy's. Source: P. Huber, Robust Statistics, 1981 (M-estimation). */
export const weightOf = (e2: number, scale: number): number => 1 / (1 + e2 / (scale * scale));
const lossOf = (e2: number, scale: number): number => scale * scale * Math.log1p(e2 / (scale * scale));

const DAMPING = {
  /** First damping, share of the diagonal. By trial. */
  first: 1e-3,
  /** Damping at which no step helps any more. By trial. */
  most: 1e6,
  /** Added to a point's diagonal, so that one at infinity can be solved. By trial. */
  point: 1e-12,
} as const;

export const opticsOf = (b: Bundle, view: number): Optics =>
  b.focals ? { ...b.optics, focal: b.focals[view]! } : b.optics;

/** Robust cost of a bundle, half diagonals squared. */
export function costOf(b: Bundle, obs: Observations, scale: number): number {
  const p = new Projection();
  const optics = b.views.map((_, i) => opticsOf(b, i));
  let sum = 0;
  for (let i = 0; i < obs.view.length; i++) {
    const view = obs.view[i]!;
    const isAhead = p.place(b.views[view]!, optics[view]!, b.points, 3 * obs.point[i]!, obs.xy[2 * i + 1]!);
    const e2 = isAhead ? (p.x - obs.xy[2 * i]!) ** 2 + (p.y - obs.xy[2 * i + 1]!) ** 2 : 1;
    sum += lossOf(e2, scale);
  }
  return sum;
}

/** Inverse of a symmetric 3x3 in `v` (xx xy xz yy yz zz), in place. @returns false when singular */
function invert3(v: Float64Array): boolean {
  const [a, b, c, d, e, f] = [v[0]!, v[1]!, v[2]!, v[3]!, v[4]!, v[5]!];
  const A = d * f - e * e;
  const B = c * e - b * f;
  const C = b * e - c * d;
  const det = a * A + b * B + c * C;
  if (!(det > 0)) return false;
  v[0] = A / det;
  v[1] = B / det;
  v[2] = C / det;
  v[3] = (a * f - c * c) / det;
  v[4] = (b * c - a * e) / det;
  v[5] = (a * d - b * b) / det;
  return true;
}

/** What one point tells: its own 3x3 block and right side, and its ties to the other numbers. */
class PointBlock {
  readonly own = new Float64Array(6);
  readonly right = new Float64Array(3);
  /** how many numbers it is tied to */
  count = 0;
  /** place of each tied number in the system, rising */
  readonly at: Int32Array;
  /** three numbers for each tied number */
  readonly ties: Float64Array;
  /** the same, times the inverse of its own block */
  readonly solved: Float64Array;
  private readonly shared: Float64Array;

  constructor(
    private readonly first: number,
    private readonly shares: readonly number[],
  ) {
    this.shared = new Float64Array(3 * shares.length);
    const most = first + shares.length;
    this.at = new Int32Array(most);
    this.ties = new Float64Array(3 * most);
    this.solved = new Float64Array(3 * most);
  }

  clear(): void {
    this.own.fill(0);
    this.right.fill(0);
    this.shared.fill(0);
    this.count = 0;
  }

  add(p: Projection, weight: number, ex: number, ey: number): void {
    const j = p.byPoint;
    for (let r = 0, k = 0; r < 3; r++) {
      this.right[r]! -= weight * (j[r]! * ex + j[3 + r]! * ey);
      for (let c = r; c < 3; c++, k++) this.own[k]! += weight * (j[r]! * j[c]! + j[3 + r]! * j[3 + c]!);
    }
    for (let s = 0; s < this.shares.length; s++) {
      const a = p.byShared[this.shares[s]!]!;
      const b = p.byShared[SHARED_NUMBERS + this.shares[s]!]!;
      for (let c = 0; c < 3; c++) this.shared[3 * s + c]! += weight * (a * j[c]! + b * j[3 + c]!);
    }
  }

  tie(place: number, weight: number, byX: number, byY: number, j: Float64Array): void {
    const k = 3 * this.count;
    this.at[this.count++] = place;
    for (let c = 0; c < 3; c++) this.ties[k + c] = weight * (byX * j[c]! + byY * j[3 + c]!);
  }

  /** With the shared numbers' ties at the end. */
  close(): void {
    for (let s = 0; s < this.shares.length; s++) {
      for (let c = 0; c < 3; c++) this.ties[3 * this.count + c] = this.shared[3 * s + c]!;
      this.at[this.count++] = this.first + s;
    }
  }
}

/** Builds the reduced system of a bundle, and solves the points for a step of it. */
export class Schur {
  private readonly projection = new Projection();
  private readonly places: Int32Array;
  private readonly firstShared: number;
  readonly size: number;

  constructor(
    private readonly obs: Observations,
    views: number,
    private readonly options: BundleOptions,
  ) {
    const { moves, shares, still } = options;
    this.places = new Int32Array(views);
    let at = 0;
    for (let v = 0; v < views; v++) {
      const isStill = still.has(v);
      this.places[v] = isStill ? -1 : at;
      if (!isStill) at += moves.length;
    }
    this.firstShared = at;
    this.size = at + shares.length;
  }

  /** Place of a view's first number in the system; -1 for one that stays. */
  placeOfView(view: number): number {
    return this.places[view]!;
  }

  /** The system, damped. */
  reduced(b: Bundle, damping: number): ReducedSystem {
    const n = this.size;
    const matrix = new Float64Array(n * n);
    const right = new Float64Array(n);
    let cost = 0;
    this.eachPoint(b, matrix, right, (block, loss) => {
      cost += loss;
      this.eliminate(block, damping, matrix, right);
    });
    this.prior(b, matrix, right);
    return { matrix, right, size: n, cost };
  }

  /** The points' step once the others' is known. */
  pointSteps(b: Bundle, damping: number, step: Float64Array): Float64Array {
    const out = new Float64Array(b.points.length);
    const r2 = new Float64Array(3);
    this.eachPoint(b, null, null, (block, _, point) => {
      damp(block.own, damping);
      if (!invert3(block.own)) return;
      const r = block.right.slice();
      for (let k = 0; k < block.count; k++)
        for (let c = 0; c < 3; c++) r[c]! -= block.ties[3 * k + c]! * step[block.at[k]!]!;
      times3(block.own, r, r2, 0);
      out.set(r2, 3 * point);
    });
    return out;
  }

  private prior(b: Bundle, matrix: Float64Array, right: Float64Array): void {
    const { focalPrior, shares, scale, moves } = this.options;
    b.views.forEach((v, i) => {
      if (this.places[i]! < 0) return;
      moves.forEach((m, at) => {
        const k = this.places[i]! + at;
        const weight = expectedWeight(m, scale);
        matrix[k * this.size + k]! += weight;
        right[k]! -= weight * offExpected(m, v, opticsOf(b, i).focal / b.optics.focal);
      });
    });
    const k = shares.indexOf(0);
    if (!focalPrior || k < 0) return;
    const at = this.firstShared + k;
    const weight = (scale / focalPrior.sigma) ** 2;
    matrix[at * this.size + at]! += weight;
    right[at]! -= weight * (Math.log(b.optics.focal) - focalPrior.log);
  }

  /** Walks the points; the numbers' own blocks go into `matrix` and `right` when they are given. */
  private eachPoint(
    b: Bundle,
    matrix: Float64Array | null,
    right: Float64Array | null,
    visit: (block: PointBlock, loss: number, point: number) => void,
  ): void {
    const { obs, projection: p } = this;
    const optics = b.views.map((_, i) => opticsOf(b, i));
    const block = new PointBlock(this.firstShared, this.options.shares);
    for (let i = 0; i < obs.point.length;) {
      const point = obs.point[i]!;
      block.clear();
      let loss = 0;
      for (; i < obs.point.length && obs.point[i] === point; i++) {
        const view = obs.view[i]!;
        if (!p.of(b.views[view]!, optics[view]!, b.points, 3 * point, obs.xy[2 * i + 1]!)) continue;
        const ex = p.x - obs.xy[2 * i]!;
        const ey = p.y - obs.xy[2 * i + 1]!;
        const e2 = ex * ex + ey * ey;
        const weight = weightOf(e2, this.options.scale);
        loss += lossOf(e2, this.options.scale);
        block.add(p, weight, ex, ey);
        this.gather(block, this.places[view]!, weight);
        if (matrix && right) this.ownBlocks(this.places[view]!, weight, [ex, ey], matrix, right);
      }
      block.close();
      visit(block, loss, point);
    }
  }

  private gather(block: PointBlock, place: number, weight: number): void {
    if (place < 0) return;
    const { byView, byPoint } = this.projection;
    const { moves } = this.options;
    for (let k = 0; k < moves.length; k++)
      block.tie(place + k, weight, byView[moves[k]!]!, byView[VIEW_NUMBERS + moves[k]!]!, byPoint);
  }

  /** Adds one observation to the blocks of its view and of the shared numbers. */
  private ownBlocks(
    place: number,
    weight: number,
    [ex, ey]: readonly [number, number],
    matrix: Float64Array,
    right: Float64Array,
  ): void {
    const { byView, byShared } = this.projection;
    const { moves, shares } = this.options;
    const own = place < 0 ? 0 : moves.length;
    const n = this.size;
    const count = own + shares.length;
    for (let r = 0; r < count; r++) {
      const at = r < own ? place + r : this.firstShared + r - own;
      const ax = r < own ? byView[moves[r]!]! : byShared[shares[r - own]!]!;
      const ay = r < own ? byView[VIEW_NUMBERS + moves[r]!]! : byShared[SHARED_NUMBERS + shares[r - own]!]!;
      right[at]! -= weight * (ax * ex + ay * ey);
      for (let c = 0; c <= r; c++) {
        const to = c < own ? place + c : this.firstShared + c - own;
        const bx = c < own ? byView[moves[c]!]! : byShared[shares[c - own]!]!;
        const by = c < own ? byView[VIEW_NUMBERS + moves[c]!]! : byShared[SHARED_NUMBERS + shares[c - own]!]!;
        matrix[at * n + to]! += weight * (ax * bx + ay * by);
      }
    }
  }

  /** Takes a point out of the system; only the lower triangle is kept. */
  private eliminate(block: PointBlock, damping: number, matrix: Float64Array, right: Float64Array): void {
    damp(block.own, damping);
    if (!invert3(block.own)) return;
    const { at, ties, solved, count } = block;
    const n = this.size;
    const [e, f, g] = [block.right[0]!, block.right[1]!, block.right[2]!];
    for (let r = 0; r < count; r++) times3(block.own, ties, solved, 3 * r);
    for (let r = 0; r < count; r++) {
      const x = solved[3 * r]!;
      const y = solved[3 * r + 1]!;
      const z = solved[3 * r + 2]!;
      right[at[r]!]! -= x * e + y * f + z * g;
      const row = at[r]! * n;
      // Places rise: the observations of a point go by rising view, and the shared numbers come last.
      for (let c = 0, k = 0; c <= r; c++, k += 3)
        matrix[row + at[c]!]! -= x * ties[k]! + y * ties[k + 1]! + z * ties[k + 2]!;
    }
  }
}

function damp(own: Float64Array, damping: number): void {
  for (const k of [0, 3, 5]) own[k] = own[k]! * (1 + damping) + DAMPING.point;
}

/** Symmetric 3x3 (xx xy xz yy yz zz) times the vector at a place, to the same place of `out`. */
function times3(m: Float64Array, v: Float64Array, out: Float64Array, at: number): void {
  const [x, y, z] = [v[at]!, v[at + 1]!, v[at + 2]!];
  out[at] = m[0]! * x + m[1]! * y + m[2]! * z;
  out[at + 1] = m[1]! * x + m[3]! * y + m[4]! * z;
  out[at + 2] = m[2]! * x + m[4]! * y + m[5]! * z;
}

const geometricMean = (v: Float64Array): number => Math.exp(v.reduce((s, f) => s + Math.log(f), 0) / v.length);

/** A bundle moved by a step of its numbers. */
function stepped(b: Bundle, schur: Schur, options: BundleOptions, step: Float64Array, points: Float64Array): Bundle {
  const { moves, shares } = options;
  const full = new Float64Array(VIEW_NUMBERS);
  const focals = b.focals?.slice() ?? null;
  const views = b.views.map((v, i) => {
    const at = schur.placeOfView(i);
    if (at < 0) return v;
    full.fill(0);
    for (let k = 0; k < moves.length; k++) full[moves[k]!] = step[at + k]!;
    if (focals) focals[i]! *= Math.exp(full[6]!);
    return movedView(v, full);
  });
  const shared = new Float64Array(SHARED_NUMBERS);
  const first = schur.size - shares.length;
  shares.forEach((s, k) => (shared[s] = step[first + k]!));
  const optics = {
    // Of a zoom the shared one is the mean of its own, about which they are expected.
    focal: focals ? geometricMean(focals) : b.optics.focal * Math.exp(shared[0]!),
    k1: b.optics.k1 + shared[1]!,
    k2: b.optics.k2 + shared[2]!,
  };
  return { views, points: b.points.map((v, i) => v + points[i]!), optics, focals };
}

/** How far numbers of a view are expected to be off what is usual; what cannot be told stays there. By trial. */
const EXPECTED = {
  /** share of the shared focal length, of a zoom's own one */
  zoom: 0.4,
  /** radians a half diagonal that rows are turned by */
  rows: 0.02,
} as const;

/** Weight of what is expected of a view's number; 0 for turning and shifting. */
export function expectedWeight(move: number, scale: number): number {
  if (move >= ROWS_FIRST) return (scale / EXPECTED.rows) ** 2;
  return move === ROWS_FIRST - 1 ? (scale / EXPECTED.zoom) ** 2 : 0;
}

/** How far a view's number is off what is expected of it. @param zoom its focal length by the shared one */
export function offExpected(move: number, v: View, zoom: number): number {
  if (move >= ROWS_FIRST) return v[12 + move - ROWS_FIRST]!;
  return move === ROWS_FIRST - 1 ? Math.log(zoom) : 0;
}

function priorCost(b: Bundle, { focalPrior, scale, moves }: BundleOptions): number {
  const ofViews = b.views.reduce((sum, v, i) => {
    const zoom = opticsOf(b, i).focal / b.optics.focal;
    return moves.reduce((own, m) => own + expectedWeight(m, scale) * offExpected(m, v, zoom) ** 2, sum);
  }, 0);
  return (
    ofViews + (focalPrior ? (scale / focalPrior.sigma) ** 2 * (Math.log(b.optics.focal) - focalPrior.log) ** 2 : 0)
  );
}

/** Times that the points follow a step of the views by themselves. By trial. */
const FOLLOWING = 2;
/** Damping of that, share of their diagonal. By trial. */
const FOLLOWING_DAMPING = 1e-6;

/**
 * The points where the moved views see them best: far ones move along their rays in a way that one step does not foresee.
 * Source: Y. Jeong et al., Pushing the Envelope of Modern Methods for Bundle Adjustment, PAMI 2012 (embedded point
 * iterations).
 */
function withPointsFollowing(b: Bundle, schur: Schur): Bundle {
  const none = new Float64Array(schur.size);
  let points = b.points;
  for (let i = 0; i < FOLLOWING; i++) {
    const steps = schur.pointSteps({ ...b, points }, FOLLOWING_DAMPING, none);
    points = points.map((v, k) => v + steps[k]!);
  }
  return { ...b, points };
}

/** Adjusts a bundle. @returns it, and its robust cost in half diagonals squared */
export function adjust(start: Bundle, obs: Observations, options: BundleOptions): { bundle: Bundle; cost: number } {
  const schur = new Schur(obs, start.views.length, options);
  const whole = (b: Bundle): number => costOf(b, obs, options.scale) + priorCost(b, options);
  let bundle = start;
  let cost = whole(bundle);
  let damping: number = DAMPING.first;
  for (let round = 0; round < options.rounds; round++) {
    const { matrix, right, size } = schur.reduced(bundle, damping);
    for (let i = 0; i < size; i++) matrix[i * size + i]! *= 1 + damping;
    if (!choleskyOfEnvelope(matrix, size)) {
      damping *= 10;
      if (damping > DAMPING.most) break;
      continue;
    }
    choleskySolve(matrix, size, right);
    const next = withPointsFollowing(
      stepped(bundle, schur, options, right, schur.pointSteps(bundle, damping, right)),
      schur,
    );
    const left = whole(next);
    if (left < cost) {
      const gain = (cost - left) / cost;
      [bundle, cost, damping] = [next, left, Math.max(1e-9, damping / 8)];
      if (gain < options.leastGain) break;
    } else {
      damping *= 8;
      if (damping > DAMPING.most) break;
    }
  }
  return { bundle, cost };
}
