/**
 * `npm run bench`: follows the demo shots and compares with their exact truth, and times following alone (luma in memory,
 * one thread) beside a general-purpose baseline in the same run: pyramidal sparse flow to the reference picture with a
 * homography (the OpenCV build on the npm registry). Writes docs/benchmarks.md. `-- --only NAME` for one shot.
 */
import { readFileSync, readdirSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { parseArgs } from 'node:util';
import type { FrameResult } from '@yarlop/core/follow/results';
import { Follower } from '@yarlop/core/follow/follower';
import { inverse, multiply } from '@yarlop/core/geometry/matrix3';
import type { Point } from '@yarlop/core/geometry/point';
import { distance } from '@yarlop/core/geometry/point';
import { insidePolygon } from '@yarlop/core/geometry/polygon';
import type { Quad } from '@yarlop/core/geometry/quad';
import { mapQuad } from '@yarlop/core/geometry/quad';
import type { RawLuma } from '@yarlop/core/image/image';
import { openPlate, withLuma } from '@yarlop/pipeline/plate';
import { followSetup, parseScreen } from '@yarlop/pipeline/screen-file';

const ASSETS = 'packages/demo/assets';

interface Row {
  name: string;
  method: string;
  errors: number[];
  lost: number;
  jitter: number | null;
  within: [number, number] | null;
  framesPerSecond: number;
}

function quantile(sorted: number[], q: number): number {
  return sorted[Math.min(sorted.length - 1, Math.floor(q * sorted.length))] ?? NaN;
}

/** Root mean square of the errors' second differences per axis, over the square root of six. */
function jitter(errors: Map<number, Point[]>): number {
  let sum = 0, n = 0;
  for (const [frame, e] of errors) {
    const a = errors.get(frame - 1), b = errors.get(frame + 1);
    if (!a || !b) continue;
    for (let c = 0; c < 4; c++) for (const k of [0, 1] as const) {
      sum += (a[c]![k] - 2 * e[c]![k] + b[c]![k]) ** 2;
      n++;
    }
  }
  return Math.sqrt(sum / n / 6);
}

function score(name: string, method: string, found: Map<number, { corners: Quad; sigma?: readonly number[] }>, truth: Quad[], reference: number, scale: number, seconds: number): Row {
  const errors: number[] = [], offsets = new Map<number, Point[]>(), ratios: number[] = [];
  for (const [frame, { corners, sigma }] of found) {
    const q = truth[frame]!;
    offsets.set(frame, corners.map((p, i) => [(p[0] - q[i]![0]) * scale, (p[1] - q[i]![1]) * scale]));
    if (frame === reference) continue;
    errors.push(corners.reduce((s, p, i) => s + (scale * distance(p, q[i]!)) / 4, 0));
    if (sigma) corners.forEach((p, i) => ratios.push(Math.abs(p[0] - q[i]![0]) / sigma[i]!, Math.abs(p[1] - q[i]![1]) / sigma[i]!));
  }
  errors.sort((a, b) => a - b);
  const share = (limit: number): number => ratios.filter((r) => r <= limit).length / ratios.length;
  return {
    name, method, errors, lost: truth.length - found.size, jitter: jitter(offsets), within: ratios.length > 0 ? [share(1), share(2)] : null, framesPerSecond: (truth.length - 1) / seconds,
  };
}

/* eslint-disable @typescript-eslint/no-explicit-any -- the reference library has no types for this build */
function sparseFlow(cv: any, reference: RawLuma, frames: (n: number) => RawLuma, order: number[], pin: Quad): Map<number, { corners: Quad }> {
  const mat = (l: RawLuma): any => cv.matFromArray(l.height, l.width, cv.CV_8UC1, l.data);
  const a = mat(reference), mask = cv.Mat.zeros(reference.height, reference.width, cv.CV_8UC1), points = new cv.Mat();
  for (let y = 0; y < reference.height; y++) for (let x = 0; x < reference.width; x++) if (insidePolygon([x + 0.5, y + 0.5], pin)) mask.data[y * reference.width + x] = 255;
  cv.goodFeaturesToTrack(a, points, 400, 0.005, 6, mask, 3);
  const out = new Map<number, { corners: Quad }>(), half = [1, 0, -0.5, 0, 1, -0.5, 0, 0, 1];
  let guess = new Float32Array(points.data32F);
  for (const n of order) {
    const b = mat(frames(n)), next = cv.matFromArray(points.rows, 1, cv.CV_32FC2, guess), status = new cv.Mat(), err = new cv.Mat();
    cv.calcOpticalFlowPyrLK(a, b, points, next, status, err, new cv.Size(21, 21), 4, new cv.TermCriteria(3, 30, 0.01), 4);
    const from: number[] = [], to: number[] = [];
    for (let i = 0; i < points.rows; i++) if (status.data[i] === 1) {
      from.push(points.data32F[2 * i], points.data32F[2 * i + 1]);
      to.push(next.data32F[2 * i], next.data32F[2 * i + 1]);
    }
    guess = new Float32Array(next.data32F);
    if (from.length >= 16) {
      const f = cv.matFromArray(from.length / 2, 1, cv.CV_32FC2, from), t = cv.matFromArray(to.length / 2, 1, cv.CV_32FC2, to), h = cv.findHomography(f, t, cv.RANSAC, 2);
      if (!h.empty()) out.set(n, { corners: mapQuad(multiply(inverse(half), multiply([...h.data64F], half)), pin) });
      for (const m of [f, t, h]) m.delete();
    }
    for (const m of [b, next, status, err]) m.delete();
  }
  return out;
}

async function benchShot(name: string, cv: any): Promise<Row[]> {
  const truthFile = JSON.parse(readFileSync(`${ASSETS}/${name}.truth.json`, 'utf8')) as { width: number; corners: Quad[] };
  const screen = parseScreen(JSON.parse(readFileSync(`${ASSETS}/${name}.screen.json`, 'utf8'))), plate = await openPlate(`${ASSETS}/${name}.mp4`);
  return withLuma(plate, () => false, async (luma) => {
    const all: RawLuma[] = [], r = screen.referenceFrame, pin = truthFile.corners[r]!, scale = 1920 / luma.width;
    for (let n = 0; n < luma.frameCount; n++) all.push(await luma.read(n));
    const setup = { ...followSetup(screen, luma), pin }, results: FrameResult[] = [], begin = performance.now();
    for (const step of [1, -1]) {
      const f = new Follower(setup, r, all[r]!);
      if (step === 1) results.push(f.referenceResult(luma.width));
      for (let n = r + step; n >= 0 && n < all.length; n += step) results.push(f.step(n, all[n]!));
    }
    const ours = (performance.now() - begin) / 1000, found = new Map(results.filter((x) => x.homography).map((x) => [x.frame, { corners: mapQuad(x.homography!, pin), sigma: x.sigma }]));
    const flowBegin = performance.now(), flow = new Map<number, { corners: Quad }>([[r, { corners: pin }]]);
    const forwards = [...all.keys()].filter((n) => n > r), backwards = [...all.keys()].filter((n) => n < r).reverse();
    for (const order of [forwards, backwards]) for (const [n, v] of sparseFlow(cv, all[r]!, (k) => all[k]!, order, pin)) flow.set(n, v);
    const theirs = (performance.now() - flowBegin) / 1000;
    return [score(name, 'Yarlop', found, truthFile.corners, r, scale, ours), score(name, 'sparse flow to the reference', flow, truthFile.corners, r, scale, theirs)];
  });
}
/* eslint-enable @typescript-eslint/no-explicit-any */

function table(rows: Row[]): string {
  const n = (v: number | null, d: number): string => (v === null || Number.isNaN(v) ? '-' : v.toFixed(d));
  return [
    '| shot | method | median px | 95th pc. | max | up to 1 px | lost | jitter | within 1 / 2 sigma | frames/s |', '| --- | --- | --- | --- | --- | --- | --- | --- | --- | --- |',
    ...rows.map((r) => `| ${r.name} | ${r.method} | ${n(quantile(r.errors, 0.5), 3)} | ${n(quantile(r.errors, 0.95), 3)} | ${n(r.errors.at(-1) ?? null, 3)} | ${Math.round((100 * r.errors.filter((e) => e <= 1).length) / r.errors.length)} % | ${r.lost} | ${n(r.jitter, 3)} | ${r.within ? r.within.map((w) => `${Math.round(100 * w)} %`).join(' / ') : '-'} | ${n(r.framesPerSecond, 1)} |`),
  ].join('\n');
}

const { values } = parseArgs({ options: { only: { type: 'string' } } });
const cv = createRequire(import.meta.url)('@techstark/opencv-js') as { Mat?: unknown; onRuntimeInitialized?: () => void; then?: unknown };
if (!cv.Mat) await new Promise<void>((done) => (cv.onRuntimeInitialized = done));
delete cv.then;
const names = readdirSync(ASSETS).filter((f) => f.endsWith('.truth.json')).map((f) => f.replace('.truth.json', '')).filter((f) => !values.only || f === values.only);
const rows: Row[] = [];
for (const name of names) rows.push(...(await benchShot(name, cv)));
const text = table(rows);
process.stdout.write(`${text}\n`);
if (!values.only)
  writeFileSync('docs/benchmarks.md', `# Benchmarks\n\nMade by \`npm run bench\`. Errors are mean corner errors against the generator's exact truth, in px of a picture 1920 wide, the pin of the reference\nframe exact; jitter is the rms of the errors' second differences per axis over the square root of six. Speed is following alone on\none thread from luma in memory, 1080p. These machines are noisy: compare the rows of one run.\n\n${text}\n`);
process.exit(0);
