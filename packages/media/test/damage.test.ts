/** Files that were cut off, or whose bytes changed: what is there is taken, and what is not as it was is named. */
import { mkdir, mkdtemp, open, readFile, rm, stat, truncate, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { DecodedPicture } from '../src/damage';
import { damageNote, damagedPictures } from '../src/damage';
import { rangesOf } from '../../core/src/frame-ranges';
import { run } from '../src/ffmpeg';
import type { IngestResult } from '../src/ingest';
import { ingest } from '../src/ingest';
import type { Probe } from '../src/probe';
import { probe } from '../src/probe';
import { openSource } from '../src/source';
import { makeClip } from './builders/clips';

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'yarlop-damage-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));
const at = (name: string): string => join(folder, name);

async function readIn(path: string): Promise<IngestResult & { readonly told: Probe }> {
  const source = await openSource(path);
  const told = await probe(source);
  const into = await mkdtemp(join(folder, 'into-'));
  const result = await ingest(
    source,
    told,
    into,
    () => {},
    () => false,
  ).finally(() => source.dispose());
  return { ...result, told };
}

/** Bytes of the picture data changed from there on. */
async function spoil(path: string, from: number, count: number): Promise<void> {
  const file = await open(path, 'r+');
  await file.write(Buffer.alloc(count, 0x5a), 0, count, from);
  await file.close();
}

/** Where packets begin, by the container's own tables. */
async function packetAt(path: string, n: number): Promise<{ readonly from: number; readonly size: number }> {
  const args = ['-select_streams', 'v:0', '-show_entries', 'packet=pos,size', '-of', 'csv=p=0', path];
  const line = (await run('ffprobe', args)).trim().split('\n')[n]!.split(',').map(Number);
  return { size: line[0]!, from: line[1]! };
}

const picture = (coded: number, o: Partial<DecodedPicture> = {}): DecodedPicture => ({
  coded,
  stands: false,
  isComplaint: false,
  ...o,
});

describe('damaged pictures', () => {
  it('that stand by themselves harm no other', () => {
    const all = [0, 1, 2, 3].map((n) => picture(n, { stands: true, isComplaint: n === 2 }));
    expect(damagedPictures(all)).toEqual([2]);
  });
  it('carry their damage along to the next that stands by itself', () => {
    const all = [0, 1, 2, 3, 4, 5].map((n) => picture(n, { stands: n % 4 === 0, isComplaint: n === 1 }));
    expect(damagedPictures(all)).toEqual([1, 2, 3]);
  });
  it('that are shown later than they are decoded harm what is shown between', () => {
    // I P B B, shown as I B B P. What is complained of with the first B is that B; with the I it is the P, one ahead.
    const all = [picture(0, { stands: true }), picture(2, { isComplaint: true }), picture(3), picture(1)];
    expect(damagedPictures(all)).toEqual([1, 2]);
    const late = [picture(0, { stands: true, isComplaint: true }), picture(2), picture(3), picture(1)];
    expect(damagedPictures(late)).toEqual([1, 2, 3]);
  });
  it('before any was handed out are the first ones', () => {
    const all = [0, 1, 2, 3].map((n) => picture(n, { stands: n % 2 === 0 }));
    expect(damagedPictures(all, true)).toEqual([0, 1]);
    expect(damagedPictures([], true)).toEqual([]);
  });
  it('are told as ranges, labelled as the person counts', () => {
    expect(rangesOf([3, 4, 5, 9])).toEqual([
      { from: 3, to: 5 },
      { from: 9, to: 9 },
    ]);
    expect(damageNote(rangesOf([3, 4, 5, 9]), 1001)).toMatch(
      /^4 frames are damaged in the file \(1004 to 1006, 1010\)/,
    );
    expect(damageNote([], 0)).toBeNull();
    expect(damageNote(rangesOf([0, 2, 4, 6, 8, 10, 12, 14]), 0)).toMatch(/\(0, 2, 4, 6, 8, 10, …\)/);
  });
});

describe('a file that is not as it was', () => {
  it('is taken in silence when it is', async () => {
    await makeClip({ frames: 24, args: ['-c:v', 'libx264', '-g', '12', at('sound.mp4')] });
    const { damaged, notes, frameCount } = await readIn(at('sound.mp4'));
    expect({ damaged, notes, frameCount }).toEqual({ damaged: [], notes: [], frameCount: 24 });
  });
  it('cut off in the middle says how many frames it promised and how many are there', async () => {
    await makeClip({ frames: 48, args: ['-c:v', 'libx264', '-g', '12', '-movflags', '+faststart', at('half.mp4')] });
    await truncate(at('half.mp4'), Math.round(0.6 * (await stat(at('half.mp4'))).size));
    const { told, frameCount } = await readIn(at('half.mp4'));
    expect(frameCount).toBeLessThan(40);
    expect(told.notes.join()).toMatch(/promises 48 frames, and \d+ are there: it is cut off/);
  });
  it('names the very frame where each stands by itself', async () => {
    await makeClip({
      frames: 12,
      args: ['-c:v', 'ffv1', '-level', '3', '-slicecrc', '1', '-g', '1', at('stands.mkv')],
    });
    const { from, size } = await packetAt(at('stands.mkv'), 7);
    await spoil(at('stands.mkv'), from + Math.round(size / 2), 200);
    const { damaged, notes, frameCount } = await readIn(at('stands.mkv'));
    expect(frameCount).toBe(12);
    expect(damaged).toEqual([{ from: 7, to: 7 }]);
    expect(notes.join()).toMatch(/1 frame is damaged in the file \(7\)/);
  });
  it('names all that a damaged picture harms, and nothing beyond the next that stands by itself', async () => {
    await makeClip({ frames: 36, args: ['-c:v', 'libx264', '-g', '12', '-bf', '0', at('carried.mp4')] });
    const { from, size } = await packetAt(at('carried.mp4'), 15);
    await spoil(at('carried.mp4'), from + Math.round(size / 3), Math.round(size / 3));
    const { damaged } = await readIn(at('carried.mp4'));
    expect(damaged).toEqual([{ from: 15, to: 23 }]);
  });
  it('names the first ones too, which are decoded before any is shown', async () => {
    await makeClip({ frames: 24, args: ['-c:v', 'libx264', '-g', '12', '-bf', '3', at('first.mp4')] });
    const { from, size } = await packetAt(at('first.mp4'), 0);
    await spoil(at('first.mp4'), from + Math.round(size / 2), Math.round(size / 4));
    expect((await readIn(at('first.mp4'))).damaged).toEqual([{ from: 0, to: 11 }]);
  });
  it('does not pass with bytes changed all over it', async () => {
    await makeClip({ frames: 36, width: 640, height: 384, args: ['-c:v', 'libx264', '-g', '12', at('all.mp4')] });
    for (let n = 1; n < 36; n += 3) {
      const { from, size } = await packetAt(at('all.mp4'), n);
      await spoil(at('all.mp4'), from + Math.round(size / 2), Math.max(8, Math.round(size / 4)));
    }
    const { damaged } = await readIn(at('all.mp4'));
    expect(damaged.reduce((s, r) => s + r.to - r.from + 1, 0)).toBeGreaterThan(18);
  });
  it('is refused by name where it is a picture of a sequence, since all later ones would be misnumbered', async () => {
    await mkdir(at('seq'));
    await makeClip({ frames: 6, args: ['-start_number', '1001', at('seq/quay.%04d.png')] });
    await writeFile(at('seq/quay.1004.png'), (await readFile(at('seq/quay.1004.png'))).subarray(0, 60));
    await expect(readIn(at('seq'))).rejects.toThrow(/quay\.1004\.png/);
  });
});
