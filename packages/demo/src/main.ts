/**
 * `npm run demo:render`: draws the demo's plates and fills into packages/demo/assets, with the exact truth beside them.
 * Options: --frame N --width W --samples S --out FILE.png for one still.
 */
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { Worker, isMainThread, parentPort, workerData } from 'node:worker_threads';
import { availableParallelism } from 'node:os';
import sharp from 'sharp';
import { Encoder } from '@yarlop/media/encode';
import { boats, harbourBoard, nauticalChart, tideClock } from './drawings';
import type { Textures } from './chart-table';
import { bakeTableLight } from './chart-table';
import { pictureFromSvg } from './picture';
import { FRAMES, RATE, film, renderFrame, truth } from './shot';

const ASSETS = join(process.cwd(), 'packages/demo/assets');

async function renderClip(width: number, samples: number): Promise<void> {
  const f = film(width);
  const threads = availableParallelism();
  const waiting = new Map<number, Uint8Array>();
  const encoder = await Encoder.open(join(ASSETS, 'harbour-phone.mp4'), {
    width,
    height: f.height,
    frameRate: [RATE, 1],
    firstNumber: 0,
    depth: 8,
    alpha: false,
    rateFactor: 19,
  });
  let next = 0;
  let chain = Promise.resolve();
  await Promise.all(
    Array.from(
      { length: threads },
      (_, i) =>
        new Promise<void>((resolve, reject) => {
          const worker = new Worker(new URL(import.meta.url), {
            workerData: { width, samples, first: i, step: threads },
          });
          worker
            .on('error', reject)
            .on('exit', () => resolve())
            .on('message', ({ frame, data }: { frame: number; data: Uint8Array }) => {
              waiting.set(frame, data);
              chain = chain.then(async () => {
                for (let d = waiting.get(next); d; d = waiting.get(next)) {
                  await encoder.write({ width, height: f.height, channels: 3, data: d });
                  waiting.delete(next++);
                  process.stderr.write(`frame ${next} of ${FRAMES}\n`);
                }
              });
            });
        }),
    ),
  );
  await chain;
  await encoder.close();
  writeFileSync(
    join(ASSETS, 'harbour-phone.truth.json'),
    JSON.stringify({ width, height: f.height, corners: Array.from({ length: FRAMES }, (_, n) => truth(n, f)) }),
  );
}

async function textures(): Promise<Textures> {
  return { chart: await pictureFromSvg(nauticalChart()), tableLight: bakeTableLight(420, 5) };
}

async function renderFills(): Promise<void> {
  for (const [name, drawing] of [
    ['tide-clock.png', tideClock()],
    ['harbour-board.png', harbourBoard()],
  ] as const)
    await sharp(Buffer.from(drawing))
      .png({ compressionLevel: 9, palette: true, colours: 256 })
      .toFile(join(ASSETS, name));
  const encoder = await Encoder.open(join(ASSETS, 'boats.mp4'), {
    width: 720,
    height: 1560,
    frameRate: [RATE, 1],
    firstNumber: 0,
    depth: 8,
    alpha: false,
  });
  for (let n = 0; n < FRAMES; n++) {
    const { data } = await sharp(Buffer.from(boats(n / RATE)))
      .removeAlpha()
      .raw()
      .toBuffer({ resolveWithObject: true });
    await encoder.write({ width: 720, height: 1560, channels: 3, data });
  }
  await encoder.close();
}

if (isMainThread) {
  const { values } = parseArgs({
    options: {
      frame: { type: 'string' },
      width: { type: 'string', default: '1920' },
      samples: { type: 'string', default: '6' },
      out: { type: 'string' },
      'fills-only': { type: 'boolean' },
    },
  });
  const width = Number(values.width);
  const samples = Number(values.samples);
  mkdirSync(ASSETS, { recursive: true });
  if (values.frame) {
    const f = film(width);
    await sharp(renderFrame(Number(values.frame), f, await textures(), samples), {
      raw: { width, height: f.height, channels: 3 },
    })
      .png()
      .toFile(values.out ?? 'frame.png');
  } else {
    await renderFills();
    if (!values['fills-only']) await renderClip(width, samples);
  }
} else {
  const { width, samples, first, step } = workerData as { width: number; samples: number; first: number; step: number };
  const f = film(width);
  const set = await textures();
  for (let n = first; n < FRAMES; n += step) {
    const data = renderFrame(n, f, set, samples);
    parentPort!.postMessage({ frame: n, data }, [data.buffer as ArrayBuffer]);
  }
}
