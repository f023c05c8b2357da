import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import sharp from 'sharp';
import { writeHtml } from '../../core/src/formats/css';
import { normaliseHomography, quadToQuad } from '../../core/src/geometry/homography';
import { perspectiveCentre } from '../../core/src/geometry/quad';
import type { Quad } from '../../core/src/geometry/quad';
import type { Track } from '../../core/src/track';
import { ffmpeg } from '../../media/test/builders/clips';
import { plateBytes, recipe } from '../../server/test/builders/plate';
import type { World } from './fixture';
import { expect, painted, settled, test } from './fixture';

/** A shot of its own with a followed Screen. */
async function followed({ server }: World): Promise<number> {
  const { shot } = await server.shot(await plateBytes(24));
  const { body } = await server.request<{ id: number }>('POST', `/shots/${shot}/screens`, recipe);
  await server.request('POST', `/screens/${body.id}/follow`, { from: 0, to: 23 });
  await server.until(
    async () =>
      (await server.request<{ frames: unknown[] }>('GET', `/screens/${body.id}/track`)).body.frames.length === 24,
  );
  return shot;
}
async function delivered(page: Page, name: RegExp): Promise<Buffer> {
  const link = page.getByRole('link', { name }).first();
  await expect(link).toBeVisible({ timeout: 30_000 });
  const download = page.waitForEvent('download');
  await link.click();
  return readFile((await (await download).path())!);
}

test('track data goes out as chosen, with its convention, to a file and to the clipboard; a delivery is made again', async ({
  page,
  context,
  world,
}) => {
  const shot = await followed(world);
  await context.grantPermissions(['clipboard-read', 'clipboard-write']);
  await page.goto(`${world.server.url}/shots/${shot}/hand-over`);
  await settled(page, 0);
  await page.getByTestId('data-format').selectOption('homography-json');
  await page.getByTestId('invert').check();
  await page.getByTestId('copy-data').click();
  await expect(page.getByTestId('copy-data')).toHaveText('Copied');
  expect(JSON.parse(await page.evaluate(() => navigator.clipboard.readText()))).toMatchObject({
    format: 'yarlop-homographies',
    maps: 'frame to reference',
  });
  await page.getByTestId('deliver-data').click();
  expect(JSON.parse((await delivered(page, /homography\.json/)).toString())).toMatchObject({
    maps: 'frame to reference',
  });
  await page.getByTestId('again').first().click();
  await expect(page.getByTestId('deliveries').locator('li')).toHaveCount(2);
  await page.reload();
  await expect(page.getByTestId('deliveries').locator('li')).toHaveCount(2);
});

test('a house’s own table is looked at while its template is written, and a wrong word is told', async ({
  page,
  world,
}) => {
  const shot = await followed(world);
  await page.goto(`${world.server.url}/shots/${shot}/hand-over`);
  await settled(page, 0);
  await page.getByText('Write its template').click();
  await page.getByTestId('template').fill('{{each frame}}\n{{label}} {{tl.x:1}}\n{{end}}');
  await expect(page.getByTestId('table-look')).toContainText(/^0 \d+\.\d\n1 \d+\.\d/);
  await page.getByTestId('template').fill('{{each frame}}\n{{lable}}\n{{end}}');
  await expect(page.getByTestId('table-problem')).toContainText('lable');
  await page.getByTestId('template').fill('{{each frame}}{{frame}},{{end}}');
  await page.getByTestId('deliver-table').click();
  expect((await delivered(page, /\.txt/)).toString()).toBe(`${Array.from({ length: 24 }, (_, i) => i).join(',')},`);
});

