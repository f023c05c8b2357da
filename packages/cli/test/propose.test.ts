/** `yarlop propose` on a clip: the device's glass is the first thing that it names, as text and as JSON. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { farthest } from '../../core/src/geometry/quad';
import type { Quad } from '../../core/src/geometry/quad';
import { ffmpeg } from '../../media/test/builders/clips';
import { Quay } from './builders/quay';

const GLASS: Quad = [
  [140, 60],
  [460, 60],
  [460, 260],
  [140, 260],
];
const NEWEST = 3;
let quay: Quay;
beforeAll(async () => {
  quay = await Quay.open();
  // The glass lights up on the last frame and stands still.
  const lights = `drawbox=140:60:320:200:0xdcd8cc:fill:enable='gte(n,${NEWEST})'`;
  await ffmpeg([
    ...['-f', 'lavfi', '-i', 'color=0x6a5a48:640x360:rate=24'],
    ...['-vf', `drawbox=126:46:348:228:0x202022:fill,drawbox=140:60:320:200:0x060607:fill,${lights}`],
    ...['-frames:v', String(NEWEST + 1), '-c:v', 'libx264', '-crf', '12', quay.at('still.mp4')],
  ]);
});
afterAll(() => quay.close());

interface Told {
  readonly frame: number;
  readonly proposals: { corners: Quad; device: string; kind: string; score: number }[];
}

describe('yarlop propose', () => {
  it.each([
    [[], 0, 'dark'],
    [['--frame', String(NEWEST)], NEWEST, 'lit'],
  ])('%j names the glass first, as it is on that frame', async (more, frame, kind) => {
    const r = await quay.yarlop(['propose', quay.at('still.mp4'), '--json', ...more]);
    expect(r.code).toBe(0);
    const told = JSON.parse(r.out) as Told;
    expect(told.frame).toBe(frame);
    expect(farthest(told.proposals[0]!.corners, GLASS)).toBeLessThan(1);
    expect(told.proposals[0]).toMatchObject({ kind, device: 'laptop' });
  });

  it('prints a line for each, and refuses frames that there are not and plates that cannot be read', async () => {
    const text = await quay.yarlop(['propose', quay.at('still.mp4')]);
    expect(text.out).toMatch(/^frame 0:.*\n {2}1 {2}dark laptop {2}0\.\d\d {2}1\d\d\.\d,\d\d\.\d/);
    const beyond = await quay.yarlop(['propose', quay.at('still.mp4'), '--frame', '4']);
    expect(beyond).toMatchObject({ code: 2, err: expect.stringContaining('frames 0 to 3') as string });
    expect((await quay.yarlop(['propose', quay.at('none.mp4')])).code).toBe(2);
  });
});
