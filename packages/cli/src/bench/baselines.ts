/**
 * Two general-purpose methods on the same frames, both of the OpenCV build on the npm registry: pyramidal sparse flow
 * to the reference picture with a robust homography, and alignment by enhanced correlation, each started from where the
 * frame before ended.
 */
import { createRequire } from 'node:module';
import { inverse, multiply } from '@yarlop/core/geometry/matrix3';
import { boundsOf, insidePolygon } from '@yarlop/core/geometry/polygon';
import type { Quad } from '@yarlop/core/geometry/quad';
import { mapQuad } from '@yarlop/core/geometry/quad';
import type { RawLuma } from '@yarlop/core/image/image';
import type { Claim } from './measures';

/** The parts of the library that are used; it has no types for this build. */
interface Mat {
  readonly rows: number;
  readonly data: Uint8Array;
  readonly data32F: Float32Array;
  readonly data64F: Float64Array;
  empty(): boolean;
  delete(): void;
}
export interface Cv {
  Mat: { new (): Mat; zeros(rows: number, cols: number, type: number): Mat };
  Size: new (w: number, h: number) => object;
  TermCriteria: new (type: number, count: number, eps: number) => object;
  readonly CV_8UC1: number;
  readonly CV_32FC1: number;
  readonly CV_32FC2: number;
  readonly RANSAC: number;
  readonly MOTION_HOMOGRAPHY: number;
  matFromArray(rows: number, cols: number, type: number, data: ArrayLike<number>): Mat;
  goodFeaturesToTrack(
    image: Mat,
    points: Mat,
    count: number,
    quality: number,
    distance: number,
    mask: Mat,
    block: number,
  ): void;
  calcOpticalFlowPyrLK(
    a: Mat,
    b: Mat,
    p: Mat,
    q: Mat,
    status: Mat,
    err: Mat,
    window: object,
    levels: number,
    criteria: object,
    flags: number,
  ): void;
  findHomography(a: Mat, b: Mat, method: number, limit: number): Mat;
  findTransformECC(
    template: Mat,
    image: Mat,
    warp: Mat,
    motion: number,
    criteria: object,
    mask: Mat,
    gauss: number,
  ): number;
}

export async function openReference(): Promise<Cv> {
  const cv = createRequire(import.meta.url)('@techstark/opencv-js') as Cv & {
    onRuntimeInitialized?: () => void;
    then?: unknown;
  };
  if (!(cv as Partial<Cv>).Mat) await new Promise<void>((done) => (cv.onRuntimeInitialized = done));
  // The module has a `then` of its own that gives itself: awaiting it would go round for ever.
  delete cv.then;
  return cv;
}

/** From pixel centres on whole numbers to centres on halves. */
const HALF_PX = [1, 0, -0.5, 0, 1, -0.5, 0, 0, 1];
/** Pixel centres on whole numbers, as the library counts, to corners. */
const toCorners = (h: ArrayLike<number>): number[] =>
  multiply(inverse(HALF_PX), multiply([...(h as Float64Array)], HALF_PX));

export type Method = (
  cv: Cv,
  reference: RawLuma,
  frames: (n: number) => RawLuma,
  order: readonly number[],
  pin: Quad,
) => Map<number, Claim>;

