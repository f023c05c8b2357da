/**
 * Where a follower's frames show things because of their rows' own times, and what they tell of how long the readout
 * takes.
 */
import type { Matrix3 } from '../../geometry/matrix3';
import { quadToQuad } from '../../geometry/homography';
import type { Point } from '../../geometry/point';
import type { Quad } from '../../geometry/quad';
import { mapQuad } from '../../geometry/quad';
import type { Carried, TermMemory } from '../evidence/camera-evidence';
import { NO_TERM_MEMORY, READOUT, learnTerm } from '../evidence/camera-evidence';
import type { KeyPicture } from '../picture/key-pictures';
import type { Path } from './path';
import type { Offset } from '../timing/readout';
import { movementOf, offsetOf, readoutField } from '../timing/readout';
import type { FollowSetup } from './follower-state';
import { fastest } from '../timing/shutter';
import type { Sight } from './sight';
import type { Found } from '../evidence/verdict';

/** px a frame at 1920 wide from which rows' times show. By trial. */
const MOVES = 4;
/** px; smear beyond which nothing fine is told of them. By trial. */
const READABLE = 24;

/** Share of a frame; a readout known this well, and this near to the one in use, is that one. By trial. */
const KNOWN = 0.06;

/** What a rolling readout does to a follower's frames, and what they tell of it. */
export class RowTimes {
  memory: TermMemory = NO_TERM_MEMORY;

  constructor(
    private readonly sight: Sight,
    private readonly path: Path,
    private readonly setup: Pick<FollowSetup, 'motion' | 'readout'>,
  ) {}

  /** Whether the readout in use is known to be about right. */
  get isKnown(): boolean {
    const { information, sum } = this.memory;
    const off = Math.abs(sum / information - (this.setup.readout ?? 0));
    return information * KNOWN ** 2 > 1 && off < KNOWN;
  }

  /** What the rows' times do to a frame against a remembered one; `from` maps that one to it. */
  offsetAt(frame: number, corners: Quad, key: KeyPicture, from: Matrix3): Offset | undefined {
    return this.setup.readout ? offsetOf(this.fieldAt(frame, corners, key, from), this.setup.readout) : undefined;
  }

  private fieldAt(frame: number, corners: Quad, key: KeyPicture, from: Matrix3): Offset | null {
    return readoutField(
      from,
      movementOf(mapQuad(key.homography, this.sight.pin), key.velocity),
      movementOf(corners, this.path.velocityOf(frame, corners)),
      this.sight.lens.height,
    );
  }

  /** Corners as the picture shows them, each at its row's own time and through the lens. */
  seen(frame: number, corners: Quad): Quad {
    const offset = this.offsetAt(frame, corners, this.sight.keys[0]!, quadToQuad(this.sight.pin, corners));
    return this.sight.bowed(
      offset
        ? (corners.map((p, i): Point => {
            const [x, y] = offset(this.sight.pin[i]!, p);
            return [p[0] + x, p[1] + y];
          }) as unknown as Quad)
        : corners,
    );
  }

  /** Takes in a frame that was found; what it says is used when the shot is followed again. */
  learn(n: number, f: Found): void {
    const speed = fastest(this.path.velocityOf(n, f.corners)) * (1920 / this.sight.lens.width);
    if (this.setup.motion !== 'perspective' || f.smear.length > READABLE || speed < MOVES) return;
    const field = (key: KeyPicture, from: Matrix3): Carried | null => {
      const offset = this.fieldAt(n, f.corners, key, from);
      return (
        offset &&
        ((_h, site, at) => {
          const [x, y] = offset(site, at);
          return [-x, -y];
        })
      );
    };
    const { edges, alignment, key } = f;
    const picture = alignment && { alignment, key };
    const rows = this.sight.rowsOf(
      edges,
      edges && field(this.sight.keys[0]!, edges.homography),
      picture,
      alignment && field(key, alignment.homography),
    );
    this.memory = learnTerm(this.memory, rows, this.setup.readout ?? 0, READOUT, this.sight.lens.width);
  }
}