test('a table of another program is looked at on the plate and becomes a Screen; one that is wrong says where', async ({
  page,
  world,
}) => {
  const shot = await followed(world);
  const { server, folder } = world;
  const foreign = join(folder, 'other.csv');
  const broken = join(folder, 'broken.csv');
  const rows = Array.from({ length: 10 }, (_, n) =>
    [1001 + n, 200 + n, 110, 440 + n, 118, 432 + n, 270, 192 + n, 262].join(';').replaceAll('.', ','),
  );
  await writeFile(
    foreign,
    `\uFEFFframe;tl x;tl y;tr x;tr y;br x;br y;bl x;bl y\r\n${rows.filter((_, i) => i !== 4).join('\r\n')}\r\n`,
  );
  await writeFile(broken, `frame;tl x;tl y;tr x;tr y;br x;br y;bl x;bl y\n${rows[0]}\n${rows[0]}\n`);
  await page.goto(`${server.url}/shots/${shot}/hand-over`);
  await settled(page, 0);
  await page.getByTestId('import-file').setInputFiles(broken);
  await expect(page.getByTestId('import-problem')).toContainText('frame 1001 stands here and on line 2');
  await page.getByTestId('import-file').setInputFiles(foreign);
  await expect(page.getByTestId('import-problem')).toContainText('lie outside the plate');
  await page.locator('input.first').fill('1001');
  await page.locator('input.first').blur();
  await expect(page.getByTestId('import-notes')).toContainText('1 frame is missing');
  await expect(page.getByTestId('ghost')).toHaveCount(1);
  await page.getByTestId('import-take').click();
  await expect
    .poll(
      async () =>
        (
          await server.request<{ screens: { id: number; recipe: { name: string; hand?: unknown[] } }[] }>(
            'GET',
            `/shots/${shot}`,
          )
        ).body.screens.find((s) => s.recipe.name === 'other')?.recipe.hand?.length,
    )
    .toBe(9);
});

test('the web page shows each frame of the track in Chromium: its marks lie within a quarter px', async ({
  page,
  world,
}) => {
  const pin: Quad = [
    [60.3, 50.6],
    [300.8, 70.2],
    [290.4, 230.7],
    [48.9, 210.1],
  ];
  const at = (n: number): Quad => pin.map(([x, y], i) => [x + 4.37 * n, y + 2.11 * n - i]) as unknown as Quad;
  const track: Track = {
    plate: { name: 'page', width: 480, height: 320, frameRate: [24, 1], firstFrame: 0, frameCount: 12 },
    screens: [
      {
        name: 'marked',
        referenceFrame: 0,
        stopped: null,
        frames: Array.from({ length: 12 }, (_, frame) => ({
          frame,
          corners: at(frame),
          homography: normaliseHomography(quadToQuad(at(0), at(frame)), perspectiveCentre(at(0))),
          sigma: [1, 1, 1, 1],
          trust: 1,
          evidence: { hand: 1 },
        })),
      },
    ],
  };
  // White with a black border to its very edge: where the picture turns from grey to black is the pin's side.
  const fill = await sharp({ create: { width: 300, height: 200, channels: 3, background: { r: 0, g: 0, b: 0 } } })
    .png()
    .toBuffer();
  const file = join(world.folder, 'page.html');
  await writeFile(
    file,
    writeHtml(track, () => ({ width: 300, height: 200 }), {
      plate: null,
      fills: new Map([['marked', { url: `data:image/png;base64,${fill.toString('base64')}`, kind: 'picture' }]]),
    }).replace('repeating-linear-gradient(45deg, #4b5a57 0 24px, #3b4846 24px 48px)', '#ffffff'),
  );
  await page.setViewportSize({ width: 520, height: 400 });
  await page.goto(`file://${file}`);
  for (const n of [0, 5, 11]) {
    await page.evaluate((k) => (window as unknown as { showFrame: (n: number) => Promise<unknown> }).showFrame(k), n);
    await painted(page);
    const { data, info } = await sharp(await page.screenshot())
      .removeAlpha()
      .raw()
      .toBuffer({ resolveWithObject: true });
    const light = (x: number, y: number): number => data[(y * info.width + x) * info.channels]! / 255;
    const q = at(n);
    // Each side is crossed at a third and two thirds of its length: the white left along a line across it, by area, is
    // its distance.
    for (let i = 0; i < 4; i++) {
      const a = q[i]!;
      const b = q[(i + 1) % 4]!;
      for (const k of [0.33, 0.66]) {
        const x = a[0] + k * (b[0] - a[0]);
        const y = a[1] + k * (b[1] - a[1]);
        const level = Math.abs(b[0] - a[0]) > Math.abs(b[1] - a[1]);
        const down = i === 0 ? 1 : -1;
        const left = i === 1 ? -1 : 1;
        const inwards = level ? down : left;
        const lane = level ? Math.floor(x) : Math.floor(y);
        let white = 0;
        const start = Math.floor((level ? y : x) - inwards * 6);
        for (let s = 0; s < 12; s++)
          white += level ? light(lane, start + inwards * s) : light(start + inwards * s, lane);
        const found = inwards > 0 ? start + white : start + 1 - white;
        const expected = level
          ? a[1] + ((lane + 0.5 - a[0]) / (b[0] - a[0])) * (b[1] - a[1])
          : a[0] + ((lane + 0.5 - a[1]) / (b[1] - a[1])) * (b[0] - a[0]);
        expect(Math.abs(found - expected), `frame ${n}, side ${i}`).toBeLessThan(0.25);
      }
    }
  }
});

