/** A clip of a wall with a box before it and a dark glass on the box, past which a known camera moves. */
import { rm, writeFile } from 'node:fs/promises';
import type { View } from '../../../core/src/camera/view-model';
import { movedView, viewOfNothing } from '../../../core/src/camera/view-model';
import type { Quad } from '../../../core/src/geometry/quad';
import { random, waves } from '../../../core/test/builders/scene';
import { ffmpeg } from './clips';

export const ROOM = { width: 384, height: 256, frames: 24, focal: 420 } as const;

const WALL = { z: 8, texture: waves(5, 14, 90) };
const BOX = { z: 5, x0: -1.5, x1: 1.5, y0: -0.9, y1: 2, texture: waves(9, 14, 90) };
const GLASS = { x0: -0.8, x1: 0.8, y0: -0.5, y1: 0.5 };
/** Texture px in a unit of the room. */
const TEXELS = 60;

/** Sideways, with a little turning. */
export const viewOn = (frame: number): View =>
  movedView(viewOfNothing(), [
    0.005 * Math.sin(frame / 4),
    -0.004 * frame,
    0.004 * Math.sin(frame / 3),
    0.6 - 0.05 * frame,
    0,
    0,
  ]);

/** Corners of the glass on a frame, px. */
export function glassOn(frame: number): Quad {
  const v = viewOn(frame);
  const { x0, x1, y0, y1 } = GLASS;
  return (
    [
      [x0, y0],
      [x1, y0],
      [x1, y1],
      [x0, y1],
    ] as const
  ).map(([x, y]) => {
    const [a, b, c] = [0, 3, 6].map((r) => v[r]! * x + v[r + 1]! * y + v[r + 2]! * BOX.z + v[9 + r / 3]!);
    return [ROOM.width / 2 + (ROOM.focal * a!) / c!, ROOM.height / 2 + (ROOM.focal * b!) / c!];
  }) as unknown as Quad;
}

/** Frame on which the glass is pinned. */
export const GLASS_REFERENCE = 4;

/** The glass as a Screen. */
export const glassRecipe = (): object => ({
  format: 'yarlop-screen',
  version: 1,
  name: 'dark glass',
  device: 'laptop',
  referenceFrame: GLASS_REFERENCE,
  pin: glassOn(GLASS_REFERENCE),
});

/** What is seen along a ray, from the eye. */
function seen(eye: readonly number[], ray: readonly number[]): number {
  const on = (z: number): [number, number] => {
    const t = (z - eye[2]!) / ray[2]!;
    return [eye[0]! + t * ray[0]!, eye[1]! + t * ray[1]!];
  };
  const [x, y] = on(BOX.z);
  if (x > BOX.x0 && x < BOX.x1 && y > BOX.y0 && y < BOX.y1) {
    const isGlass = x > GLASS.x0 && x < GLASS.x1 && y > GLASS.y0 && y < GLASS.y1;
    return isGlass ? 20 : BOX.texture(TEXELS * x, TEXELS * y);
  }
  const [u, w] = on(WALL.z);
  return WALL.texture(TEXELS * u, TEXELS * w);
}

function picture(frame: number): Uint8Array {
  const { width, height, focal } = ROOM;
  const v = viewOn(frame);
  const eye = [0, 1, 2].map((i) => -(v[i]! * v[9]! + v[3 + i]! * v[10]! + v[6 + i]! * v[11]!));
  const noise = random(frame + 1);
  const out = new Uint8Array(width * height);
  // Four samples a px, so that the glass has soft edges.
  for (let i = 0; i < out.length; i++) {
    let sum = 0;
    for (const [dx, dy] of [
      [0.25, 0.25],
      [0.75, 0.25],
      [0.25, 0.75],
      [0.75, 0.75],
    ] as const) {
      const [x, y] = [((i % width) + dx - width / 2) / focal, (Math.floor(i / width) + dy - height / 2) / focal];
      const ray = [0, 1, 2].map((k) => v[k]! * x + v[3 + k]! * y + v[6 + k]!);
      sum += seen(eye, ray) / 4;
    }
    out[i] = Math.min(255, Math.max(0, Math.round(sum + 4 * (noise() - 0.5))));
  }
  return out;
}

/** @param covered frames on which something dark stands before the glass and all about it */
export async function roomClip(path: string, covered: (frame: number) => boolean = () => false): Promise<void> {
  const raw = `${path}.raw`;
  for (let n = 0; n < ROOM.frames; n++) {
    const frame = picture(n);
    if (covered(n)) coverGlass(frame, glassOn(n));
    await writeFile(raw, frame, { flag: n === 0 ? 'w' : 'a' });
  }
  const size = `${ROOM.width}x${ROOM.height}`;
  const input = ['-f', 'rawvideo', '-pix_fmt', 'gray', '-video_size', size, '-framerate', '24', '-i', raw];
  await ffmpeg([...input, '-c:v', 'libx264', '-crf', '12', '-pix_fmt', 'yuv420p', path]);
  await rm(raw);
}

function coverGlass(frame: Uint8Array, glass: Quad): void {
  const left = Math.max(0, Math.floor(glass[0][0]) - 12);
  const right = Math.min(ROOM.width, Math.ceil(glass[1][0]) + 12);
  const top = Math.max(0, Math.floor(Math.min(glass[0][1], glass[1][1])) - 12);
  for (let y = top; y < ROOM.height; y++) frame.fill(70, y * ROOM.width + left, y * ROOM.width + right);
}
