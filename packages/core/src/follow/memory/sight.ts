/**
 * What is remembered of a Screen, seen through a lens: its pin, the region around it, the rails on the reference frame
 * and the key pictures. Everything is in px of the ideal picture behind the lens; {@link Sight.look} does it all anew
 * behind a better one.
 */
import { CoreError } from '../../errors';
import { mapPoint, normaliseHomography, quadToQuad } from '../../geometry/homography';
import type { Lens } from '../../geometry/lens';
import { distort, undistort, undistortQuad } from '../../geometry/lens';
import type { Matrix3 } from '../../geometry/matrix3';
import { IDENTITY, inverse } from '../../geometry/matrix3';
import type { Point } from '../../geometry/point';
import { distance } from '../../geometry/point';
import { boundsOf, insidePolygon } from '../../geometry/polygon';
import type { Quad } from '../../geometry/quad';
import { mapQuad, perspectiveCentre } from '../../geometry/quad';
import type { RawLuma } from '../../image/image';
import type { Pyramid } from '../../image/pyramid';
import { framePyramid } from '../../image/frame-pyramids';
import { DENSITIES } from '../picture/cells';
import type { EdgeFit } from '../edges/edge-solver';
import { firstSpread } from '../edges/edge-solver';
import type { Kept, KeyPicture, Probation as Rule } from '../picture/key-pictures';
import { levelsFor, makeKeyPicture } from '../picture/key-pictures';
import type { Carried, Row, TermMemory } from '../evidence/camera-evidence';
import {
  NO_TERM_MEMORY,
  RADIAL,
  betterTerm,
  carriedBow,
  cellRows,
  edgeRows,
  learnTerm,
} from '../evidence/camera-evidence';
import type { Measured } from '../evidence/lens-response';
import { planeResponse } from '../evidence/lens-response';
import { Probation } from './probation';
import type { Frame } from './remembered';
import { Remembered } from './remembered';
import type { Rail } from '../edges/rails';
import { findRails } from '../edges/rails';
import type { Region } from '../outline/region';
import { followRegion } from '../outline/region';
import type { FollowSetup } from './follower-state';
import type { Alignment } from '../picture/texture-alignment';

const SIGHT = {
  /** Mean grey, 0 to 255, under which glass is taken for dark: what is seen in it may be a mirror image. By trial. */
  dark: 56,
  /** Own cells from which the screen has a picture to follow. By trial. */
  hasPicture: 24,
  /** px around the pin within which rails are looked for. By trial. */
  around: 60,
} as const;

/** A frame's picture as it was aligned to a key picture. */
export interface Pictured {
  readonly alignment: Alignment;
  readonly key: KeyPicture;
}

/** What is looked for in frames: rails, remembered pictures, the lens that they are seen through. */
export class Sight {
  pin: Quad;
  region: Region;
  centre: Point;
  rails: readonly Rail[] = [];
  railSpread: Float32Array = new Float32Array(0);
  /** of the pin, on which rails were found */
  sides = 0;
  lens: Lens;
  readonly probation: Probation;
  readonly remembered: Remembered;
  private memory: TermMemory = NO_TERM_MEMORY;

  constructor(
    private readonly setup: FollowSetup,
    private readonly referenceFrame: number,
    private readonly reference: RawLuma,
  ) {
    const { width, height } = reference;
    this.probation = new Probation(
      width,
      (corners, mean) =>
        this.isBeside(corners) || (this.region.surroundings !== null && this.sides === 4 && mean < SIGHT.dark),
    );
    this.remembered = new Remembered((f) => this.keyPictureOf(f));
    this.lens = { radial: setup.lens ?? 0, width, height };
    this.pin = setup.pin;
    this.region = followRegion(setup.pin, setup.patches, this.lens);
    this.centre = perspectiveCentre(setup.pin);
    this.look(this.lens.radial, []);
  }

  /** Cells that need no proof. */
  get ownCells(): number {
    return this.setup.evidence.includes('texture')
      ? (this.keys[0]!.template.levels[0]?.probation.reduce((s, p) => s + (p ? 0 : 1), 0) ?? 0)
      : 0;
  }

