/**
 * `npm run bench:dice -- --count N`: follows shots that were thrown wide by dice (packages/demo/src/planes/thrown.ts) with the
 * defaults that everybody gets, and prints how the errors are distributed, what trust is worth, and both by each factor that
 * was thrown. Clips are made on demand, 960x540, and kept by seed in .cache/dice, so that a second run only follows.
 *
 * Seeds from 1 on are for work; those from 1001 on are looked at once, at the end (`--held-out`).
 * `--first S` begins elsewhere, `--only S` is one shot with its error frame by frame, `--write` puts the table into
 * docs/benchmarks-dice.md.
 */
import { spawn } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import type { TrackFrame } from '@yarlop/core/track';
import type { Counted } from './bench/risk';
import { byFactor, calibrationOf, riskCurve, summary } from './bench/risk';
import type { Truth } from './bench/measures';
import { frameError } from './bench/measures';

const FOLDER = '.cache/dice';
/** First seed of the half that is looked at once. */
const HELD_OUT = 1001;
/** px of the thrown clips' width. */
const WIDTH = 960;
/** Share of the screen that must be visible for a frame to count. */
const LEAST_VISIBLE = 0.3;

interface Thrown extends Truth {
  readonly factors: Readonly<Record<string, string>>;
}

interface Shot {
  readonly seed: number;
  readonly truth: Thrown;
  readonly reference: number;
  readonly frames: readonly TrackFrame[];
  readonly seconds: number;
}

function run(args: string[]): Promise<number> {
  return new Promise((resolve, reject) => {
    const child = spawn(process.execPath, args, { stdio: ['ignore', 'ignore', 'inherit'] });
    child.on('error', reject).on('close', (code) => resolve(code ?? 1));
  });
}

const at = (seed: number, ending: string): string => join(FOLDER, `thrown-${seed}.${ending}`);
const json = <T>(path: string): T => JSON.parse(readFileSync(path, 'utf8')) as T;

/** The clip of a seed; drawn with all threads, so one at a time. */
async function draw(seed: number): Promise<void> {
  if (existsSync(at(seed, 'truth.json'))) return;
  const code = await run([
    'dist/demo-planes.mjs',
    ...['--shot', `thrown-${seed}`, '--width', String(WIDTH), '--out', FOLDER, '--least', '4'],
  ]);
  if (code !== 0) throw new Error(`thrown-${seed} could not be drawn.`);
}

async function follow(seed: number): Promise<Shot> {
  const out = at(seed, `track-${process.pid}.json`);
  const begin = performance.now();
  await run(['dist/yarlop.mjs', 'follow', at(seed, 'mp4'), '--screen', at(seed, 'screen.json'), '--out', out]);
  const seconds = (performance.now() - begin) / 1000;
  const track = existsSync(out) ? json<{ screens: { frames: TrackFrame[] }[] }>(out) : { screens: [{ frames: [] }] };
  rmSync(out, { force: true });
  return {
    seed,
    truth: json<Thrown>(at(seed, 'truth.json')),
    reference: json<{ referenceFrame: number }>(at(seed, 'screen.json')).referenceFrame,
    frames: track.screens[0]!.frames,
    seconds,
  };
}

/** Every frame that counts; one that the track does not hold was lost. */
function counted({ seed, truth, reference, frames }: Shot): Counted[] {
  const scale = 1920 / truth.width;
  return truth.corners.flatMap((corners, n): Counted[] => {
    if (n === reference || (truth.visible?.[n] ?? 1) < LEAST_VISIBLE) return [];
    const f = frames.find((x) => x.frame === n);
    const kept = f && Object.keys(f.evidence).length > 0;
    if (!f || !kept) return [{ seed, frame: n, factors: truth.factors, error: null, trust: 0, ratios: [] }];
    return [
      {
        seed,
        frame: n,
        factors: truth.factors,
        error: frameError(f.corners, corners, truth.width),
        trust: f.trust,
        ratios: f.corners.flatMap((p, i) => {
          const sigma = f.sigma[i]! * scale;
          return [Math.abs(p[0] - corners[i]![0]) * scale, Math.abs(p[1] - corners[i]![1]) * scale].map(
            (d) => d / sigma,
          );
        }),
      },
    ];
  });
}

/** @param work is done by so many at once, in the order of the list */
async function pooled<T, R>(list: readonly T[], threads: number, work: (item: T) => Promise<R>): Promise<R[]> {
  const out: R[] = [];
  const left = [...list.entries()];
  const worker = async (): Promise<void> => {
    for (let next = left.shift(); next; next = left.shift()) out[next[0]] = await work(next[1]);
  };
  await Promise.all(Array.from({ length: threads }, worker));
  return out;
}

function tellOne(shot: Shot): void {
  console.log(`thrown-${shot.seed}, reference ${shot.reference}:`, shot.truth.factors);
  for (const c of counted(shot)) {
    const error = c.error === null ? 'lost' : c.error.toFixed(2);
    const seen = Math.round(100 * (shot.truth.visible?.[c.frame] ?? 1));
    console.log(
      `${String(c.frame).padStart(3)}  ${error.padStart(8)}  trust ${c.trust.toFixed(2)}  seen ${seen} %  blur ${shot.truth.blur?.[c.frame]}`,
    );
  }
}

const { values } = parseArgs({
  options: {
    count: { type: 'string', default: '40' },
    first: { type: 'string', default: '1' },
    only: { type: 'string' },
    'held-out': { type: 'boolean', default: false },
    write: { type: 'boolean', default: false },
  },
});
mkdirSync(FOLDER, { recursive: true });
const first = values['held-out'] ? HELD_OUT : Number(values.first);
const seeds = values.only ? [Number(values.only)] : Array.from({ length: Number(values.count) }, (_, i) => first + i);
for (const seed of seeds) await draw(seed);
const shots = await pooled(seeds, availableParallelism(), follow);
if (values.only) tellOne(shots[0]!);
else {
  const each = shots.map((s) => ({ seed: s.seed, frames: counted(s), fps: (s.truth.corners.length - 1) / s.seconds }));
  const all = each.flatMap((s) => s.frames);
  const page = [summary(each), calibrationOf(all), riskCurve(all), byFactor(all)].join('\n\n');
  console.log(page);
  if (values.write) {
    const path = 'docs/benchmarks-dice.md';
    const part = values['held-out'] ? 'Looked at once' : 'For work';
    const before = existsSync(path) ? readFileSync(path, 'utf8').split(/^## (?=For work|Looked at once)/m) : [];
    const others = before.slice(1).filter((p) => !p.startsWith(part));
    const head = `# Shots thrown by dice\n\nMade by \`npm run bench:dice\`: everything that makes following hard is drawn by the seed; nothing but the exact pin is given.\nErrors are mean corner errors in px of a picture 1920 wide, on frames where at least 30 % of the screen is visible.\n`;
    writeFileSync(
      path,
      [head, `${part}: seeds ${first} to ${first + seeds.length - 1}\n\n${page}\n`, ...others].join('\n## '),
    );
  }
}
