/** What hands find in the way: the keys after a click, things cut off at the side, several files at once. */
import { mkdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { chromium } from '@playwright/test';
import type { Page } from '@playwright/test';
import sharp from 'sharp';
import { STAGES } from '../src/stages';
import { recipe } from '../../server/test/builders/plate';
import { expect, isSaved, onPicture, painted, settled, test } from './fixture';

const frame = (page: Page) => page.getByTestId('frame');
async function picture(path: string, r: number, g: number, b: number): Promise<string> {
  await sharp({ create: { width: 80, height: 50, channels: 3, background: { r, g, b } } }).toFile(path);
  return path;
}
async function bringIn(page: Page, files: readonly string[]): Promise<void> {
  const chooser = page.waitForEvent('filechooser');
  await page.getByTestId('bring-in').click();
  await (await chooser).setFiles([...files]);
}

/** The files after this one find the shot as it was. */
test.afterAll(async ({ world: { server, ids } }) => {
  const { body } = await server.request<{ revision: number }>('GET', `/screens/${ids.screen}`);
  await server.request('PUT', `/screens/${ids.screen}`, { revision: body.revision, recipe });
  const made = await server.request<{ id: number }[]>('GET', `/shots/${ids.shot}/deliveries`);
  for (const { id } of made.body) await server.request('DELETE', `/deliveries/${id}`);
});

test('after a control was used with the pointer Space plays and arrows step; keyboard users keep their place', async ({
  page,
  world,
}) => {
  await page.goto(`${world.server.url}/shots/${world.ids.shot}/plate`);
  await settled(page, 0);
  await page.getByTestId('edges').click();
  await expect(page.getByTestId('picture')).toBeFocused();
  await page.keyboard.press('Space');
  await expect(page.getByTestId('play')).toHaveAttribute('aria-label', 'Pause');
  await page.keyboard.press('Space');
  await expect(page.getByTestId('play')).toHaveAttribute('aria-label', 'Play');
  await page.keyboard.press('Home');
  // A slider that was dragged lets the arrows go; one that was reached by Tab keeps them.
  const slider = page.getByTestId('brighten');
  const box = (await slider.boundingBox())!;
  await page.mouse.move(box.x + box.width / 4, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2, { steps: 3 });
  await page.mouse.up();
  await expect(page.getByTestId('picture')).toBeFocused();
  const dragged = await slider.inputValue();
  await page.keyboard.press('ArrowRight');
  await expect(frame(page)).toHaveText('1');
  expect(await slider.inputValue()).toBe(dragged);
  await slider.focus();
  await page.keyboard.press('ArrowRight');
  expect(await slider.inputValue()).not.toBe(dragged);
  await expect(slider).toBeFocused();
  await expect(frame(page)).toHaveText('1');
  await page.getByTestId('edges').focus();
  await page.keyboard.press('Space');
  await expect(page.getByTestId('edges')).toBeFocused();
});

test('nothing of the bench lies beyond its side where scrollbars take 15 px, and nothing scrolls sideways', async ({
  world,
  launchOptions,
}) => {
  const browser = await chromium.launch({ ...launchOptions, ignoreDefaultArgs: ['--hide-scrollbars'] });
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 680 } });
    for (const stage of STAGES) {
      await page.goto(`${world.server.url}/shots/${world.ids.shot}/${stage}`);
      await settled(page, 0);
      for (const opened of [false, true]) {
        const found = await page.evaluate((open) => {
          const bench = document.querySelector<HTMLElement>('.bench')!;
          for (const d of bench.querySelectorAll('details')) d.open = open;
          const side = bench.getBoundingClientRect().left + bench.clientWidth + 0.5;
          const beyond = [...bench.querySelectorAll('*')]
            .filter((e) => e.getBoundingClientRect().right > side)
            .map((e) => `${e.tagName} ${e.textContent.slice(0, 40)}`);
          const sideways = [...document.querySelectorAll('*')]
            .filter((e) => e.scrollWidth > e.clientWidth + 1)
            .filter((e) => ['auto', 'scroll'].includes(getComputedStyle(e).overflowX))
            .map((e) => `${e.tagName} ${e.className}`);
          return { bar: bench.offsetWidth - bench.clientWidth, beyond, sideways };
        }, opened);
        expect({ stage, opened, ...found }).toEqual({ stage, opened, bar: 15, beyond: [], sideways: [] });
      }
    }
  } finally {
    await browser.close();
  }
});

