/**
 * `npm run bench:proof`: how well slip is told and repaired. Every demo Screen is followed; its measured slips are
 * compared with the exact errors, repairs are planned with the default limit, and what the corners are off by is told
 * before and after. Then the true track is spoilt on purpose (a smooth drift of 6 px, a pop of 4 px on one frame,
 * jitter of 0.5 px) and repaired from measured slips alone. Writes docs/benchmarks-proving.md. `-- --only NAME` for
 * one.
 */
import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { mapPoint, quadToQuad, scaleAt } from '@yarlop/core/geometry/homography';
import type { Point } from '@yarlop/core/geometry/point';
import { distance } from '@yarlop/core/geometry/point';
import type { Quad } from '@yarlop/core/geometry/quad';
import { mapQuad, perspectiveCentre } from '@yarlop/core/geometry/quad';
import { snapToGlass } from '@yarlop/core/pin/snap-to-glass';
import { rankSlips } from '@yarlop/core/proof/ranking';
import { planRepairs } from '@yarlop/core/proof/repair-plan';
import type { MeasuredFrame } from '@yarlop/core/proof/residual-slip';
import { residualSlip, slipsLeft } from '@yarlop/core/proof/residual-slip';
import { settle } from '@yarlop/core/proof/settle';
import type { Corrections } from '@yarlop/core/solve/touch-up';
import { correctedPin } from '@yarlop/core/solve/touch-up';
import { quantile } from '@yarlop/core/statistics';
import type { LumaFile } from '@yarlop/media/luma-file';
import { openPlate, withLuma } from '@yarlop/pipeline/plate';
import type { PlaneFrame } from '@yarlop/pipeline/prove';
import { measureSlips } from '@yarlop/pipeline/prove';
import { readTrack } from '@yarlop/pipeline/track-file';

const { values } = parseArgs({ options: { only: { type: 'string' } } });
const ASSETS = 'packages/demo/assets';
/** px at 1920 wide; the plan's default limit. */
const LIMIT = 1;
/** Share of the screen that must be visible for a frame to count. */
const LEAST_VISIBLE = 0.3;

interface Truth {
  readonly corners: readonly Quad[];
  readonly visible?: readonly number[];
}

type Measured = MeasuredFrame & { readonly sigma: readonly number[] };

