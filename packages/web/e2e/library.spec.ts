/** The library of a production, a shot's report, the first page, and names changed where they stand. */
import { readFile, mkdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import sharp from 'sharp';
import { plateBytes, recipe } from '../../server/test/builders/plate';
import { filled } from './filled';
import { expect, settled, test } from './fixture';

async function png(r: number, g: number, b: number): Promise<Buffer> {
  return sharp({ create: { width: 90, height: 60, channels: 3, background: { r, g, b } } })
    .png()
    .toBuffer();
}

test('files are brought in from a folder, found, tagged, renamed, replaced everywhere, deleted and taken back', async ({
  page,
  world,
}) => {
  const { server } = world;
  const { shot, screen, fill } = await filled(world);
  const { productionId } = (await server.request<{ productionId: number }>('GET', `/shots/${shot}`)).body;
  const folder = join(world.folder, 'fills');
  await mkdir(join(folder, 'pages'), { recursive: true });
  await writeFile(join(folder, 'tide-table.png'), await png(20, 60, 90));
  for (const i of [1, 2, 3]) await writeFile(join(folder, 'pages', `page.000${i}.png`), await png(60 * i, 90, 20));

  await page.goto(`${server.url}/productions/${productionId}`);
  await page.getByTestId('library').click();
  await expect(page.getByTestId('library-bar')).toBeVisible();
  const [chooser] = await Promise.all([page.waitForEvent('filechooser'), page.getByTestId('choose-folder').click()]);
  await chooser.setFiles(folder);
  const table = page.getByTestId('file-tide-table.png');
  const pages = page.getByTestId('file-page.#.png');
  await expect(table).toBeVisible();
  await expect(pages).toContainText('3 frames');

  // Tagged together, found by the tag, called otherwise.
  await table.getByRole('checkbox').check();
  await pages.getByRole('checkbox').check();
  await page.getByTestId('tag-word').fill('harbour office');
  await page.getByTestId('give-tag').click();
  await expect(page.getByTestId('library-done')).toContainText('2 files tagged "harbour office"');
  for (const one of [table, pages]) await one.getByRole('checkbox').uncheck();
  await page.getByTestId('tag-harbour office').click();
  await expect(page.locator('article.file')).toHaveCount(2);
  await table.getByTestId('rename').click();
  await page.getByTestId('name-field').fill('tides of June');
  await page.keyboard.press('Enter');
  const renamed = page.getByTestId('file-tides of June');
  await expect(renamed).toBeVisible();
  await page.getByTestId('tag-harbour office').click();

  // The Screen's fill is replaced wherever it is shown, and that is taken back.
  const shown = async (): Promise<string | undefined> =>
    (await server.request<{ recipe: { fill?: { media?: string } } }>('GET', `/screens/${screen}`)).body.recipe.fill
      ?.media;
  await page.getByTestId('search-library').fill('dressed');
  await page.locator('article.file').getByRole('checkbox').check();
  await page.getByTestId('replace-by').selectOption({ label: 'tides of June' });
  await page.getByTestId('replace-go').click();
  await expect(page.getByTestId('library-done')).toContainText('stands in the place of');
  expect(await shown()).not.toBe(fill);
  await page.getByTestId('library-back').click();
  await expect.poll(shown).toBe(fill);

  // What is used is not deleted, and says so; what is not goes into the bin and comes back.
  await page.getByTestId('search-library').fill('');
  await page.getByTestId('library-kind').selectOption('unused');
  await pages.getByRole('checkbox').check();
  await page.getByTestId('delete-files').click();
  await expect(pages).toHaveCount(0);
  await page.getByTestId('library-back').click();
  await expect(pages).toBeVisible();
  await page.getByTestId('library-kind').selectOption('plate');
  await page.locator('article.file').first().getByRole('checkbox').check();
  await page.getByTestId('delete-files').click();
  await expect(page.getByText('is the plate of a shot')).toBeVisible();
});

test('what is dropped anywhere on a page is brought in', async ({ page, world }) => {
  const { server, ids } = world;
  await page.goto(`${server.url}/productions/${ids.production}/library`);
  await expect(page.getByTestId('library-bar')).toBeVisible();
  const bytes = [...(await png(200, 30, 60))];
  const transfer = await page.evaluateHandle((all) => {
    const t = new DataTransfer();
    t.items.add(new File([new Uint8Array(all)], 'flag.png', { type: 'image/png' }));
    return t;
  }, bytes);
  const heading = page.getByRole('heading', { name: 'Library' });
  await heading.dispatchEvent('dragenter', { dataTransfer: transfer });
  await expect(page.getByTestId('page-drop')).toBeVisible();
  await heading.dispatchEvent('drop', { dataTransfer: transfer });
  await expect(page.getByTestId('page-drop')).toHaveCount(0);
  await expect(page.getByTestId('file-flag.png')).toBeVisible();
});

test('a shot is called otherwise on its board, and its report stands on one sheet that can be printed', async ({
  page,
  world,
}) => {
  const { server } = world;
  const { shot, screen } = await filled(world);
  const { productionId } = (await server.request<{ productionId: number }>('GET', `/shots/${shot}`)).body;
  await page.goto(`${server.url}/productions/${productionId}`);
  const card = page.getByTestId(`shot-${shot}`);
  await card.getByTestId('rename').click();
  await page.getByTestId('name-field').fill('tp_040 quay');
  await page.keyboard.press('Enter');
  await expect(card).toContainText('tp_040 quay');
  await page.getByTestId(`report-of-${shot}`).click();
  const sheet = page.getByTestId('report');
  await expect(sheet.getByRole('heading', { name: 'tp_040 quay' })).toBeVisible();
  const own = page.getByTestId(`report-${screen}`);
  await expect(own).toContainText('Frames followed');
  await expect(own.getByTestId('report-verdict')).toBeVisible();
  for (const kind of ['path', 'speed', 'trust']) await expect(page.getByTestId(`chart-${kind}`)).toBeVisible();
  // Printed, the sheet alone is there, over its whole length.
  const pdf = join(world.folder, 'report.pdf');
  await page.pdf({ path: pdf, format: 'A4' });
  expect((await readFile(pdf)).subarray(0, 5).toString()).toBe('%PDF-');
  await page.emulateMedia({ media: 'print' });
  await expect(page.getByTestId('print')).toBeHidden();
  await expect(sheet).toBeVisible();
});

test('the first page shows what was worked on last and what wants a look, and leads there', async ({ page, world }) => {
  const { server } = world;
  const { shot } = await server.shot(await plateBytes(12));
  const own = { ...recipe, name: 'pier phone', evidence: ['texture'] };
  const screen = (await server.request<{ id: number }>('POST', `/shots/${shot}/screens`, own)).body.id;
  await server.request('POST', `/screens/${screen}/follow`, { from: 6, to: 10 });
  await server.ended('follow', 'done');
  await page.goto(server.url);
  const recent = page.getByTestId('home-recent').locator('a');
  await expect(recent.first()).toContainText('just now');
  const wish = page.getByTestId('home-wishes').locator('a').filter({ hasText: 'pier phone' });
  await expect(wish).toBeVisible();
  await wish.click();
  await expect(page).toHaveURL(new RegExp(`/shots/${shot}/prove`));
  await settled(page, 0);
  await expect(page.getByTestId(`chip-${screen}`)).toHaveAttribute('aria-pressed', 'true');
});
