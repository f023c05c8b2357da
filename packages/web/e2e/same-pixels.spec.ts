/** What is seen in Dress is what is delivered. */
import sharp from 'sharp';
import type { Page } from '@playwright/test';
import { filled } from './filled';
import type { World } from './fixture';
import { expect, painted, settled, test } from './fixture';

/** Four points about a place, clockwise from the left. */
const about = (x: number, y: number, r: number): [number, number][] => [
  [x - r, y],
  [x, y - r],
  [x + r, y],
  [x, y + r],
];

/** Holds the view of a frame against its delivery, pixel by pixel. @param part of the Screen's recipe, in the place of its own */
async function expectSame(
  page: Page,
  world: World,
  { shot, screen }: { shot: number; screen: number },
  part: object,
): Promise<void> {
  const { server } = world;
  const now = (await server.request<{ revision: number; recipe: object }>('GET', `/screens/${screen}`)).body;
  await server.request('PUT', `/screens/${screen}`, { revision: now.revision, recipe: { ...now.recipe, ...part } });
  await server.request('PUT', `/shots/${shot}`, { revision: 1, workingRange: [12, 12] });
  const d = await server.request<{ id: number }>('POST', `/shots/${shot}/deliveries`, { as: 'png' });
  await server.until(async () =>
    (await server.request<{ id: number; state: string }[]>('GET', `/shots/${shot}/deliveries`)).body.find(
      (x) => x.id === d.body.id && x.state === 'done',
    ),
  );
  const zip = Buffer.from(await (await fetch(`${server.url}/api/deliveries/${d.body.id}/file`)).arrayBuffer());
  const file = await sharp(zip.subarray(zip.indexOf(Buffer.from('89504e470d0a1a0a', 'hex'))))
    .raw()
    .toBuffer();
  await page.goto(`${server.url}/shots/${shot}/dress`);
  await settled(page, 0);
  for (let i = 0; i < 12; i++) await page.keyboard.press('ArrowRight');
  await settled(page, 12);
  // At 400 % a pixel of the plate is four by four of the canvas, unsmoothed: its middle is its own.
  await page.keyboard.press('c');
  await page.locator('[data-test="picture"][data-zoom="4"][data-lossless="true"]').waitFor();
  await painted(page);
  const [left, top] = await Promise.all(
    ['data-left', 'data-top'].map(async (a) => Number(await page.getByTestId('picture').getAttribute(a))),
  );
  const differences: number[] = [];
  const view = await page
    .locator('[data-test="picture"] > canvas')
    .evaluate((c: HTMLCanvasElement) => [
      c.width,
      c.height,
      ...c.getContext('2d')!.getImageData(0, 0, c.width, c.height).data,
    ]);
  const [width, height] = view as [number, number];
  for (let y = 100; y < 290; y++)
    for (let x = 150; x < 460; x++) {
      const vx = Math.floor(left! + (x + 0.5) * 4);
      const vy = Math.floor(top! + (y + 0.5) * 4);
      if (vx >= 0 && vy >= 0 && vx < width && vy < height)
        for (let c = 0; c < 3; c++)
          differences.push(Math.abs(view[2 + (vy * width + vx) * 4 + c]! - file[(y * 640 + x) * 3 + c]!));
    }
  expect(differences.length).toBeGreaterThan(60_000);
  differences.sort((a, b) => a - b);
  expect(differences.reduce((s, v) => s + v, 0) / differences.length).toBeLessThan(1);
  expect(differences[Math.floor(0.999 * differences.length)]).toBeLessThanOrEqual(3);
}

test('the view shows what is delivered, pixel by pixel, with a dress on', async ({ page, world }) => {
  const dress = {
    levels: { black: [0.02, 0.02, 0.03], white: [0.7, 0.7, 0.7], temperature: 0.3 },
    softness: { more: 1.2 },
    motionBlur: { on: true, shutter: 180 },
    edge: { feather: 3, radius: 0.06 },
    grain: { amount: 1, measured: { levels: [0.5], sigma: [[0.012], [0.012], [0.012]], size: 0.4 } },
    holdouts: [
      {
        kind: 'outline',
        points: about(300, 190, 50),
        handles: about(0, 0, 12).map(([x, y]) => [-y, x, y, -x]),
        softness: 3,
      },
      { kind: 'outline', points: about(310, 190, 20), onPicture: true, givesBack: true, soft: [0, 9, 0, 9] },
      {
        kind: 'found',
        found: { columns: 8, rows: 6, ring: 1, from: 11, masks: ['', '43 3 7 3 7 3'], edge: 1, isEven: false },
      },
    ],
    retouches: [
      { kind: 'grade', points: about(200, 150, 40), levels: { saturation: 0.2, gain: 0.7, gamma: 1.2 }, softness: 6 },
      { kind: 'grade', points: about(400, 230, 30), levels: { gain: 1.4 }, blur: 2, after: true },
      { kind: 'paint-out', points: about(170, 240, 15), from: 'around', softness: 3 },
      { kind: 'paint-out', points: about(450, 150, 14), from: 'beside', offset: [0, -32], mirror: 'across' },
      { kind: 'paint-out', points: about(180, 190, 14), from: 'frame', frame: 20, softness: 2 },
    ],
  };
  await expectSame(page, world, await filled(world), { dress });
});

test('the view shows what is delivered, pixel by pixel, of content in layers', async ({ page, world }) => {
  const there = await filled(world);
  const key = { colour: [0.9, 0.78, 0.24], gone: 0.9, solid: 1.2, softness: 10, grow: 3 };
  const layers = [
    { kind: 'picture', media: there.fill, size: 0.8, x: 0.3, turn: 20, key },
    { kind: 'shape', shape: 'oval', width: 0.6, height: 0.5, line: 0.04, colour: [0.2, 0.9, 0.4], opacity: 0.7 },
    { kind: 'words', text: 'Ebb\nand flood', size: 0.18, turn: -8, y: [{ frame: 10, value: 0.2 }, { frame: 14, value: 0.6, ease: 'eased' }] }, // prettier-ignore
    { kind: 'piece', piece: 'call', size: 0.4, x: 0.6, y: 0.75, scaleY: 0.8, fields: { who: 'Odile Brack' } },
  ];
  const made = { ground: [0.1, 0.2, 0.5], proportions: 1.4, layers };
  await expectSame(page, world, there, { fill: { made } });
});