  get hasPicture(): boolean {
    return this.ownCells >= SIGHT.hasPicture;
  }

  get lensState(): TermMemory & { readonly radial: number } {
    return { radial: this.lens.radial, ...this.memory };
  }

  /** Takes up a stored lens; key pictures are added by the caller. */
  restoreLens({ radial, ...memory }: TermMemory & { readonly radial: number }): void {
    this.memory = memory;
    if (radial !== this.lens.radial) this.look(radial, []);
  }

  /** Looks at the reference and the other key pictures (corners in the real picture) through a lens. */
  private look(
    radial: number,
    others: readonly (Kept & { readonly frame: number; readonly luma: RawLuma; readonly corners: Quad })[],
  ): void {
    this.lens = { ...this.lens, radial };
    this.pin = this.straight(this.setup.pin);
    this.region = followRegion(this.setup.pin, this.setup.patches, this.lens);
    this.centre = perspectiveCentre(this.pin);
    const rails = this.setup.evidence.includes('edges') ? this.railsOfReference() : [];
    if (rails.length !== this.rails.length || rails.some((r, i) => r.side !== this.rails[i]!.side))
      this.railSpread = firstSpread(rails);
    this.rails = rails;
    this.sides = new Set(rails.map((r) => r.side)).size;
    const velocity = this.keys[0]?.velocity ?? [];
    this.remembered.keys = [];
    this.remembered.add({
      ...{ frame: this.referenceFrame, luma: this.reference, homography: IDENTITY },
      kept: { sigma: [0, 0, 0, 0], velocity, picture: 0 },
    });
    for (const { made: _made, ...k } of others)
      this.remembered.add({ ...k, homography: quadToQuad(this.pin, this.straight(k.corners)), kept: k });
  }

  private railsOfReference(): Rail[] {
    const b = boundsOf(this.pin);
    const [image] = framePyramid(
      this.reference,
      1,
      { x0: b.x0 - SIGHT.around, y0: b.y0 - SIGHT.around, x1: b.x1 + SIGHT.around, y1: b.y1 + SIGHT.around },
      this.lens,
    );
    return findRails(this.pin, image!, this.region.ignore);
  }

  /** Of a remembered picture; none where neither it nor edges, which it judges, are evidence: spots and hand keys ask nothing of it. */
  private get cellsWanted(): number {
    const { evidence, density } = this.setup;
    return evidence.includes('texture') || evidence.includes('edges') ? DENSITIES[density] : 0;
  }

  private keyPictureOf({ frame, luma, homography, kept }: Frame): KeyPicture {
    // What appeared on the glass at once is no mirror image.
    const rule: Rule = kept.picture ? (corners) => this.isBeside(corners) : this.probation.rule;
    return makeKeyPicture(frame, luma, homography, kept, this.region, this.cellsWanted, rule, this.lens);
  }

  /** Whether something lies outside the pin, where it is tried for moving with it. */
  private isBeside(corners: readonly Point[]): boolean {
    return this.region.surroundings !== null && corners.some((p) => !insidePolygon(p, this.pin));
  }

  /** The reference first. */
  get keys(): readonly KeyPicture[] {
    return this.remembered.keys;
  }

  /** Of the picture that is shown on a frame, the remembered view that is nearest to `h`. */
  keyFor(h: Matrix3, frame: number): KeyPicture {
    return this.remembered.viewFor(h, this.centre, this.remembered.shownOn(frame));
  }

  /** How the reference frame itself moves, once a frame beside it tells. */
  set referenceVelocity(velocity: readonly Point[]) {
    this.remembered.keys[0] = { ...this.keys[0]!, velocity };
  }

  /** From the real picture to the ideal one, and back. */
  straight(corners: Quad): Quad {
    return undistortQuad(this.lens, corners);
  }

  bowed(corners: Quad): Quad {
    return corners.map((p) => distort(this.lens, p)) as unknown as Quad;
  }

  /** From px of the picture to px of the reference's picture, where the plane's corners are there; both bowed. */
  toPlane(corners: Quad): (p: Point) => Point {
    // Most frames have nothing that passes in front: then it is not asked for.
    let back: Matrix3 | null = null;
    return (p) => {
      back ??= inverse(quadToQuad(this.pin, corners));
      return distort(this.lens, mapPoint(back, undistort(this.lens, p)));
    };
  }

