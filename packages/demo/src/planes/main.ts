/**
 * `npm run demo:planes -- --shot NAME`: draws the shots built of flat things into packages/demo/assets with the exact
 * truth beside them. Options: --shot NAME (all when left out), --width W, --frames N, --out FOLDER, --still N (a PNG),
 * --least S, --mattes N,N (PNGs of how far something stands before the Screen, in code values of light: 255 wholly).
 */
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { Worker, isMainThread, parentPort, workerData } from 'node:worker_threads';
import { availableParallelism } from 'node:os';
import sharp from 'sharp';
import { Encoder } from '@yarlop/media/encode';
import { diced } from './dice';
import { ROOMS, trueCamera } from './rooms';
import { thrown } from './thrown';
import type { DemoShot } from './shots';
import { ON_DEMAND, SHOTS, cornersAt } from './shots';
import { mattesOf } from './mattes';
import { pathLength, renderFrame, visibleShare } from './stage';

const NAMED = { ...SHOTS, ...ON_DEMAND, ...ROOMS };

/** Frames a second. */
const RATE = 24;

interface Order {
  readonly name: string;
  readonly width: number;
  readonly frames: number | undefined;
  readonly least: number;
  readonly first: number;
  readonly step: number;
}

function make(o: Pick<Order, 'name' | 'width' | 'frames'>): Promise<DemoShot> {
  const dice = /^(diced|thrown)-(\d+)$/.exec(o.name);
  const throwing = dice?.[1] === 'thrown' ? thrown : diced;
  const found = dice ? throwing.bind(null, Number(dice[2])) : NAMED[o.name];
  if (!found)
    throw new Error(
      `There is no shot "${o.name}"; there are ${Object.keys(NAMED).join(', ')}, and diced-1, diced-2, thrown-1 and so on.`,
    );
  return found({
    width: o.width,
    height: 2 * Math.round((o.width * 9) / 32),
    ...(o.frames ? { frames: o.frames } : {}),
  });
}

/** The exact camera of every frame beside the corners. */
function writeCamera({ set }: DemoShot, name: string, out: string): void {
  const frames = Array.from({ length: set.frames }, (_, n) => trueCamera(set, n));
  writeFileSync(join(out, `${name}.camera-truth.json`), JSON.stringify({ lens: set.lens, frames }));
}

function writeTruth(shot: DemoShot, name: string, out: string): void {
  const { width, height, frames } = shot.set;
  if (name in ROOMS) writeCamera(shot, name, out);
  for (const [i, screen] of shot.screens.entries()) {
    const own = shot.screens.length > 1 ? `${name}.${i + 1}` : name;
    const shown = shot.set.shownOn ?? ((n: number) => n);
    const corners = Array.from({ length: frames }, (_, n) =>
      cornersAt(shot, screen, shown(n)).map((p) => p.map((v) => Number(v.toFixed(5)))),
    );
    const self = shot.set.surfaces.findIndex((s) => s.place === screen.place && !s.adds);
    const round = (v: number): number => Number(v.toFixed(3));
    const visible = corners.map((_, n) => round(visibleShare(shot.set, self, screen.place, screen.glass, shown(n))));
    const blur = corners.map((_, n) => round(pathLength(shot.set, shown(n), screen.place)));
    writeFileSync(
      join(out, `${own}.truth.json`),
      JSON.stringify({
        plate: `${name}.mp4`,
        width,
        height,
        corners,
        visible,
        blur,
        ...(shot.factors ? { factors: shot.factors } : {}),
      }),
    );
    writeFileSync(
      join(out, `${own}.screen.json`),
      `${JSON.stringify({ format: 'yarlop-screen', version: 1, name: screen.name, device: screen.device, referenceFrame: shot.reference, pin: corners[shot.reference] }, null, 2)}\n`,
    );
  }
}

/** How far something stands before the first Screen, an 8-bit PNG a frame. */
async function writeMattes(shot: DemoShot, name: string, frames: readonly number[], out: string): Promise<void> {
  const { width, height } = shot.set;
  for (const n of frames)
    await sharp(mattesOf(shot, n), { raw: { width, height, channels: 1 } })
      .png()
      .toFile(join(out, `${name}.matte-${n}.png`));
}

async function renderClip(
  name: string,
  width: number,
  frames: number | undefined,
  least: number,
  out: string,
): Promise<void> {
  const shot = await make({ name, width, frames });
  const { height } = shot.set;
  const threads = availableParallelism();
  const waiting = new Map<number, Uint8Array>();
  const encoder = await Encoder.open(join(out, `${name}.mp4`), {
    width,
    height,
    frameRate: [RATE, 1],
    firstNumber: 0,
    depth: 8,
    alpha: false,
    rateFactor: shot.rateFactor ?? 24,
  });
  let next = 0;
  let chain = Promise.resolve();
  await Promise.all(
    Array.from(
      { length: threads },
      (_, i) =>
        new Promise<void>((resolve, reject) => {
          const worker = new Worker(new URL(import.meta.url), {
            workerData: { name, width, frames, least, first: i, step: threads } satisfies Order,
          });
          worker
            .on('error', reject)
            .on('exit', () => resolve())
            .on('message', ({ frame, data }: { frame: number; data: Uint8Array }) => {
              waiting.set(frame, data);
              chain = chain.then(async () => {
                for (let d = waiting.get(next); d; d = waiting.get(next)) {
                  await encoder.write({ width, height, channels: 3, data: d });
                  waiting.delete(next++);
                }
              });
            });
        }),
    ),
  );
  await chain;
  await encoder.close();
  writeTruth(shot, name, out);
  process.stderr.write(`${name}: ${next} frames\n`);
}

if (isMainThread) {
  const { values } = parseArgs({
    options: {
      shot: { type: 'string' },
      width: { type: 'string', default: '1920' },
      frames: { type: 'string' },
      out: { type: 'string', default: 'packages/demo/assets' },
      still: { type: 'string' },
      least: { type: 'string', default: '6' },
      mattes: { type: 'string' },
      'truth-only': { type: 'boolean' },
    },
  });
  const width = Number(values.width);
  const frames = values.frames ? Number(values.frames) : undefined;
  const least = Number(values.least);
  for (const name of values.shot ? values.shot.split(',') : Object.keys(SHOTS)) {
    if (values.mattes) {
      mkdirSync(values.out, { recursive: true });
      await writeMattes(await make({ name, width, frames }), name, values.mattes.split(',').map(Number), values.out);
    } else if (values.still) {
      const shot = await make({ name, width, frames });
      for (const n of values.still.split(',').map(Number))
        await sharp(renderFrame(shot.set, n, shot.screens[0]!.place, least), {
          raw: { width, height: shot.set.height, channels: 3 },
        })
          .png()
          .toFile(join(values.out, `${name}-${n}.png`));
    } else if (values['truth-only']) writeTruth(await make({ name, width, frames }), name, values.out);
    else {
      mkdirSync(values.out, { recursive: true });
      await renderClip(name, width, frames, least, values.out);
    }
  }
} else {
  const o = workerData as Order;
  const shot = await make(o);
  for (let n = o.first; n < shot.set.frames; n += o.step) {
    const data = renderFrame(shot.set, shot.set.shownOn?.(n) ?? n, shot.screens[0]!.place, o.least);
    parentPort!.postMessage({ frame: n, data }, [data.buffer as ArrayBuffer]);
  }
}
