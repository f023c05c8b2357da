/** A small plate with exact truth, as H.264 bytes: each kind is made once. */
import { mkdtemp, readFile, rename, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { insidePolygon } from '../../../core/src/geometry/polygon';
import type { Quad } from '../../../core/src/geometry/quad';
import { grownPin } from '../../../core/src/pin/inset';
import { moved, renderScene, waves } from '../../../core/test/builders/scene';
import { ffmpeg } from '../../../media/test/builders/clips';

export const PIN: Quad = [
  [200, 110],
  [440, 118],
  [432, 270],
  [192, 262],
];
export const truthAt = (n: number): number[] =>
  moved(PIN, { x: 2 * (n - 8), y: Math.sin(n) - Math.sin(8), turn: 0.006 * (n - 8) });
export const recipe = {
  format: 'yarlop-screen',
  version: 1,
  name: 'quay phone',
  device: 'phone',
  referenceFrame: 8,
  pin: PIN,
  patches: [],
  motion: 'perspective',
  evidence: 'auto',
};

const made = new Map<string, Promise<Buffer>>();

interface Kind {
  readonly frames: number;
  readonly loops: number;
  /** the picture ends at the glass and a black bezel stands around it */
  readonly bezelled: boolean;
  /** a bright bar comes in from below and goes again, see {@link barOn} */
  readonly passed: boolean;
}

/** Of the small plate, bare or bezelled. */
export function plateBytes(frames = 24, loops = 0, bezelled = false): Promise<Buffer> {
  return bytesOf({ frames, loops, bezelled, passed: false });
}

/** The bezelled plate with something that passes before it. */
export function passedBytes(frames = 24): Promise<Buffer> {
  return bytesOf({ frames, loops: 0, bezelled: true, passed: true });
}

function bytesOf(kind: Kind): Promise<Buffer> {
  const name = Object.values(kind).join('-');
  const known = made.get(name) ?? keptPlate(kind, name);
  made.set(name, known);
  return known;
}

/** Where the bar stands on a frame: it reaches from `top` down to the picture's border. Null where it is not there. */
export function barOn(n: number): { readonly left: number; readonly right: number; readonly top: number } | null {
  if (n <= 8 || n >= 20) return null;
  return { left: 300, right: 344, top: 300 - 130 * Math.sin((Math.PI * (n - 8)) / 12) };
}

/** Code value of the bar. */
export const BAR = 235;

function drawBar(data: Uint8Array, width: number, n: number): void {
  const bar = barOn(n);
  if (!bar) return;
  for (let y = Math.round(bar.top); y < data.length / width; y++)
    data.fill(BAR, y * width + bar.left, y * width + bar.right);
}

/** Plates of a run of all tests lie in its folder, so that no file of tests makes again what another has made. */
async function keptPlate(kind: Kind, name: string): Promise<Buffer> {
  const folder = process.env['YARLOP_TEST_FOLDER'];
  if (!folder) return makePlate(kind);
  const path = join(folder, `plate-${name}.mp4`);
  const known = await readFile(path).catch(() => null);
  if (known) return known;
  const bytes = await makePlate(kind);
  await writeFile(`${path}.${process.pid}`, bytes);
  await rename(`${path}.${process.pid}`, path);
  return bytes;
}

async function makePlate({ frames, loops, bezelled, passed }: Kind): Promise<Buffer> {
  const folder = await mkdtemp(join(tmpdir(), 'yarlop-plate-'));
  const picture = waves(5);
  const bezel = (x: number, y: number): number => (insidePolygon([x, y], PIN) ? 60 + 0.75 * picture(x, y) : 16);
  const scene = {
    width: 640,
    height: 384,
    pin: bezelled ? grownPin(PIN, 12) : PIN,
    homography: truthAt,
    texture: bezelled ? bezel : picture,
    background: waves(9),
    noise: 2,
  };
  try {
    for (let n = 0; n < frames; n++) {
      const data = renderScene(scene, n).data as Uint8Array;
      if (passed) drawBar(data, scene.width, n);
      await writeFile(join(folder, 'raw'), data, { flag: 'a' });
    }
    await ffmpeg([
      '-f',
      'rawvideo',
      '-pix_fmt',
      'gray',
      '-video_size',
      '640x384',
      '-framerate',
      '24',
      '-i',
      join(folder, 'raw'),
      '-c:v',
      'libx264',
      '-crf',
      '14',
      '-pix_fmt',
      'yuv420p',
      join(folder, 'p.mp4'),
    ]);
    if (loops > 0)
      await ffmpeg(['-stream_loop', String(loops), '-i', join(folder, 'p.mp4'), '-c', 'copy', join(folder, 'l.mp4')]);
    return await readFile(join(folder, loops > 0 ? 'l.mp4' : 'p.mp4'));
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

let variants = 0;
/** Bytes of a clip that no test brought in yet: the container's free text differs, which decoders pass over. */
export function variantOf(clip: Buffer): Buffer {
  const free = Buffer.alloc(8 + 16);
  free.writeUInt32BE(free.length);
  free.write('free', 4, 'latin1');
  free.write(`variant ${variants++}`, 8, 'latin1');
  return Buffer.concat([clip, free]);
}
