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

/** @param bezelled the picture ends at the glass and a black bezel stands around it */
export function plateBytes(frames = 24, loops = 0, bezelled = false): Promise<Buffer> {
  const kind = `${frames} ${loops} ${bezelled}`;
  const known = made.get(kind) ?? keptPlate(frames, loops, bezelled);
  made.set(kind, known);
  return known;
}

/** Plates of a run of all tests lie in its folder, so that no file of tests makes again what another has made. */
async function keptPlate(frames: number, loops: number, bezelled: boolean): Promise<Buffer> {
  const folder = process.env['YARLOP_TEST_FOLDER'];
  if (!folder) return makePlate(frames, loops, bezelled);
  const path = join(folder, `plate-${frames}-${loops}-${bezelled}.mp4`);
  const known = await readFile(path).catch(() => null);
  if (known) return known;
  const bytes = await makePlate(frames, loops, bezelled);
  await writeFile(`${path}.${process.pid}`, bytes);
  await rename(`${path}.${process.pid}`, path);
  return bytes;
}

async function makePlate(frames: number, loops: number, bezelled: boolean): Promise<Buffer> {
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
    for (let n = 0; n < frames; n++)
      await writeFile(join(folder, 'raw'), renderScene(scene, n).data as Uint8Array, { flag: 'a' });
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
