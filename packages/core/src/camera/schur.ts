/**
 * The normal equations of a bundle with its points eliminated.
 * Source: B. Triggs et al., Bundle Adjustment - A Modern Synthesis, 2000, section 6.1 (the Schur complement).
 */
import type { Bundle, BundleOptions, Observations } from './bundle';
import { expectedWeight, lossOf, offExpected, opticsOf, sharedOff, sharedWeight, weightOf } from './bundle';
import { PointBlock, damp, invert3, times3 } from './point-block';
import { Projection, SHARED_NUMBERS, VIEW_NUMBERS } from './view-model';

/** All views' numbers, then the shared ones, with the points eliminated. */
export interface ReducedSystem {
  readonly matrix: Float64Array;
  readonly right: Float64Array;
  readonly size: number;
  /** sum of the weighed squares, half diagonals squared */
  readonly cost: number;
}

/** What observations are gathered into. */
interface System {
  readonly matrix: Float64Array;
  readonly right: Float64Array;
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
    this.eachPoint(b, 'ties', { matrix, right }, (block, loss) => {
      cost += loss;
      this.eliminate(block, damping, matrix, right);
    });
    this.prior(b, matrix, right);
    return { matrix, right, size: n, cost };
  }

  /** The points' step once the others' is known. @param step of the others; null when they stay */
  pointSteps(b: Bundle, damping: number, step: Float64Array | null): Float64Array {
    const out = new Float64Array(b.points.length);
    const r = new Float64Array(3);
    const r2 = new Float64Array(3);
    this.eachPoint(b, step ? 'ties' : 'points', null, (block, _, point) => {
      damp(block.own, damping);
      if (!invert3(block.own)) return;
      r.set(block.right);
      for (let k = 0; step && k < block.count; k++)
        for (let c = 0; c < 3; c++) r[c]! -= block.ties[3 * k + c]! * step[block.at[k]!]!;
      times3(block.own, r, r2, 0);
      out.set(r2, 3 * point);
    });
    return out;
  }

  /** What is expected of the views' numbers and of the shared ones. */
  private prior(b: Bundle, matrix: Float64Array, right: Float64Array): void {
    const { scale, moves, shares } = this.options;
    shares.forEach((share, at) => {
      const k = this.firstShared + at;
      const weight = sharedWeight(share, scale);
      matrix[k * this.size + k]! += weight;
      right[k]! -= weight * sharedOff(share, b.optics);
    });
    b.views.forEach((v, i) => {
      if (this.places[i]! < 0) return;
      moves.forEach((m, at) => {
        const k = this.places[i]! + at;
        const weight = expectedWeight(m, v, scale);
        matrix[k * this.size + k]! += weight;
        right[k]! -= weight * offExpected(m, v, opticsOf(b, i).focal / b.optics.focal);
      });
    });
  }

  /**
   * Walks the points.
   * @param gathers what is worked out of each: how it is tied to the views and shared numbers, or itself alone
   * @param system where the views' and shared numbers' own blocks go, when it is given
   */
  private eachPoint(
    b: Bundle,
    gathers: 'ties' | 'points',
    system: System | null,
    visit: (block: PointBlock, loss: number, point: number) => void,
  ): void {
    const { obs, projection: p } = this;
    const optics = b.views.map((_, i) => opticsOf(b, i));
    const block = new PointBlock(this.firstShared, this.options.shares);
    const isTurning = !this.options.moves.includes(3);
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
        if (gathers === 'points') continue;
        block.addShared(p, weight);
        this.gather(block, this.places[view]!, weight);
        if (system) this.ownBlocks(this.places[view]!, weight, ex, ey, system);
      }
      if (isTurning) block.holdDistance(b.points, 3 * point);
      if (gathers === 'ties') block.close();
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
  private ownBlocks(place: number, weight: number, ex: number, ey: number, { matrix, right }: System): void {
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
