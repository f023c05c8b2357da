/**
 * `npm run bench`: follows every demo shot with the same defaults and compares with its exact truth, beside two
 * general-purpose methods on the same frames in the same run, and times following alone (luma in memory, one thread)
 * and the command line from the file. Writes docs/benchmarks.md. `-- --only NAME` for one, `-- --fresh` to run the slow
 * baseline again instead of taking its figures for the same clip from docs/benchmarks.baseline.json. `-- --from FOLDER`
 * for clips that were generated on demand (`npm run demo:planes -- --shot long-take --out FOLDER`, or any shot at
 * another --width); those are measured without baselines, and tell their drift.
 */
import { spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import type { FollowerState } from '@yarlop/core/follow/memory/follower-state';
import type { FrameResult } from '@yarlop/core/solve/frame-result';
import type { RawLuma } from '@yarlop/core/image/image';
import { assembleTrack } from '@yarlop/pipeline/assemble-track';
import { followDirection, untilSettled } from '@yarlop/pipeline/follow';
import { openPlate, withLuma } from '@yarlop/pipeline/plate';
import { followSetup, parseScreen } from '@yarlop/pipeline/screen-file';
import type { Cv, Method } from './bench/baselines';
import { enhancedCorrelation, openReference, sparseFlow } from './bench/baselines';
import type { Claim, Figures, Truth } from './bench/measures';
import { measure } from './bench/measures';

const { values } = parseArgs({
  options: { only: { type: 'string' }, fresh: { type: 'boolean', default: false }, from: { type: 'string' } },
});
const ASSETS = values.from ?? 'packages/demo/assets';
const KEPT = 'docs/benchmarks.baseline.json';

interface Row {
  readonly name: string;
  readonly method: string;
  readonly figures: Figures;
  readonly framesPerSecond: number | null;
}

interface Shot {
  readonly name: string;
  readonly clip: string;
  readonly reference: number;
  readonly truth: Truth;
  readonly all: readonly RawLuma[];
}

/** Both directions one after the other on one thread, from luma in memory. */
async function followAll(shot: Shot, screen: ReturnType<typeof parseScreen>): Promise<Row> {
  const { all, reference: r, truth } = shot;
  const luma = {
    width: all[0]!.width,
    height: all[0]!.height,
    frameCount: all.length,
    read: async (n: number) => Promise.resolve(all[n]!),
  };
  const setup = followSetup(screen, luma);
  const results = new Map<number, FrameResult>();
  const begin = performance.now();
  const pass = async (own: typeof setup): Promise<FollowerState[]> => {
    const last: FollowerState[] = [];
    for (const [i, end] of [all.length - 1, 0].entries())
      for await (const { result, state } of followDirection({ setup: own, referenceFrame: r, end }, luma)) {
        results.set(result.frame, result);
        if (result.frame === end) last[i] = state();
      }
    return last;
  };
  await untilSettled(setup, results, pass);
  const seconds = (performance.now() - begin) / 1000;
  const { frames } = assembleTrack([...results.values()], {
    setup,
    referenceFrame: r,
    from: 0,
    to: all.length - 1,
    width: luma.width,
    pinned: screen.pin,
  });
  const claims = new Map<number, Claim>(
    frames.map((f) => [f.frame, { corners: f.corners, sigma: f.sigma, bridged: Object.keys(f.evidence).length === 0 }]),
  );
  return {
    name: shot.name,
    method: 'Yarlop',
    figures: measure(claims, truth, r),
    framesPerSecond: (all.length - 1) / seconds,
  };
}

function baseline(shot: Shot, cv: Cv, name: string, method: Method): Row {
  const { all, reference: r, truth } = shot;
  const pin = truth.corners[r]!;
  const begin = performance.now();
  const claims = new Map<number, Claim>([[r, { corners: pin }]]);
  const forwards = [...all.keys()].filter((n) => n > r);
  const backwards = [...all.keys()].filter((n) => n < r).reverse();
  for (const order of [forwards, backwards])
    for (const [n, c] of method(cv, all[r]!, (k) => all[k]!, order, pin)) claims.set(n, c);
  return {
    name: shot.name,
    method: name,
    figures: measure(claims, truth, r),
    framesPerSecond: (all.length - 1) / ((performance.now() - begin) / 1000),
  };
}

/** Seconds and peak memory of the command line on a clip, from the file. */
function endToEnd(shot: Shot): Promise<{ seconds: number; megabytes: number }> {
  const out = join(tmpdir(), `yarlop-bench-${process.pid}.json`);
  const begin = performance.now();
  return new Promise((resolve, reject) => {
    const child = spawn(
      process.execPath,
      [
        'dist/yarlop.mjs',
        'follow',
        `${ASSETS}/${shot.clip}.mp4`,
        '--screen',
        `${ASSETS}/${shot.name}.screen.json`,
        '--out',
        out,
      ],
      { stdio: 'ignore' },
    );
    let peak = 0;
    const look = setInterval(() => {
      const status = `/proc/${child.pid}/status`;
      if (existsSync(status))
        peak = Math.max(peak, Number(/VmHWM:\s+(\d+)/.exec(readFileSync(status, 'utf8'))?.[1] ?? 0));
    }, 100);
    child.on('error', reject).on('close', () => {
      clearInterval(look);
      rmSync(out, { force: true });
      resolve({ seconds: (performance.now() - begin) / 1000, megabytes: peak / 1024 });
    });
  });
}

/** Both general-purpose methods; what the slow one came to is kept by clip. */
function baselines(shot: Shot, cv: Cv, fresh: boolean): Row[] {
  const kept = (existsSync(KEPT) ? JSON.parse(readFileSync(KEPT, 'utf8')) : {}) as Record<string, Row>;
  const key = createHash('sha256')
    .update(readFileSync(`${ASSETS}/${shot.clip}.mp4`))
    .update(shot.name)
    .digest('hex')
    .slice(0, 16);
  const flow = baseline(shot, cv, 'sparse flow to the reference', sparseFlow);
  if (fresh || !kept[key]) {
    kept[key] = baseline(shot, cv, 'enhanced correlation', enhancedCorrelation);
    writeFileSync(KEPT, `${JSON.stringify(kept, null, 1)}\n`);
  }
  return [flow, kept[key]];
}

async function benchShot(name: string, cv: Cv, fresh: boolean): Promise<{ rows: Row[]; line: string }> {
  const clip = existsSync(`${ASSETS}/${name}.mp4`) ? name : name.replace(/\.\d+$/, '');
  const truth = JSON.parse(readFileSync(`${ASSETS}/${name}.truth.json`, 'utf8')) as Truth & {
    corners: Truth['corners'];
  };
  const file = parseScreen(JSON.parse(readFileSync(`${ASSETS}/${name}.screen.json`, 'utf8')));
  const screen = { ...file, pin: truth.corners[file.referenceFrame] as unknown as typeof file.pin };
  const plate = await openPlate(`${ASSETS}/${clip}.mp4`);
  try {
    return await withLuma(
      plate,
      () => false,
      async (luma) => {
        const all: RawLuma[] = [];
        for (let n = 0; n < luma.frameCount; n++) all.push(await luma.read(n));
        const height = all[0]!.height;
        const shot: Shot = { name, clip, reference: screen.referenceFrame, truth: { ...truth, height }, all };
        const rows = [await followAll(shot, screen)];
        if (!values.from) rows.push(...baselines(shot, cv, fresh));
        const e = await endToEnd(shot);
        return { rows, line: `| ${name} | ${(luma.frameCount / e.seconds).toFixed(1)} | ${e.megabytes.toFixed(0)} |` };
      },
    );
  } finally {
    await plate.close();
  }
}

const number = (v: number | null | undefined, d: number): string =>
  v === null || v === undefined || !Number.isFinite(v) ? '-' : v.toFixed(d);
const percent = (v: number): string => `${Math.round(100 * v)} %`;

function table(rows: readonly Row[]): string {
  return [
    '| shot | method | median | 95th pc. | max | inside 95th | outside 95th | bridged mean | up to 1 px | lost | jitter | within 1 / 2 sigma | drift | frames/s |',
    '| --- | --- | --- | --- | --- | --- | --- | --- | --- | --- | --- | --- | --- | --- |',
    ...rows.map(
      ({ name, method, figures: f, framesPerSecond }) =>
        `| ${name} | ${method} | ${number(f.median, 2)} | ${number(f.p95, 2)} | ${number(f.max, 1)} | ${number(f.insideP95, 2)} | ${number(f.outsideP95, 2)} | ${number(f.bridgedMean, 1)} | ${percent(f.within1px)} | ${f.lost} | ${number(f.jitter, 3)} | ${f.calibration ? f.calibration.map(percent).join(' / ') : '-'} | ${number(f.drift, 2)} | ${number(framesPerSecond, 1)} |`,
    ),
  ].join('\n');
}

const cv = await openReference();
const names = readdirSync(ASSETS)
  .filter((f) => f.endsWith('.truth.json'))
  .map((f) => f.replace('.truth.json', ''))
  .filter((f) => !values.only || f === values.only || f.replace(/\.\d+$/, '') === values.only);
const rows: Row[] = [];
const lines: string[] = [];
for (const name of names) {
  const shot = await benchShot(name, cv, values.fresh);
  rows.push(...shot.rows);
  lines.push(shot.line);
  process.stderr.write(`${table(shot.rows).split('\n').slice(2).join('\n')}\n`);
}
const counted = rows
  .filter((r) => r.method === 'Yarlop')
  .reduce(
    (s, r) => ({
      frames: s.frames + r.figures.counted,
      near: s.near + r.figures.within1px * r.figures.counted,
      lost: s.lost + r.figures.lost,
    }),
    { frames: 0, near: 0, lost: 0 },
  );
const all = `All shots: ${percent(counted.near / counted.frames)} of ${counted.frames} counted frames within 1 px, ${counted.lost} lost.`;
const ends = ['| shot | frames/s, file to track | memory, MB |', '| --- | --- | --- |', ...lines].join('\n');
const text = table(rows);
process.stdout.write(`${text}\n\n${all}\n\n${ends}\n`);
if (!values.only && !values.from)
  writeFileSync(
    'docs/benchmarks.md',
    `# Benchmarks

Made by \`npm run bench\`. Errors are mean corner errors against the generator's exact truth, in px of a picture 1920 wide, with the pin of
the reference frame exact and the same defaults everywhere; what each figure means is said in \`packages/cli/src/bench/measures.ts\`. Speed is
following alone, on one thread, from luma in memory at 1080p. The enhanced-correlation baseline runs on pictures of half the size and is kept
per clip. These machines are noisy: compare the rows of one run.

${text}

${all}

## From the file to the track (\`yarlop follow\`, both directions at once), and the peak memory of that process

${ends}
`,
  );
process.exit(0);
