interface Size {
  readonly width: number;
  readonly height: number;
}

/** Shapes that differ by no more are the same: what lies on one picture can be scaled to the other. */
const SAME = 0.005;

export function sameShape(a: Size, b: Size): boolean {
  return Math.abs(a.width / a.height / (b.width / b.height) - 1) <= SAME;
}