/** Drags a waiting delivery two rows up. */
async function grasped(page: Page, id: number): Promise<void> {
  const row = page.getByTestId('queue').locator('li', { has: page.getByTestId(`queued-${id}`) });
  const grip = (await page.getByTestId(`queued-${id}`).boundingBox())!;
  const height = (await row.boundingBox())!.height;
  await page.mouse.move(grip.x + 5, grip.y + 8);
  await page.mouse.down();
  await page.mouse.move(grip.x + 5, grip.y - 4, { steps: 4 });
  await page.mouse.move(grip.x + 5, grip.y + 8 - 2 * height, { steps: 10 });
  await page.mouse.up();
}

test('waiting deliveries are put in order by keyboard and by dragging', async ({ page, world }) => {
  const shot = await followed(world);
  const { server } = world;
  const queue = async (): Promise<number[]> =>
    (await server.request<{ id: number }[]>('GET', '/jobs/queue')).body.map((q) => q.id);
  await page.goto(`${server.url}/shots/${shot}/hand-over`);
  await settled(page, 0);
  // VP9 is slow: a dozen of them keep the queue full for long enough.
  for (let i = 0; i < 12; i++)
    await server.request('POST', `/shots/${shot}/deliveries`, { as: 'webm', show: 'stabilised', name: `queue ${i}` });
  const before = await queue();
  const last = before.at(-1)!;
  const second = before.at(-2)!;
  expect(before.length).toBeGreaterThan(5);
  await page.getByTestId(`queued-${last}`).focus();
  await page.keyboard.press('ArrowUp');
  await expect.poll(async () => (await queue()).slice(-2)).toEqual([last, second]);
  // A delivery that ends between the measuring and the grasp moves the rows: then it is grasped once more.
  await expect(async () => {
    await grasped(page, second);
    const now = await queue();
    expect(now).toContain(second);
    expect(now.indexOf(second)).toBeLessThan(now.indexOf(last));
  }).toPass();
  for (const d of (await server.request<{ jobId: number; state: string }[]>('GET', `/shots/${shot}/deliveries`)).body)
    await server.request('POST', `/jobs/${d.jobId}/cancel`);
});

test('a regraded, smaller version that begins later takes the plate’s place after it was looked at', async ({
  page,
  world,
}) => {
  const shot = await followed(world);
  const folder = world.folder;
  const plate = join(folder, 'plate.mp4');
  const graded = join(folder, 'graded.mp4');
  await writeFile(plate, await plateBytes(24));
  await ffmpeg([
    '-i',
    plate,
    '-vf',
    'trim=start_frame=4,setpts=PTS-STARTPTS,scale=320:192,eq=contrast=0.8:gamma=1.3',
    '-c:v',
    'libx264',
    '-crf',
    '12',
    '-pix_fmt',
    'yuv420p',
    graded,
  ]);
  await page.goto(`${world.server.url}/shots/${shot}/plate`);
  await settled(page, 0);
  await page.getByText('Regraded, rescaled, longer').click();
  const chooser = page.waitForEvent('filechooser');
  await page.getByTestId('relink').getByTestId('choose-files').click();
  await (await chooser).setFiles(graded);
  await expect(page.getByTestId('relink-found')).toContainText('It begins 4 frames later, 50 % of the size', {
    timeout: 30_000,
  });
  await expect(page.getByTestId('relink-found')).toContainText('20 frames of the working range');
  await page.getByTestId('relink-take').click();
  await expect(page.getByTestId('range')).toContainText('0 to 19', { timeout: 20_000 });
  const { body } = await world.server.request<{ screens: { recipe: { referenceFrame: number } }[] }>(
    'GET',
    `/shots/${shot}`,
  );
  expect(body.screens[0]!.recipe.referenceFrame).toBe(4);
});

test('a loop is looked for, told of, and delivered', async ({ page, world }) => {
  const shot = await followed(world);
  await page.goto(`${world.server.url}/shots/${shot}/hand-over`);
  await settled(page, 0);
  await page.getByTestId('picture-show').selectOption('clean');
  await page.getByText('As a loop').click();
  await page.getByTestId('loop-dissolve').fill('3');
  await page.getByTestId('loop-find').click();
  await expect(page.getByTestId('loop-found')).toContainText(
    /Frames \d+ to \d+: along the seam the plate differs by [\d.]+ of 255 levels and the Screen by [\d.]+ px/,
  );
  await page.getByTestId('deliver-picture').click();
  await delivered(page, /clean-loop/);
});
