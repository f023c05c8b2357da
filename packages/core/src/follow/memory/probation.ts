/**
 * What is remembered of places on the Screen: trust in those that agree with the plane, and probation for those that
 * must prove first that they move with it (what lies around the pin; pictures in dark glass, which may be mirror
 * images). A mirror image keeps to the plane only while the plane hardly moves, so proof is agreement over a long way.
 */
import type { Matrix3 } from '../../geometry/matrix3';
import { inverse } from '../../geometry/matrix3';
import { mapPoint } from '../../geometry/homography';
import { distance } from '../../geometry/point';
import type { KeyPicture, Probation as Rule } from '../picture/key-pictures';
import type { FollowerState } from './follower-state';
import { TRUST_GRID } from '../picture/template';
import type { Alignment } from '../picture/texture-alignment';

const PLACES = TRUST_GRID * TRUST_GRID;
const PROBATION = {
  /** Share of what a frame shows that goes into the trust. By trial. */
  trustRate: 0.35,
  /** Trust from which a cell can come back. By trial. */
  trustFloor: 0.05,
  /** px of the reference; slip that still counts as agreement. By trial. */
  keeps: 0.3,
  /** px of the reference; slip that refutes. By trial. */
  refutes: 0.6,
  /** Frames of agreement that make a proof. By trial. */
  proofFrames: 6,
  /** px at 1920 wide; way on them that makes a proof: what hardly moves proves nothing. By trial. */
  proofWay: 40,
} as const;

/** How far each place of the picture is trusted to move with the plane, 0 to 1, on a square grid. */
export class Probation {
  readonly trust = new Float32Array(PLACES).fill(1);
  /** 1 where a place on probation has proved itself */
  readonly proven = new Float32Array(PLACES);
  private readonly frames = new Float32Array(PLACES);
  private readonly way = new Float32Array(PLACES);

  constructor(
    private readonly width: number,
    readonly rule: Rule,
  ) {}

  get state(): Pick<FollowerState, 'trust' | 'proof'> {
    return { trust: [...this.trust], proof: [...this.frames, ...this.way] };
  }

  restore(state: Pick<FollowerState, 'trust' | 'proof'>): void {
    this.trust.set(state.trust);
    this.frames.set(state.proof.slice(0, PLACES));
    this.way.set(state.proof.slice(PLACES));
    for (let p = 0; p < PLACES; p++) this.settle(p);
  }

  private settle(place: number): void {
    this.proven[place] =
      this.frames[place]! >= PROBATION.proofFrames && this.way[place]! * (1920 / this.width) >= PROBATION.proofWay
        ? 1
        : 0;
  }

  /** @param sigma of the corners, px: how well the plane itself is known on this frame */
  judge(a: Alignment, key: KeyPicture, homography: Matrix3, sigma: number): void {
    const counted = new Set<number>();
    const { sensors: s, consensus: c } = a;
    const t = s.level;
    const { template } = key;
    const toReference = inverse(key.homography);
    const middle = ((t.side - 1) / 2) * t.step;
    for (let k = 0; k < t.cells; k++) {
      if (!s.seen[k]) continue;
      const place = t.place[k]!;
      const same = s.correlation[k]! > 0.6;
      const slip = same ? Math.hypot(c.slip[2 * k]!, c.slip[2 * k + 1]!) * template.halfSize : Infinity;
      if (!t.probation[k]) {
        const target = same && c.agreement[k]! > 0.1 ? 1 : PROBATION.trustFloor;
        this.trust[place]! += PROBATION.trustRate * (target - this.trust[place]!);
        continue;
      }
      if (t.level > 0 || sigma > 0.5) continue;
      if (slip < PROBATION.keeps) {
        const at = mapPoint(toReference, [
          template.centre[0] + template.halfSize * (t.u[k]! + middle),
          template.centre[1] + template.halfSize * (t.v[k]! + middle),
        ]);
        if (!counted.has(place)) this.frames[place]!++;
        counted.add(place);
        this.way[place] = Math.max(this.way[place]!, distance(at, mapPoint(homography, at)));
      } else if (slip > PROBATION.refutes + sigma && same) this.frames[place] = this.way[place] = 0;
      this.settle(place);
    }
  }
}
