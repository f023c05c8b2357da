/** The views of a camera file, in the axes that are reckoned with here (x right, y down, z ahead). */
import type { CameraFile, CameraFileFrame } from './camera-file';
import type { Point } from '../geometry/point';
import { matrixOf } from '../geometry/quaternion';
import type { Optics, View } from './view-model';
import { Projection, ROWS_AT, halfDiagonal, isRolling, viewOfNothing } from './view-model';

export interface FileView {
  readonly view: View;
  readonly optics: Optics;
  /** px; how far a point of the scene may be off in this frame, one axis */
  readonly sigma: number;
}

/** Y up and looking along -z to y down and looking along z, and back. */
const SIGN = [1, -1, -1] as const;

function viewOf({ position, rotation, rowTurn, rowBend }: CameraFileFrame): View {
  const m = matrixOf(rotation);
  const v = viewOfNothing();
  for (let r = 0; r < 3; r++) for (let c = 0; c < 3; c++) v[3 * r + c] = SIGN[r]! * SIGN[c]! * m[3 * c + r]!;
  for (let r = 0; r < 3; r++)
    v[9 + r] = -[0, 1, 2].reduce((sum, c) => sum + v[3 * r + c]! * SIGN[c]! * position[c]!, 0);
  [rowTurn, rowBend].forEach((turn, n) => turn?.forEach((t, k) => (v[ROWS_AT + 3 * n + k] = SIGN[k]! * t)));
  return v;
}

/** Times that a frame's places err together by more than each by itself. Measured on the generator's rooms. */
const TOGETHER = 5;

/** By frame. */
export function viewsOfFile(file: CameraFile): Map<number, FileView> {
  const hd = halfDiagonal(file.plate);
  const [k1, k2] = file.lens.radial;
  return new Map(
    file.frames.map((f) => [
      f.frame,
      {
        view: viewOf(f),
        optics: { focal: f.focal / hd, k1, k2 },
        sigma: (TOGETHER * Math.max(f.error, 0.05)) / Math.sqrt(Math.max(1, f.points)),
      },
    ]),
  );
}

/** Rows of a rolling shutter at which a point is looked for, one after the other. */
const ROW_STEPS = 4;

/** Where a point of the scene is seen, px; null behind the camera. @param at in the axes here */
export function seenAt(file: CameraFile, { view, optics }: FileView, at: readonly number[]): Point | null {
  const { width, height } = file.plate;
  const hd = halfDiagonal(file.plate);
  const p = new Projection();
  let row = 0;
  for (let step = 0; step < (isRolling(view) ? ROW_STEPS : 1); step++) {
    if (!p.place(view, optics, at, 0, row)) return null;
    row = p.y;
  }
  return [width / 2 + hd * p.x, height / 2 + hd * p.y];
}