  /** Reference frame to frame as the picture shows them, from the corners there. */
  delivered(corners: Quad): readonly number[] {
    return normaliseHomography(quadToQuad(this.setup.pin, corners), perspectiveCentre(this.setup.pin));
  }

  /** The frame around where `h` puts the Screen, until the next is asked for on this thread. */
  pyramidFor(luma: RawLuma, h: Matrix3, margin: number, levels = levelsFor(this.region.core)): Pyramid {
    const mapped = boundsOf(
      [...this.region.follow.flat(), ...this.pin, ...(this.region.surroundings ?? [])].map((p) => mapPoint(h, p)),
    );
    const window = { x0: mapped.x0 - margin, y0: mapped.y0 - margin, x1: mapped.x1 + margin, y1: mapped.y1 + margin };
    const whole = !Object.values(window).every(Number.isFinite);
    return framePyramid(luma, levels, whole ? null : window, this.lens);
  }

  /** What a frame's edges and picture say of a term that moves them so. */
  rowsOf(edges: EdgeFit | null, ofEdges: Carried | null, picture: Pictured | null, ofPicture: Carried | null): Row[][] {
    return [
      edges && ofEdges ? edgeRows(edges, distance(this.pin[0], this.pin[2]) / 2, this.centre, ofEdges) : [],
      picture && ofPicture ? cellRows(picture.alignment, picture.key.template, ofPicture) : [],
    ];
  }

  /** See {@link planeResponse}; null as well where the motion is not a free one (perspective). */
  responseToLens(edges: EdgeFit | null, picture: Pictured | null): number[] | null {
    if (this.setup.motion !== 'perspective') return null;
    const carried = carriedBow(this.lens);
    const [ofEdges = [], ofPicture = []] = this.rowsOf(edges, carried, picture, carried);
    const measured: Measured[] = [];
    if (edges)
      measured.push({
        rows: ofEdges,
        ...{ centre: this.centre, scale: distance(this.pin[0], this.pin[2]) / 2 },
        ...{ homography: edges.homography, pin: this.pin, own: null },
      });
    // A remembered picture of which it is not known how it would lie itself says nothing.
    if (picture && (picture.key === this.keys[0] || picture.key.response)) {
      const { alignment, key } = picture;
      measured.push({
        rows: ofPicture,
        ...{ centre: key.template.centre, scale: key.template.halfSize },
        ...{ homography: alignment.homography, pin: mapQuad(key.homography, this.pin), own: key.response },
      });
    }
    return planeResponse(measured);
  }

  /**
   * Lets a frame's edges and picture tell of the lens, and looks anew behind a better one.
   * @param moved corners that the caller remembers, in ideal px; they are returned behind the new lens
   * @returns null while the lens stays the same
   */
  learnLens(edges: EdgeFit | null, picture: Pictured | null, moved: readonly Quad[]): Quad[] | null {
    const carried = carriedBow(this.lens);
    this.memory = learnTerm(
      this.memory,
      this.rowsOf(edges, carried, picture, carried),
      this.lens.radial,
      RADIAL,
      this.lens.width,
    );
    const better = betterTerm(this.memory, this.lens.radial, RADIAL);
    if (better === null) return null;
    const kept = this.keys.slice(1).map((k) => ({ ...k, corners: this.bowed(mapQuad(k.homography, this.pin)) }));
    const real = moved.map((q) => this.bowed(q));
    this.look(better, kept);
    return real.map((q) => this.straight(q));
  }
}

/** @throws CoreError when nothing of the screen can be followed */
export function assertFollowable(sight: Sight, leastCells: number, leastSides: number): void {
  const cells = sight.ownCells;
  if (cells < leastCells && sight.sides < leastSides)
    throw new CoreError(
      'no-evidence',
      `Only ${cells} cells of the outline hold enough picture to follow on the reference frame, and edges were found on only ${sight.sides} of the pin's sides; draw a follow patch over something with texture that moves with the screen, or lay the pin onto the glass edges.`,
    );
}
