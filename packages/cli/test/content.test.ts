/** Made-up content as the command line renders it. */
import { writeFile } from 'node:fs/promises';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { mapPoint, unitSquareToQuad } from '../../core/src/geometry/homography';
import type { Said } from './builders/quay';
import { PIN, Quay, recipe } from './builders/quay';

let quay: Quay;
const HASH = 'ab'.repeat(32);
/** A dark ground, a grey picture over its left half, and a box that comes in from the right by its keys. */
const made = {
  ground: [0, 0, 0.4],
  proportions: 1.5,
  layers: [
    { kind: 'picture', media: HASH, size: 1, x: 0.25 },
    {
      kind: 'shape',
      shape: 'box',
      width: 0.3,
      height: 0.4,
      y: 0.5,
      x: [
        { frame: 10, value: 0.75 },
        { frame: 20, value: 2 },
      ],
      colour: [1, 0.5, 0],
    },
  ],
};

const dress = (out: string, more: readonly string[]): Promise<Said> =>
  quay.yarlop([
    ...['dress', quay.at('plate.mp4'), '--track', quay.at('track.json'), '--screen', quay.at('made.json')],
    ...['--from', '10', '--to', '23', '--out', quay.at(out), ...more],
  ]);

/** Colour of a picture where a share of the pin lies on the reference frame. */
async function colourAt(name: string, u: number, v: number): Promise<number[]> {
  const [x, y] = mapPoint(unitSquareToQuad(PIN), [u, v]).map(Math.round) as [number, number];
  const { data } = await sharp(quay.at(name)).removeAlpha().extract({ left: x, top: y, width: 1, height: 1 }).raw().toBuffer({ resolveWithObject: true }); // prettier-ignore
  return [...data];
}
const near = (a: readonly number[], b: readonly number[]): number => Math.max(...a.map((v, i) => Math.abs(v - b[i]!)));

beforeAll(async () => {
  quay = await Quay.open();
  await writeFile(quay.at('made.json'), JSON.stringify({ ...recipe, fill: { made } }));
  await sharp({ create: { width: 90, height: 60, channels: 3, background: { r: 128, g: 128, b: 128 } } })
    .png()
    .toFile(quay.at('grey.png'));
  const followed = await quay.yarlop([
    ...['follow', quay.at('plate.mp4'), '--screen', quay.at('screen.json'), '--out', quay.at('track.json')],
  ]);
  expect(followed.code).toBe(0);
});
afterAll(() => quay.close());

describe('a plate that is cleaned with an empty slot', () => {
  it('is rendered without a fill, and refused where nothing is done to it either', async () => {
    const outline = [[20, 20], [60, 20], [60, 60], [20, 60]]; // prettier-ignore
    const dark = { kind: 'grade', points: outline, levels: { gain: 0 } };
    await writeFile(quay.at('clean.json'), JSON.stringify({ ...recipe, dress: { retouches: [dark] } }));
    const clean = (screen: string, out: string): Promise<Said> =>
      quay.yarlop([
        ...['dress', quay.at('plate.mp4'), '--track', quay.at('track.json'), '--screen', quay.at(screen)],
        ...['--from', '10', '--to', '11', '--out', quay.at(out)],
      ]);
    expect((await clean('clean.json', 'clean.%04d.png')).code).toBe(0);
    const { data } = await sharp(quay.at('clean.0010.png')).removeAlpha().extract({ left: 40, top: 40, width: 1, height: 1 }).raw().toBuffer({ resolveWithObject: true }); // prettier-ignore
    expect([...data]).toEqual([0, 0, 0]);
    expect((await clean('screen.json', 'none.%04d.png')).err).toContain('no fill was given');
  });
});

describe('content in layers', () => {
  it('asks for the files of its pictures by their hashes', async () => {
    const said = await dress('no.%04d.png', []);
    expect(said.code).not.toBe(0);
    expect(said.err).toContain(`--picture ${HASH}=FILE`);
    expect((await dress('no.%04d.png', ['--picture', 'grey.png'])).err).toContain('HASH=FILE');
  });

  it('lies on the Screen, each layer in its place and at its time', async () => {
    expect((await dress('made.%04d.png', ['--picture', `${HASH}=${quay.at('grey.png')}`])).code).toBe(0);
    const first = 'made.0010.png';
    expect(near(await colourAt(first, 0.2, 0.5), [128, 128, 128])).toBeLessThan(4);
    expect(near(await colourAt(first, 0.75, 0.5), [255, 128, 0])).toBeLessThan(4);
    expect(near(await colourAt(first, 0.85, 0.08), [0, 0, 102])).toBeLessThan(4);
    // By frame 20 the box has gone; the Screen moved by 25 px meanwhile.
    const [r] = await colourAt('made.0021.png', 0.85, 0.5);
    expect(r!).toBeLessThan(140);
  });
});
