/** A folder with a textured Screen that moves through a clip, and the command line on it. */
import { spawn } from 'node:child_process';
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Quad } from '../../../core/src/geometry/quad';
import { moved, renderScene, waves } from '../../../core/test/builders/scene';
import { ffmpeg, makeClip } from '../../../media/test/builders/clips';

export const PIN: Quad = [
  [110, 80],
  [250, 84],
  [246, 180],
  [106, 176],
];
export const FRAMES = 24;

export const move = (n: number): number[] =>
  moved(PIN, { x: 2.5 * (n - 10), y: Math.sin(n) - Math.sin(10), turn: 0.01 * (n - 10) });

export const recipe = {
  format: 'yarlop-screen',
  version: 1,
  name: 'quay phone',
  device: 'phone',
  referenceFrame: 10,
  pin: PIN,
} as const;

export interface Said {
  /** exit status, or the signal that ended it where it did not end by itself */
  readonly code: number | NodeJS.Signals | null;
  readonly out: string;
  readonly err: string;
}

export class Quay {
  private constructor(readonly folder: string) {}

  /** With `plate.mp4`, `screen.json` and `fill.png`. @param pin of the surface that carries the texture */
  static async open(pin: Quad = PIN): Promise<Quay> {
    const quay = new Quay(await mkdtemp(join(tmpdir(), 'yarlop-cli-')));
    await quay.clip('plate.mp4', pin);
    await writeFile(quay.at('screen.json'), JSON.stringify(recipe));
    await makeClip({ frames: 1, width: 96, height: 64, args: [quay.at('fill.png')] });
    return quay;
  }

  at(name: string): string {
    return join(this.folder, name);
  }

  async clip(name: string, pin: Quad): Promise<void> {
    const raw = this.at(`${name}.raw`);
    const scene = {
      width: 384,
      height: 256,
      pin,
      homography: move,
      texture: waves(5),
      background: waves(9),
      noise: 2,
    };
    for (let n = 0; n < FRAMES; n++)
      await writeFile(raw, renderScene(scene, n).data as Uint8Array, { flag: n === 0 ? 'w' : 'a' });
    const input = ['-f', 'rawvideo', '-pix_fmt', 'gray', '-video_size', '384x256', '-framerate', '24', '-i', raw];
    await ffmpeg([...input, '-c:v', 'libx264', '-crf', '12', '-pix_fmt', 'yuv420p', this.at(name)]);
    await rm(raw);
  }

  /** Runs the command line. @param whenStderr hears all of standard error so far, each time that it grows */
  yarlop(args: readonly string[], whenStderr?: (child: ReturnType<typeof spawn>, text: string) => void): Promise<Said> {
    return new Promise((done) => {
      const child = spawn('node', ['bin/yarlop.mjs', ...args], { stdio: ['ignore', 'pipe', 'pipe'] });
      let out = '';
      let err = '';
      child.stdout.on('data', (t: Buffer) => (out += t.toString()));
      child.stderr.on('data', (t: Buffer) => {
        err += t.toString();
        whenStderr?.(child, err);
      });
      child.on('close', (code, signal) => done({ code: code ?? signal, out, err }));
    });
  }

  close(): Promise<void> {
    return rm(this.folder, { recursive: true, force: true });
  }
}
