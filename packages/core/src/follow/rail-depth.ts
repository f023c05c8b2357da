/**
 * Lines of a device that lie beside the plane of its glass: the rim of a thick body, a raised bezel. While the device
 * turns in its plane they keep their place; when it is tipped they slide out from under the glass or behind it, by their
 * depth times how differently they are looked at. How deep they lie is learnt from frames whose plane other lines tell;
 * until then they are doubted by what is usual.
 */
import { unitSquareToQuad } from '../geometry/homography';
import { outwardsOf } from '../geometry/line';
import type { Matrix3 } from '../geometry/matrix3';
import type { Point } from '../geometry/point';
import { distance } from '../geometry/point';
import type { Camera } from '../geometry/pose';
import type { Quad } from '../geometry/quad';
import { mapQuad, signedArea } from '../geometry/quad';
import { median } from '../statistics';
import type { EdgeHit } from './edge-fit';
import { residualOf } from './edge-fit';
import type { Rail } from './rails';
import { outwardsAt } from './side-looks';

const DEPTH = {
  /** Standard deviation of a line's depth, as a share of the pin's shorter side. By trial. */
  usual: 0.03,
  /** px outwards from the pin from which a line may lie beside its plane. By trial. */
  offGlass: 2,
  /** Hits of a rail that tell of its depth. By trial. */
  leastHits: 8,
  /** px by which one frame may be wrong about a rail's place: frames share their errors. By trial. */
  oneFrame: 0.5,
} as const;

type Vector = readonly [number, number, number];

const cross = (a: Vector, b: Vector): Vector => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];

/** The plane of a quad before the camera: its unit square's origin and sides, in one unknown unit. */
function planeOf(corners: Quad, { width, height, focal }: Camera): readonly [origin: Vector, right: Vector, down: Vector] {
  const f = focal * width;
  const h = unitSquareToQuad(corners.map(([x, y]): Point => [(x - width / 2) / f, (y - height / 2) / f]));
  const column = (i: number): Vector => [h[i]!, h[3 + i]!, h[6 + i]!];
  return [column(2), column(0), column(1)];
}

/**
 * Per side of a flat rectangle, by how much of its depth a line behind the side's middle is seen outwards of where the
 * plane would have it; depth and shift as large as the side is seen.
 */
export function slideOfSides(corners: Quad, camera: Camera): number[] {
  const [origin, right, down] = planeOf(corners, camera);
  const normal = cross(right, down);
  const size = Math.hypot(...normal);
  const turn = signedArea(corners) > 0 ? 1 : -1;
  const middles: readonly Point[] = [
    [0.5, 0],
    [1, 0.5],
    [0.5, 1],
    [0, 0.5],
  ];
  return middles.map(([s, t], side) => {
    const at = origin.map((o, i) => o + s * right[i]! + t * down[i]!);
    const a = corners[side]!;
    const b = corners[(side + 1) % 4]!;
    const along = side % 2 === 0 ? right : down;
    // Seen px of a unit of the plane along the side, and the way of the picture's px a unit of depth.
    const scale = distance(a, b) / Math.hypot(...along);
    const k = (camera.focal * camera.width) / (at[2]! * size);
    const x = k * (normal[0] - (at[0]! / at[2]!) * normal[2]);
    const y = k * (normal[1] - (at[1]! / at[2]!) * normal[2]);
    const out = outwardsOf(a, b, turn);
    return (x * out[0] + y * out[1]) / scale;
  });
}

/** What frames told of each rail's depth: weighted sum and weight, px of the reference and px^-2. */
export interface DepthMemory {
  readonly sum: readonly number[];
  readonly weight: readonly number[];
}

export const NO_DEPTH_MEMORY: DepthMemory = { sum: [], weight: [] };

/** Per side, px of the frame outwards by which a px of depth, of the reference, shows itself. */
function slidesAt(pin: Quad, at: Matrix3, camera: Camera): number[] {
  const seen = mapQuad(at, pin);
  const before = slideOfSides(pin, camera);
  const now = slideOfSides(seen, camera);
  return pin.map((p, side) => {
    const next = (side + 1) % 4;
    const along = distance(seen[side]!, seen[next]!) / distance(p, pin[next]!);
    const across = Math.hypot(...outwardsAt(pin, at, side).step);
    return along * now[side]! - across * before[side]!;
  });
}

/** px^-2; what is known of a depth before any frame told. */
function usualWeight(pin: Quad): number {
  const shorter = Math.min(...pin.map((p, i) => distance(p, pin[(i + 1) % 4]!)));
  return 1 / (DEPTH.usual * shorter) ** 2;
}

/** Whether a rail lies on the glass, or on what it shows. */
function isOnGlass(r: Rail): boolean {
  return r.offset < DEPTH.offGlass;
}

/**
 * Per rail, px of the frame by which it may lie beside where the plane has it; 0 for those on the glass.
 * @param at reference frame to frame
 */
export function depthDoubt(
  rails: readonly Rail[],
  pin: Quad,
  at: Matrix3,
  camera: Camera,
  memory: DepthMemory,
): Float32Array {
  const slides = slidesAt(pin, at, camera);
  const usual = usualWeight(pin);
  return Float32Array.from(rails, (r, k) => {
    if (isOnGlass(r)) return 0;
    const weight = usual + (memory.weight[k] ?? 0);
    const depth = Math.hypot((memory.sum[k] ?? 0) / weight, 1 / Math.sqrt(weight));
    return Math.abs(slides[r.side]!) * depth;
  });
}

/** A frame's edges, and how well its plane is known. */
export interface Judged {
  readonly hits: readonly EdgeHit[];
  /** reference frame to frame */
  readonly plane: Matrix3;
  /** of the corners, px */
  readonly sigma: number;
}

/** What is remembered after a frame whose plane is known. */
export function learnDepth(
  memory: DepthMemory,
  rails: readonly Rail[],
  pin: Quad,
  camera: Camera,
  { hits, plane, sigma }: Judged,
): DepthMemory {
  const slides = slidesAt(pin, plane, camera);
  const told = rails.map((r, k) => {
    const own = hits.filter((q) => q.rail === k);
    if (isOnGlass(r) || own.length < DEPTH.leastHits) return { sum: 0, weight: 0 };
    const { step } = outwardsAt(pin, plane, r.side);
    const outwards = median(
      own.map((q) => -residualOf(q, plane) * Math.sign(q.normal[0] * step[0] + q.normal[1] * step[1])),
    );
    const slide = slides[r.side]!;
    const weight = 1 / (DEPTH.oneFrame ** 2 + sigma ** 2);
    return { sum: weight * slide * outwards, weight: weight * slide * slide };
  });
  return {
    sum: told.map((t, k) => t.sum + (memory.sum[k] ?? 0)),
    weight: told.map((t, k) => t.weight + (memory.weight[k] ?? 0)),
  };
}