/** A seeded generator of normal numbers (mulberry32, Box and Muller). */
function normals(seed: number): () => number {
  let a = seed;
  const next = (): number => {
    a = (a + 0x6d2b79f5) >>> 0;
    let t = Math.imul(a ^ (a >>> 15), 1 | a);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
  return () => Math.sqrt(-2 * Math.log(1 - next())) * Math.cos(2 * Math.PI * next());
}

async function measured(
  path: readonly PlaneFrame[],
  pin: Quad,
  reference: number,
  luma: LumaFile,
): Promise<Measured[]> {
  const out: Measured[] = [];
  const by = new Map(path.map((f) => [f.frame, f.homography]));
  for await (const f of measureSlips(path, pin, reference, [], luma))
    out.push({
      frame: f.frame,
      by: f.by,
      homography: by.get(f.frame)!,
      sigma: f.slips.map((s) => Math.min(9, s.sigma)),
    });
  return out;
}

/** Mean corner error per visible frame, px at 1920 wide. */
function errors(path: readonly PlaneFrame[], pin: Quad, truth: Truth, c: Corrections, k: number): number[] {
  return path
    .filter((f) => (truth.visible?.[f.frame] ?? 1) >= LEAST_VISIBLE)
    .map((f) =>
      mapQuad(f.homography, correctedPin(pin, c, f.frame)).reduce(
        (s, p, i) => s + (distance(p, truth.corners[f.frame]![i]!) * k) / 4,
        0,
      ),
    );
}

const number = (v: number, d = 2): string => (Number.isFinite(v) ? v.toFixed(d) : '-');
const pair = (e: readonly number[]): string => `${number(quantile(e, 0.95))} / ${number(Math.max(...e))}`;

/**
 * Correlation and mean difference between slips and true errors, per axis, px at 1920 wide; and the share of corners
 * told.
 */
function againstTruth(
  frames: readonly Measured[],
  pin: Quad,
  truth: Truth,
  k: number,
): { r: number; difference: number; told: number } {
  const x: number[] = [];
  const y: number[] = [];
  for (const f of frames) {
    const now = mapQuad(f.homography, pin);
    for (const [c, by] of f.by.entries())
      if (by)
        for (const axis of [0, 1] as const) {
          x.push(by[axis] * k);
          y.push((truth.corners[f.frame]![c]![axis] - now[c]![axis]) * k);
        }
  }
  const n = x.length;
  const mx = x.reduce((s, v) => s + v, 0) / n;
  const my = y.reduce((s, v) => s + v, 0) / n;
  const cov = (a: number[], ma: number, b: number[], mb: number): number =>
    a.reduce((s, v, i) => s + (v - ma) * (b[i]! - mb), 0);
  return {
    r: cov(x, mx, y, my) / Math.sqrt(cov(x, mx, x, mx) * cov(y, my, y, my)),
    difference: x.reduce((s, v, i) => s + Math.abs(v - y[i]!), 0) / n,
    told: n / (8 * frames.length),
  };
}

/**
 * Distance of the snapped corners from the truth, from corners 4 px off, on sharp frames in full view; median, px at
 * 1920 wide.
 */
async function snapped(truth: Truth, luma: LumaFile, k: number): Promise<number> {
  const found: number[] = [];
  const turn = [
    [1, 0],
    [0, -1],
    [-1, 0.5],
    [0.5, 1],
  ] as const;
  for (let n = 0; n < luma.frameCount; n += 8) {
    const q = truth.corners[n]!;
    const next = truth.corners[n + 1] ?? truth.corners[n - 1]!;
    if ((truth.visible?.[n] ?? 1) < 0.999 || Math.max(...q.map((p, i) => distance(p, next[i]!))) * k > 4) continue;
    try {
      const s = snapToGlass(
        await luma.read(n),
        q.map((p, i): Point => [p[0] + (4 / k) * turn[i]![0], p[1] + (4 / k) * turn[i]![1]]) as unknown as Quad,
      );
      found.push(
        quantile(
          s.corners.map((p, i) => distance(p, q[i]!) * k),
          0.5,
        ),
      );
    } catch {
      found.push(Infinity);
    }
  }
  return quantile(found, 0.5);
}

interface Lines {
  readonly followed: string;
  readonly spoilt: string;
}

async function bench(name: string, folder: string): Promise<Lines> {
  const clip = readdirSync(ASSETS).includes(`${name}.mp4`) ? name : name.replace(/\.\d+$/, '');
  const truth = JSON.parse(readFileSync(`${ASSETS}/${name}.truth.json`, 'utf8')) as Truth;
  const out = join(folder, `${name}.json`);
  const file = JSON.parse(readFileSync(`${ASSETS}/${name}.screen.json`, 'utf8')) as { referenceFrame: number };
  const reference = file.referenceFrame;
  const pin = truth.corners[reference]!;
  const screen = join(folder, `${name}.screen.json`);
  writeFileSync(screen, JSON.stringify({ ...file, pin }));
  spawnSync(
    process.execPath,
    ['dist/yarlop.mjs', 'follow', `${ASSETS}/${clip}.mp4`, '--screen', screen, '--out', out],
    { stdio: 'ignore' },
  );
  const track = (await readTrack(out)).screens[0]!;
  const plate = await openPlate(`${ASSETS}/${clip}.mp4`);
  try {
    return await withLuma(
      plate,
      () => false,
      async (luma) => {
        const k = 1920 / luma.width;
        const options = { limit: LIMIT, width: luma.width, right: [reference] };
        const own = await measured(track.frames, pin, reference, luma);
        const told = againstTruth(own, pin, truth, k);
        const plan = planRepairs(own, pin, {}, options);
        const before = errors(track.frames, pin, truth, {}, k);
        const after = errors(track.frames, pin, truth, { touchUps: plan.touchUps }, k);
        // Spoilt on purpose, from the true track.
        const frames = truth.corners.length;
        const away = (n: number): number => (n - reference) / Math.max(reference, frames - 1 - reference);
        const spoil = (off: (n: number, c: number) => Point): PlaneFrame[] =>
          truth.corners.map((q, frame) => {
            // In the plane, as tracks go wrong, by so much in the picture.
            const h = quadToQuad(pin, q);
            const scale = k * scaleAt(h, perspectiveCentre(pin));
            return {
              frame,
              homography: quadToQuad(
                pin,
                pin.map((p, c): Point => {
                  const [x, y] = frame === reference ? [0, 0] : off(frame, c);
                  return mapPoint(h, [p[0] + x / scale, p[1] + y / scale]);
                }),
              ),
            };
          });
        const drift = spoil((n) => [6 * Math.sin((Math.PI / 2) * Math.abs(away(n))) ** 2, 0]);
        const at = Math.min(frames - 3, reference + 12);
        const pop = spoil((n) => (n === at ? [0, 4] : [0, 0]));
        const r = normals(7);
        const jitter = spoil(() => [0.5 * r(), 0.5 * r()]);
        const d = await measured(drift, pin, reference, luma);
        const dp = planRepairs(d, pin, {}, options);
        const p = await measured(pop, pin, reference, luma);
        const pp = planRepairs(p, pin, {}, options);
        const found = rankSlips(slipsLeft(p, pin, {}, luma.width), luma.width).troubles.find((t) => t.kind === 'pop');
        const j = await measured(jitter, pin, reference, luma);
        const st = settle(j, pin, {}, [0, frames - 1], luma.width);
        const popAfter = mapQuad(pop[at]!.homography, correctedPin(pin, { touchUps: pp.touchUps }, at)).reduce(
          (s, c, i) => s + (distance(c, truth.corners[at]![i]!) * k) / 4,
          0,
        );
        const left = (list: readonly Measured[], c: Corrections): number =>
          rankSlips(
            list.map((f) => residualSlip(f, pin, c)),
            luma.width,
          ).jitter;
        let foundAt = 'not told';
        if (found) foundAt = found.frame === at ? 'its frame' : `frame ${found.frame} for ${at}`;
        return {
          followed: `| ${name} | ${number(told.r)} | ${number(told.difference)} | ${Math.round(100 * told.told)} % | ${number(await snapped(truth, luma, k))} | ${pair(before)} | ${plan.touchUps.length}${plan.tooMany ? ' (too many)' : ''} | ${pair(after)} |`,
          spoilt: `| ${name} | ${pair(errors(drift, pin, truth, {}, k))} | ${dp.touchUps.length} | ${pair(errors(drift, pin, truth, { touchUps: dp.touchUps }, k))} | ${foundAt} | ${number(popAfter)} | ${number(left(j, {}))} | ${number(left(j, { settles: [st.settle] }))} | ${pair(errors(jitter, pin, truth, {}, k))} | ${pair(errors(jitter, pin, truth, { settles: [st.settle] }, k))} |`,
        };
      },
    );
  } finally {
    await plate.close();
  }
}

const folder = mkdtempSync(join(tmpdir(), 'yarlop-proof-'));
const lines: Lines[] = [];
try {
  for (const f of readdirSync(ASSETS)
    .filter((x) => x.endsWith('.truth.json'))
    .sort()) {
    const name = f.replace('.truth.json', '');
    if (values.only && name !== values.only) continue;
    lines.push(await bench(name, folder));
    process.stderr.write(`${lines.at(-1)!.followed}\n${lines.at(-1)!.spoilt}\n`);
  }
} finally {
  rmSync(folder, { recursive: true, force: true });
}
const text = `# Proving and repairing, measured

Made by \`npm run bench:proof\`. Px of a picture 1920 wide, mean of the four corners on frames of which at least 30 % is visible; "a / b" is
95th percentile / maximum. The pin of the reference frame is exact; nothing but the pictures is known to what measures and repairs.

## As followed
Slip against the true error, per axis, where it could be told; corners laid onto the glass from 4 px off; and the plan of repairs with its default limit of ${LIMIT} px.

| Screen | correlation | mean difference | told | snap, median | error before | touch-ups | after |
| --- | --- | --- | --- | --- | --- | --- | --- |
${lines.map((l) => l.followed).join('\n')}

## Spoilt on purpose
The true track with a smooth drift of 6 px, with a pop of 4 px on one frame, and with 0.5 px of jitter per axis.

| Screen | drift | touch-ups | after | pop found on | pop after | jitter told | after settling | error with jitter | settled |
| --- | --- | --- | --- | --- | --- | --- | --- | --- | --- |
${lines.map((l) => l.spoilt).join('\n')}
`;
process.stdout.write(text);
if (!values.only) writeFileSync('docs/benchmarks-proving.md', text);