export const sparseFlow: Method = (cv, reference, frames, order, pin) => {
  const mat = (l: RawLuma): Mat => cv.matFromArray(l.height, l.width, cv.CV_8UC1, l.data);
  const a = mat(reference);
  const mask = cv.Mat.zeros(reference.height, reference.width, cv.CV_8UC1);
  const points = new cv.Mat();
  const out = new Map<number, Claim>();
  for (let y = 0; y < reference.height; y++)
    for (let x = 0; x < reference.width; x++)
      if (insidePolygon([x + 0.5, y + 0.5], pin)) mask.data[y * reference.width + x] = 255;
  cv.goodFeaturesToTrack(a, points, 400, 0.005, 6, mask, 3);
  if (points.rows < 4) return out;
  let guess = new Float32Array(points.data32F);
  for (const n of order) {
    const b = mat(frames(n));
    const next = cv.matFromArray(points.rows, 1, cv.CV_32FC2, guess);
    const status = new cv.Mat();
    const err = new cv.Mat();
    const from: number[] = [];
    const to: number[] = [];
    try {
      cv.calcOpticalFlowPyrLK(
        a,
        b,
        points,
        next,
        status,
        err,
        new cv.Size(21, 21),
        4,
        new cv.TermCriteria(3, 30, 0.01),
        4,
      );
      for (let i = 0; i < points.rows; i++)
        if (status.data[i] === 1) {
          from.push(points.data32F[2 * i]!, points.data32F[2 * i + 1]!);
          to.push(next.data32F[2 * i]!, next.data32F[2 * i + 1]!);
        }
      guess = new Float32Array(next.data32F);
      if (from.length >= 16) {
        const f = cv.matFromArray(from.length / 2, 1, cv.CV_32FC2, from);
        const t = cv.matFromArray(to.length / 2, 1, cv.CV_32FC2, to);
        const h = cv.findHomography(f, t, cv.RANSAC, 2);
        if (!h.empty()) out.set(n, { corners: mapQuad(toCorners(h.data64F), pin) });
        for (const m of [f, t, h]) m.delete();
      }
    } catch {
      // The library throws where nothing is left to be tracked: the frame is lost.
    }
    for (const m of [b, next, status, err]) m.delete();
  }
  for (const m of [a, mask, points]) m.delete();
  return out;
};

/** Half the size, by means of four: the method is too slow on whole pictures to be run at all. */
function halved(l: RawLuma): { width: number; height: number; data: Uint8Array } {
  const width = l.width >> 1;
  const height = l.height >> 1;
  const data = new Uint8Array(width * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = 2 * y * l.width + 2 * x;
      data[y * width + x] = (l.data[i]! + l.data[i + 1]! + l.data[i + l.width]! + l.data[i + l.width + 1]! + 2) >> 2;
    }
  return { width, height, data };
}

export const enhancedCorrelation: Method = (cv, reference, frames, order, pin) => {
  const out = new Map<number, Claim>();
  const whole = halved(reference);
  const half = pin.map((p) => [p[0] / 2, p[1] / 2]) as unknown as Quad;
  const b = boundsOf(half);
  const x0 = Math.max(0, Math.floor(b.x0));
  const y0 = Math.max(0, Math.floor(b.y0));
  const w = Math.min(whole.width, Math.ceil(b.x1)) - x0;
  const h = Math.min(whole.height, Math.ceil(b.y1)) - y0;
  const cut = new Uint8Array(w * h);
  for (let y = 0; y < h; y++)
    cut.set(whole.data.subarray((y0 + y) * whole.width + x0, (y0 + y) * whole.width + x0 + w), y * w);
  const template = cv.matFromArray(h, w, cv.CV_8UC1, cut);
  const mask = new cv.Mat();
  let warp = Float32Array.of(1, 0, x0, 0, 1, y0, 0, 0, 1);
  for (const n of order) {
    const l = halved(frames(n));
    const image = cv.matFromArray(l.height, l.width, cv.CV_8UC1, l.data);
    const m = cv.matFromArray(3, 3, cv.CV_32FC1, warp);
    try {
      cv.findTransformECC(template, image, m, cv.MOTION_HOMOGRAPHY, new cv.TermCriteria(3, 40, 1e-4), mask, 5);
      warp = Float32Array.from(m.data32F);
      const own = half.map((p) => [p[0] - x0, p[1] - y0]) as unknown as Quad;
      const there = mapQuad(toCorners(Float64Array.from(warp)), own);
      out.set(n, { corners: there.map((p) => [2 * p[0], 2 * p[1]]) as unknown as Quad });
    } catch {
      // The library throws where the correlation falls apart: the frame is lost, the next one starts from the last
      // place.
    }
    image.delete();
    m.delete();
  }
  template.delete();
  mask.delete();
  return out;
};
