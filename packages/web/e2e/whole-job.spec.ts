import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import sharp from 'sharp';
import { mapQuad } from '../../core/src/geometry/quad';
import type { TrackFile } from '../../core/src/formats/track-json';
import { PIN, truthAt } from '../../server/test/builders/plate';
import { expect, isSaved, onPicture, settled, test } from './fixture';

test('from a clip to a delivered corner pin, with mouse and keyboard', async ({ page, world }) => {
  await page.goto(world.server.url);
  await page.getByLabel('New production').fill('Evening tide');
  await page.getByRole('button', { name: 'Create' }).click();
  const chooser = page.waitForEvent('filechooser');
  await page.getByTestId('choose-files').click();
  await (await chooser).setFiles(join(world.folder, 'quay.mp4'));
  await page.getByRole('link', { name: 'quay', exact: true }).click();

  await expect(page.getByText('640 x 384')).toBeVisible();
  await settled(page, 0);
  await page.getByTestId('stage-follow').click();
  await expect(page.getByText('drop four corners on a screen first')).toBeVisible();
  for (let i = 0; i < 8; i++) await page.keyboard.press('ArrowRight');
  await settled(page, 8);
  await expect(page.getByTestId('frame')).toHaveText('8');

  await page.keyboard.press('n');
  for (const [x, y] of PIN) await page.mouse.click(...(await onPicture(page, x, y)));
  await expect(page.getByRole('button', { name: 'Screen 1' })).toBeVisible();
  await page.getByTestId('draw-follow').click();
  for (const [x, y] of [
    [215, 125],
    [425, 132],
    [420, 258],
    [205, 250],
  ])
    await page.mouse.click(...(await onPicture(page, x!, y!)));
  await page.keyboard.press('Enter');
  await expect(page.getByTestId('patch-row-0')).toContainText('1 Follow');
  await isSaved(page);

  await page.getByTestId('follow-both').click();
  await expect(page.getByTestId('summary')).toHaveText('24 of 24 followed', { timeout: 30_000 });
  await expect(page.getByTestId('stage-follow')).toHaveAttribute('title', /holds/);

  await page.getByTestId('stage-pin').click();
  await page.keyboard.press('Home');
  await settled(page, 0);
  const x = page.getByTestId('TL-x');
  const before = Number(await x.inputValue());
  await page.getByTestId('arm-TL').click();
  await page
    .getByTestId('picture')
    .focus()
    .catch(() => {});
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('Shift+ArrowRight');
  expect(Number(await x.inputValue()) - before).toBeGreaterThan(0.9);
  await page.keyboard.press('Control+z');
  expect(Number(await x.inputValue())).toBeCloseTo(before, 2);
  await page.keyboard.press('Control+Shift+z');
  expect(Number(await x.inputValue()) - before).toBeGreaterThan(0.9);
  await page.keyboard.press('Control+z');
  await page.keyboard.press('r');
  await expect(page.getByTestId('ruling').first()).toBeAttached();
  await page.keyboard.press('r');
  await expect(page.getByTestId('ruling')).toHaveCount(0);

  await page.getByTestId('stage-hand-over').click();
  await page.getByTestId('data-format').selectOption('json');
  await page.getByTestId('deliver-data').click();
  const download = page.waitForEvent('download');
  await page.getByRole('link', { name: /\.json/ }).click();
  const track = JSON.parse(await readFile((await (await download).path())!, 'utf8')) as TrackFile;
  expect(track.screens[0]!.frames).toHaveLength(24);
  const dropped = track.screens[0]!.frames[8]!.corners;
  for (const f of track.screens[0]!.frames)
    mapQuad(truthAt(f.frame), dropped).forEach((p, i) =>
      expect(Math.hypot(p[0] - f.corners[i]![0], p[1] - f.corners[i]![1])).toBeLessThan(0.2),
    );
});

test('the proof card rides on the screen and plays; the fill is seen as it is delivered', async ({ page, world }) => {
  const { server, ids } = world;
  await server.request('POST', `/screens/${ids.screen}/follow`, { from: 0, to: 23 });
  await page.goto(`${server.url}/shots/${ids.shot}/prove`);
  await expect(page.getByTestId('summary')).toHaveText('24 of 24 followed', { timeout: 30_000 });
  await settled(page, 0);
  const centre = await onPicture(page, 250, 160);
  const read = async (): Promise<string> => (await page.getByTestId('readout').textContent())!;
  // The card is laid over the plate: both are told.
  await expect(async () => {
    await page.mouse.move(centre[0] + 1, centre[1]);
    await page.mouse.move(...centre);
    expect(await read()).toContain('plate');
  }).toPass();
  const card = await read();
  await page.getByText('Show the plate alone').click();
  await expect(async () => {
    await page.mouse.move(centre[0] + 1, centre[1]);
    await page.mouse.move(...centre);
    expect(await read()).not.toBe(card);
  }).toPass();
  await page.getByText('Show the plate alone').click();
  await page.getByTestId('play').click();
  await page.waitForFunction(
    () => Number(document.querySelector('[data-test="picture"]')!.getAttribute('data-frame')) > 5,
  );
  await page.getByTestId('play').click();

  await page.getByTestId('stage-dress').click();
  const red = join(world.folder, 'red.png');
  await sharp({ create: { width: 80, height: 50, channels: 3, background: { r: 240, g: 30, b: 20 } } })
    .png()
    .toFile(red);
  const chooser = page.waitForEvent('filechooser');
  await page.getByTestId('bring-in').click();
  await (await chooser).setFiles(red);
  await expect(page.getByTestId('fill-red.png')).toHaveAttribute('aria-pressed', 'true', { timeout: 15_000 });
  await expect(page.locator('[data-test="fill-red.png"] img')).toBeVisible({ timeout: 15_000 });
  await page.keyboard.press('Home');
  await settled(page, 0);
  await expect(async () => {
    await page.mouse.move(...(await onPicture(page, 300, 190)));
    await page.mouse.move(...(await onPicture(page, 301, 190)));
    expect(await read()).toMatch(/R 240 G 30 B 20/);
  }).toPass();
});

test('following appears live, goes on frame by frame, and keeps what it solved', async ({ page, world }) => {
  const { server, ids } = world;
  const s = await server.request<{ id: number }>('POST', `/shots/${ids.shot}/screens`, {
    ...(await server.request<{ recipe: object }>('GET', `/screens/${ids.screen}`)).body.recipe,
    name: 'live',
    density: 'many',
  });
  await page.goto(`${server.url}/shots/${ids.shot}/follow`);
  await page.getByTestId(`chip-${s.body.id}`).click();
  await page.getByTestId('follow-one').click();
  await expect(page.getByTestId('summary')).toHaveText('2 of 24 followed', { timeout: 15_000 });
  await page.getByTestId('follow-one').click();
  await expect(page.getByTestId('summary')).toHaveText('3 of 24 followed', { timeout: 15_000 });
  await page.getByTestId('follow-forwards').click();
  await expect(page.getByTestId('summary')).toHaveText('16 of 24 followed', { timeout: 20_000 });
  await page.reload();
  await page.getByTestId(`chip-${s.body.id}`).click();
  await expect(page.getByTestId('summary')).toHaveText('16 of 24 followed');
  await server.request('DELETE', `/screens/${s.body.id}`);
});
