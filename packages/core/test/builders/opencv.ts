/** The general-purpose reference library, from the npm registry. */
import { createRequire } from 'node:module';

type Mat = { data32F: Float32Array; data64F: Float64Array; data: Uint8Array; delete(): void };
export interface OpenCv {
  CV_8UC1: number;
  CV_32FC1: number;
  CV_32FC2: number;
  CV_32FC3: number;
  CV_64FC1: number;
  CV_64FC3: number;
  INTER_LINEAR: number;
  BORDER_REPLICATE: number;
  matFromArray(rows: number, cols: number, type: number, data: ArrayLike<number>): Mat;
  Mat: new () => Mat;
  Size: new (w: number, h: number) => object;
  getPerspectiveTransform(a: Mat, b: Mat): Mat;
  projectPoints(points: Mat, turn: Mat, shift: Mat, camera: Mat, lens: Mat, out: Mat): void;
  findHomography(a: Mat, b: Mat): Mat;
  warpPerspective(src: Mat, dst: Mat, m: Mat, size: object, flags: number, border: number): void;
  remap(src: Mat, dst: Mat, x: Mat, y: Mat, flags: number, border: number): void;
  INTER_AREA: number;
  resize(src: Mat, dst: Mat, size: object, fx: number, fy: number, flags: number): void;
  pyrDown(src: Mat, dst: Mat): void;
  calcOpticalFlowPyrLK(a: Mat, b: Mat, p: Mat, q: Mat, status: Mat, err: Mat): void;
}

/** The module has a `then` of its own that gives itself: awaiting or importing it would go round for ever. */
export async function openCv(): Promise<OpenCv> {
  const cv = createRequire(import.meta.url)('@techstark/opencv-js') as OpenCv & {
    then?: unknown;
    onRuntimeInitialized?: () => void;
    Mat?: unknown;
  };
  if (!cv.Mat) await new Promise<void>((done) => (cv.onRuntimeInitialized = done));
  delete cv.then;
  return cv;
}

export const flat = (points: readonly (readonly number[])[]): number[] => points.flatMap((p) => [p[0]!, p[1]!]);
