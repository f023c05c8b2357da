/**
 * `npm run bench:render`: how fast and in how much memory `yarlop dress` renders, beside ffmpeg doing `perspective` and
 * `overlay` on the same frames with the same encoder, in the same run. A moving pin of about 600x400 in a 1080p plate,
 * a 1920x1080 picture as its fill. Writes docs/benchmarks-rendering.md. Ratios are what counts: machines differ.
 */
import { spawn } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { quadToQuad } from '@yarlop/core/geometry/homography';
import type { Quad } from '@yarlop/core/geometry/quad';
import { idsOf } from '@yarlop/contracts/formats';

/** Frames that are rendered: two seconds. */
const FRAMES = 48;
/** Rounds whose best is told. */
const ROUNDS = 2;
const folder = mkdtempSync(join(tmpdir(), 'yarlop-bench-'));

interface Timed {
  readonly seconds: number;
  /** most memory of the process itself, MB */
  readonly memory: number;
}

function run(command: string, args: readonly string[]): Promise<Timed> {
  const began = performance.now();
  const child = spawn(command, args, { stdio: ['ignore', 'ignore', 'pipe'] });
  let memory = 0;
  let stderr = '';
  child.stderr.on('data', (d: Buffer) => (stderr = (stderr + d.toString()).slice(-400)));
  const timer = setInterval(() => {
    try {
      memory = Math.max(
        memory,
        Number(/VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${child.pid}/status`, 'utf8'))?.[1] ?? 0) / 1024,
      );
    } catch {
      // It has just ended.
    }
  }, 50);
  return new Promise((resolve, reject) =>
    child.on('close', (code) => {
      clearInterval(timer);
      if (code === 0) resolve({ seconds: (performance.now() - began) / 1000, memory });
      else reject(new Error(`${command} ended with ${code}: ${stderr}`));
    }),
  );
}

const cornersOn = (n: number, k: number): Quad =>
  (
    [
      [0, 0],
      [600, 18],
      [585, 410],
      [12, 396],
    ] as const
  ).map(([x, y], i) => [
    k * (640 + x + 3 * n + 6 * Math.sin(n / 7 + i)),
    k * (330 + y + 1.5 * n + 4 * Math.cos(n / 5 + i)),
  ]) as unknown as Quad;

function track(width: number, height: number, count = FRAMES, names: readonly string[] = ['screen']): string {
  const k = width / 1920;
  const pin = cornersOn(0, k);
  const frames = Array.from({ length: count }, (_, frame) => ({
    frame,
    corners: cornersOn(frame % FRAMES, k),
    homography: quadToQuad(pin, cornersOn(frame % FRAMES, k)),
    sigma: [0.1, 0.1, 0.1, 0.1],
    trust: 1,
    evidence: { hand: 1 },
  }));
  const file = join(folder, `track-${width}-${count}.json`);
  writeFileSync(
    file,
    JSON.stringify({
      format: 'yarlop-track',
      version: 1,
      plate: { name: 'plate.mp4', width, height, frameRate: [24, 1], firstFrame: 0, frameCount: count },
      coordinates:
        'pixels; origin at the top-left corner of the top-left pixel; x right, y down; corners TL, TR, BR, BL',
      screens: names.map((name) => ({ name, referenceFrame: 0, stopped: null, frames })),
    }),
  );
  return file;
}

function screen(name: string, width: number, dress: object): string {
  const file = join(folder, `screen-${name}-${width}.json`);
  writeFileSync(
    file,
    JSON.stringify({
      format: 'yarlop-screen',
      version: 1,
      name: 'screen',
      referenceFrame: 0,
      pin: cornersOn(0, width / 1920),
      dress,
    }),
  );
  return file;
}

async function plate(width: number, height: number): Promise<string> {
  const file = join(folder, `plate-${width}.mp4`);
  await run('ffmpeg', [
    '-y',
    '-loglevel',
    'error',
    '-f',
    'lavfi',
    '-i',
    `testsrc2=size=${width}x${height}:rate=24:duration=${FRAMES / 24}`,
    '-vf',
    'noise=alls=6:allf=t',
    '-c:v',
    'libx264',
    '-preset',
    'veryfast',
    '-crf',
    '18',
    '-pix_fmt',
    'yuv420p',
    '-colorspace',
    'bt709',
    '-color_primaries',
    'bt709',
    '-color_trc',
    'bt709',
    file,
  ]);
  return file;
}

/** As ffmpeg does it: the fill is bent into the frame's size with alpha about it, and laid over. */
function overlay(plateFile: string, fill: string, out: string): string[] {
  const q = cornersOn(0, 1);
  const at = q.map((p, i) => `x${[0, 1, 3, 2][i]}=${p[0].toFixed(2)}:y${[0, 1, 3, 2][i]}=${p[1].toFixed(2)}`).join(':');
  return [
    '-y',
    '-loglevel',
    'error',
    '-i',
    plateFile,
    '-loop',
    '1',
    '-i',
    fill,
    '-filter_complex',
    `[1:v]format=yuva420p,pad=iw+4:ih+4:2:2:color=black@0,perspective=${at}:sense=destination:eval=frame[f];[0:v][f]overlay=shortest=1:format=auto,format=yuv420p[v]`,
    '-map',
    '[v]',
    '-c:v',
    'libx264',
    '-preset',
    'superfast',
    '-crf',
    '14',
    '-frames:v',
    String(FRAMES),
    out,
  ];
}

const LEVELS = {
  levels: { black: [0.02, 0.02, 0.02], white: [0.8, 0.8, 0.8], gamma: 1.1 },
  softness: { more: 1 },
  motionBlur: { on: true, shutter: 180 },
  grain: {
    amount: 1,
    measured: {
      levels: [0.1, 0.5, 0.9],
      sigma: [
        [0.01, 0.012, 0.01],
        [0.01, 0.012, 0.01],
        [0.01, 0.012, 0.01],
      ],
      size: 0.4,
    },
  },
};
const yarlop = (
  plateFile: string,
  width: number,
  height: number,
  name: string,
  dress: object,
  out: string,
): string[] => [
  'bin/yarlop.mjs',
  'dress',
  plateFile,
  '--track',
  track(width, height),
  '--screen',
  screen(name, width, dress),
  '--fill',
  join(folder, 'fill.png'),
  '--out',
  out,
];
const least = (all: readonly Timed[]): Timed => all.reduce((a, b) => (b.seconds < a.seconds ? b : a));

try {
  await run('ffmpeg', [
    '-y',
    '-loglevel',
    'error',
    '-f',
    'lavfi',
    '-i',
    'testsrc=size=1920x1080',
    '-frames:v',
    '1',
    join(folder, 'fill.png'),
  ]);
  const hd = await plate(1920, 1080);
  const uhd = await plate(3840, 2160);
  const reference: Timed[] = [];
  const bare: Timed[] = [];
  const full: Timed[] = [];
  for (let i = 0; i < ROUNDS; i++) {
    reference.push(await run('ffmpeg', overlay(hd, join(folder, 'fill.png'), join(folder, 'reference.mp4'))));
    bare.push(await run('node', yarlop(hd, 1920, 1080, 'bare', {}, join(folder, 'bare.mp4'))));
    full.push(await run('node', yarlop(hd, 1920, 1080, 'full', LEVELS, join(folder, 'full.mp4'))));
  }
  const large = await run('node', yarlop(uhd, 3840, 2160, 'full', LEVELS, join(folder, 'large.mp4')));
  const base = least(reference).seconds;
  const deliver = (as: string, ...more: string[]): Promise<Timed> =>
    run('node', ['bin/yarlop.mjs', 'deliver', '--as', as, ...more]);
  const maps = await deliver('stmap', '--track', track(1920, 1080), '--out', join(folder, 'map.%04d.exr'));
  const report = await deliver(
    'report',
    '--track',
    track(1920, 1080),
    '--plate',
    hd,
    '--out',
    join(folder, 'report.html'),
  );
  const long = track(1920, 1080, 2000, ['a', 'b', 'c', 'd']);
  const texts: { readonly as: string; readonly seconds: number }[] = [];
  for (const as of idsOf('text'))
    texts.push({ as, seconds: (await deliver(as, '--track', long, '--out', join(folder, `text.${as}`))).seconds });
  const start = (await run('node', ['bin/yarlop.mjs', '--version'])).seconds;
  const slowest = texts.reduce((a, b) => (b.seconds > a.seconds ? b : a));
  const row = (name: string, t: Timed): string =>
    `| ${name} | ${(FRAMES / t.seconds).toFixed(1)} | ${(t.seconds / base).toFixed(2)} | ${t.memory.toFixed(0)} |`;
  const text = `# Rendering: speed and memory

Made by \`npm run bench:render\`: ${FRAMES} frames, H.264 with the same settings everywhere, the best of ${ROUNDS} rounds that take turns; start-up, decoding and encoding are in the
times. The reference is Debian's ffmpeg with its \`perspective\` and \`overlay\` filters on the same plate and fill (its pin stands still, Yarlop's moves). Memory is the most that the
process itself held, without the ffmpeg processes that it starts.

| what | frames/s | times the reference's time | memory, MB |
| --- | --- | --- | --- |
${[row('ffmpeg, perspective and overlay, 1080p', least(reference)), row('Yarlop, bare, 1080p', least(bare)), row('Yarlop with levels, softness, motion blur and grain, 1080p', least(full)), row('the same, 2160p', large)].join('\n')}

Handing over, by the command line, its start of ${start.toFixed(1)} s included:

| what | figure |
| --- | --- |
| ST maps, 1080p, 32-bit float OpenEXR | ${(FRAMES / maps.seconds).toFixed(1)} frames/s |
| track data of 2,000 frames and four Screens, the slowest of ${texts.length} text formats (${slowest.as}) | ${slowest.seconds.toFixed(1)} s; reading the track is in it |
| report with thumbnails of the plate | ${report.seconds.toFixed(1)} s |
`;
  writeFileSync('docs/benchmarks-rendering.md', text);
  process.stdout.write(text);
} finally {
  rmSync(folder, { recursive: true, force: true });
}