test('several pictures at once are several fills, and numbered ones one clip', async ({ page, world }) => {
  const folder = join(world.folder, 'fills');
  await mkdir(folder, { recursive: true });
  await page.goto(`${world.server.url}/shots/${world.ids.shot}/dress`);
  await settled(page, 0);
  await bringIn(page, [
    await picture(join(folder, 'amber.png'), 240, 160, 20),
    await picture(join(folder, 'teal.png'), 20, 160, 150),
  ]);
  for (const name of ['amber.png', 'teal.png'])
    await expect(page.locator(`[data-test="fill-${name}"] img`)).toBeVisible({ timeout: 20_000 });
  await expect(page.getByTestId('fill-teal.png')).toHaveAttribute('aria-pressed', 'true');
  const numbered = await Promise.all(
    [1, 2, 3].map((n) => picture(join(folder, `tide.000${n}.jpg`), 40 * n, 60, 200 - 40 * n)),
  );
  await bringIn(page, numbered);
  const clip = page.getByTestId('fill-tide.#.jpg');
  await expect(clip).toContainText('3 fr', { timeout: 20_000 });
  await expect(clip.locator('img')).toBeVisible({ timeout: 20_000 });
  await expect(page.getByTestId('upload-problem')).toHaveCount(0);
  const { body } = await world.server.request<{ name: string; hash: string }[]>('GET', '/media');
  const hash = body.find((m) => m.name === 'tide.#.jpg')!.hash;
  const last = await fetch(`${world.server.url}/api/media/${hash}/frames/2.png`);
  expect(last.status).toBe(200);
  const { dominant } = await sharp(Buffer.from(await last.arrayBuffer())).stats();
  expect(Math.abs(dominant.r - 120)).toBeLessThan(20);
});

test('a file of several that cannot be used is named, and the others come in', async ({ page, world }) => {
  const folder = join(world.folder, 'mixed');
  await mkdir(folder, { recursive: true });
  await page.goto(`${world.server.url}/shots/${world.ids.shot}/dress`);
  await settled(page, 0);
  await writeFile(join(folder, 'a-letter.png'), 'no picture');
  await bringIn(page, [join(folder, 'a-letter.png'), await picture(join(folder, 'plum.png'), 120, 40, 110)]);
  await expect(page.locator('[data-test="fill-plum.png"] img')).toBeVisible({ timeout: 20_000 });
  await expect(page.getByTestId('upload-problem')).toContainText('a-letter.png');
});

test('what is to be clicked is said by each sampler, and spill is taken off without a key', async ({ page, world }) => {
  const { server, ids } = world;
  await page.goto(`${server.url}/shots/${ids.shot}/dress`);
  await settled(page, 0);
  await bringIn(page, [await picture(join(world.folder, 'slate.png'), 60, 70, 80)]);
  await page.getByTestId('sample-black').click();
  await expect(page.getByText('Click a place of the plate that is black.')).toBeVisible();
  await page.keyboard.press('Escape');
  await page.getByTestId('holdout-key').click();
  await expect(page.getByText("Click the screen's colour.")).toBeVisible();
  await page.keyboard.press('Escape');
  await page.getByTestId('spill-on').click();
  await expect(page.getByText("Click the old screen's light, or the screen itself.")).toBeVisible();
  await painted(page);
  await page.mouse.click(...(await onPicture(page, 300, 190)));
  await expect(page.getByText('reaches')).toBeVisible();
  await isSaved(page);
  const { body } = await server.request<{ recipe: { dress: { spill: { colour: number[] } } } }>(
    'GET',
    `/screens/${ids.screen}`,
  );
  expect(body.recipe.dress.spill.colour).toHaveLength(3);
});

test('one frame is delivered as a picture of its own, and the working range stays', async ({ page, world }) => {
  const { server, ids } = world;
  await server.request('POST', `/screens/${ids.screen}/follow`, { from: 0, to: 23 });
  await page.goto(`${server.url}/shots/${ids.shot}/dress`);
  await settled(page, 0);
  await expect(page.getByTestId('summary')).toHaveText('24 of 24 followed', { timeout: 30_000 });
  await bringIn(page, [await picture(join(world.folder, 'rust.png'), 180, 80, 40)]);
  await expect(page.locator('[data-test="fill-rust.png"] img')).toBeVisible({ timeout: 20_000 });
  await page.getByTestId('stage-hand-over').click();
  await page.getByTestId('picture-format').selectOption('png');
  for (let n = 0; n < 5; n++) await page.keyboard.press('ArrowRight');
  await page.getByTestId('deliver-still').click();
  const made = await server.until(async () =>
    (
      await server.request<{ id: number; fileName: string; sha256: string | null }[]>(
        'GET',
        `/shots/${ids.shot}/deliveries`,
      )
    ).body.find((d) => d.sha256),
  );
  expect(made.fileName).toMatch(/\.png$/);
  const bytes = Buffer.from(await (await fetch(`${server.url}/api/deliveries/${made.id}/file`)).arrayBuffer());
  expect(await sharp(bytes).metadata()).toMatchObject({ format: 'png', width: 640, height: 384 });
  await expect(page.getByTestId('deliver-picture')).toHaveText('Deliver 24 frames');
});
