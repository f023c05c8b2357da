/**
 * The shot's own views of a Screen, gathered while it is followed, and what they tell of the lens and of its stiffness.
 */
import { cornerSigmas } from '../geometry/corner-information';
import { fromTriangle, triangle } from '../geometry/linear-algebra';
import { distance } from '../geometry/point';
import type { Quad } from '../geometry/quad';
import type { RigidScreen } from './rigid-screen';
import { calibrate } from './rigid-screen';

const STIFFNESS = {
  /** px at 1920 wide; corners known this well make a view that helps. By trial. */
  viewSigma: 0.4,
  /** Views that are kept. By trial. */
  mostViews: 48,
  /** Picture widths that they are apart. By trial. */
  spacing: 0.012,
} as const;

export interface StoredView {
  readonly corners: Quad;
  /** upper triangle of 8x8, px^-2 */
  readonly information: readonly number[];
}

/** What views of a Screen tell of its shape and of the lens, and which corners that allows elsewhere. */
export class Stiffness {
  private list: readonly StoredView[] = [];
  private known: RigidScreen | null | undefined;

  constructor(
    private readonly width: number,
    private readonly height: number,
  ) {}

  get views(): readonly StoredView[] {
    return this.list;
  }

  set views(views: readonly StoredView[]) {
    this.list = views;
    this.known = undefined;
  }

  /** Worked out when it is first asked for after a change. */
  get rigid(): RigidScreen | null {
    if (this.known === undefined)
      this.known = calibrate(
        this.list.map((v) => ({ corners: v.corners, information: fromTriangle(v.information) })),
        this.width,
        this.height,
      );
    return this.known;
  }

  add(corners: Quad, information: Float64Array): void {
    const sigma = Math.max(...cornerSigmas(information, 50)) * (1920 / this.width);
    const near = STIFFNESS.spacing * this.width;
    if (
      sigma > STIFFNESS.viewSigma ||
      this.list.length >= STIFFNESS.mostViews ||
      this.list.some((v) => v.corners.every((p, i) => distance(p, corners[i]!) < near))
    )
      return;
    this.views = [...this.list, { corners, information: triangle(information) }];
  }
}
