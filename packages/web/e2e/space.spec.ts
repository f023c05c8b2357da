/** Deleting with a way back, what takes up the disk, and plates whose files are damaged. */
import { open, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { makeClip } from '../../media/test/builders/clips';
import { expect, settled, test } from './fixture';
import type { World } from './fixture';

/** A production of this file's own with one shot. */
async function another({ server }: World, name: string): Promise<{ production: number; shot: number; hash: string }> {
  const path = join(server.data, `${name}.mkv`);
  await makeClip({ frames: 6, code: () => name.length, args: ['-c:v', 'ffv1', path] });
  return server.shot(await readFile(path), `${name}.mkv`);
}
const dialog = (page: Page) => page.getByRole('dialog');

test('a shot that is deleted is named with what goes with it, and taken back at once or from the bin', async ({
  page,
  world,
}) => {
  const { production, shot } = await another(world, 'landing');
  await page.goto(`${world.server.url}/productions/${production}`);
  await page
    .getByTestId(`shot-${shot}`)
    .getByRole('button', { name: /^Delete/ })
    .click();
  await expect(page.getByTestId('goes-with')).toHaveText('Nothing else goes with it.');
  await dialog(page).getByRole('button', { name: 'Keep it' }).click();
  await expect(page.getByTestId(`shot-${shot}`)).toBeVisible();
  await page
    .getByTestId(`shot-${shot}`)
    .getByRole('button', { name: /^Delete/ })
    .click();
  await dialog(page).getByRole('button', { name: 'Put it in the bin' }).click();
  await expect(page.getByTestId(`shot-${shot}`)).toHaveCount(0);
  await page.getByTestId('take-back').click();
  await expect(page.getByTestId(`shot-${shot}`)).toBeVisible();
  await expect(page.getByTestId('undo-delete')).toHaveCount(0);
  await page
    .getByTestId(`shot-${shot}`)
    .getByRole('button', { name: /^Delete/ })
    .click();
  await dialog(page).getByRole('button', { name: 'Put it in the bin' }).click();
  await page.getByTestId('undo-delete').getByRole('link', { name: 'Space and bin' }).click();
  await page.getByTestId(`binned-shot-${shot}`).getByTestId('out').click();
  await expect(page.getByTestId(`binned-shot-${shot}`)).toHaveCount(0);
  await page.goto(`${world.server.url}/productions/${production}`);
  await expect(page.getByTestId(`shot-${shot}`)).toBeVisible();
});

test('a production goes with its shots; emptying the bin asks, frees, and leaves the plate until it goes too', async ({
  page,
  world,
}) => {
  const { production, hash } = await another(world, 'breakwater');
  await page.goto(world.server.url);
  const card = page.locator('article', { has: page.locator(`a[href="/productions/${production}"]`) });
  await card.getByRole('button', { name: /^Delete/ }).click();
  await expect(page.getByTestId('goes-with')).toHaveText('With it go 1 shot.');
  await dialog(page).getByRole('button', { name: 'Put it in the bin' }).click();
  await expect(card).toHaveCount(0);
  await page.getByTestId('space').click();
  await expect(page.getByTestId('free')).toContainText(/\d+\.\d [GM]B/);
  await page.getByTestId('empty-bin').click();
  // Closed otherwise than by its button, nothing happens.
  await expect(dialog(page)).toBeFocused();
  await page.keyboard.press('Escape');
  await expect(dialog(page)).toHaveCount(0);
  await expect(page.getByTestId('bin-empty')).toHaveCount(0);
  await page.getByTestId('empty-bin').click();
  await dialog(page).getByRole('button', { name: 'Empty the bin' }).click();
  await expect(page.getByTestId('bin-empty')).toBeVisible();
  await page.getByTestId('unused').getByRole('button', { name: 'Delete breakwater.mkv' }).click();
  await dialog(page).getByRole('button', { name: 'Put it in the bin' }).click();
  await expect(page.getByTestId(`binned-media-${hash}`)).toBeVisible();
  await page
    .getByTestId(`binned-media-${hash}`)
    .getByRole('button', { name: /for good$/ })
    .click();
  await dialog(page).getByRole('button', { name: 'Remove it for good' }).click();
  await expect(page.getByTestId('bin-empty')).toBeVisible();
  expect((await world.server.request('GET', `/media/${hash}`)).status).toBe(404);
});

test('frames that a decoder filled in are told, and hatched in the strip', async ({ page, world }) => {
  const path = join(world.folder, 'spoiled.mkv');
  await makeClip({ frames: 12, args: ['-c:v', 'ffv1', '-level', '3', '-slicecrc', '1', '-g', '1', path] });
  const file = await open(path, 'r+');
  const { size } = await file.stat();
  // In the middle of the seventh of twelve pictures that stand by themselves, all about as large.
  await file.write(Buffer.alloc(64, 0x5a), 0, 64, Math.round((6.5 / 12) * size));
  await file.close();
  const { shot } = await world.server.shot(await readFile(path), 'spoiled.mkv');
  await page.goto(`${world.server.url}/shots/${shot}/plate`);
  await settled(page, 0);
  await expect(page.getByTestId('plate-notes')).toContainText(/1 frame is damaged in the file \(6\)/);
  const strip = page.getByTestId('lane');
  const box = (await strip.boundingBox())!;
  const weakAt = (share: number): Promise<boolean> =>
    strip.locator('canvas').evaluate((c: HTMLCanvasElement, at) => {
      const x = Math.round(at * c.width);
      const { data } = c.getContext('2d')!.getImageData(x - 4, 2, 8, 6);
      return data.some((v, i) => i % 4 === 3 && v > 128);
    }, share);
  expect(box.width).toBeGreaterThan(100);
  expect(await weakAt(6.5 / 12)).toBe(true);
  expect(await weakAt(3.5 / 12)).toBe(false);
});
