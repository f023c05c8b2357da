/** What is drawn into a Screen's plane. */
import type { Lens } from '../../geometry/lens';
import type { Matrix3 } from '../../geometry/matrix3';
import type { Quad } from '../../geometry/quad';
import type { BentSides } from '../shape/bend';
import type { EdgeShape } from '../shape/edge';
import type { FillPyramid } from '../fill/fill-pyramid';

export interface ElementTask {
  readonly fill: FillPyramid;
  /** of the pin on the frame, plate px */
  readonly corners: Quad;
  /** slot (0 to 1) to fill px, see placement.ts */
  readonly toFill: Matrix3;
  /** the fill ends where its picture ends instead of going on to the pin's sides */
  readonly ends: boolean;
  readonly bend: BentSides | null;
  readonly edge: EdgeShape;
  readonly aspect: number;
  /** the lens that bows the picture, its size in the same px */
  readonly lens?: Lens | null;
}
