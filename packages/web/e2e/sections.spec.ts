/** Changes that hold from a frame on: what is followed again by them, and sections in the bench and in their lane. */
import type { Page } from '@playwright/test';
import { expect, isSaved, onPicture, test } from './fixture';
import type { World } from './fixture';
import { drag, drawIgnored, followAll, goTo, isFollowed, open, saved } from './steering';

interface Row {
  frame: number;
  homography: number[];
  trust: number;
}
const rowsOf = async ({ server }: World, id: number): Promise<Row[]> =>
  (await server.request<{ frames: Row[] }>('GET', `/screens/${id}/track`)).body.frames;
const numbers = (rows: readonly Row[], below: number): unknown =>
  rows.filter((f) => f.frame < below).map(({ frame, homography, trust }) => [frame, homography, trust]);
const summary = (page: Page) => page.getByTestId('summary');

test('at a bad frame a patch is drawn and the run goes on from there; frames before keep their numbers', async ({
  page,
  world,
}) => {
  const id = await open(page, world, 'mended on');
  await followAll(page);
  await goTo(page, 16);
  await drawIgnored(page);
  await isSaved(page);
  expect((await saved(world, id)).sections).toMatchObject([{ from: 16, to: 23, patches: [{ kind: 'ignore' }] }]);
  await expect(summary(page)).toHaveText('24 of 24 followed, 8 outdated');
  await expect(page.getByTestId('outdated')).toContainText('on the frames 16 to 23');
  await page.keyboard.press('f');
  await isFollowed(page);
  const first = await rowsOf(world, id);
  // The patch is moved by its line, gets a point more, loses one: the frames before it stay as they are.
  await goTo(page, 16);
  const [x, y] = await onPicture(page, 270, 150);
  await drag(page, [x, y], 14, 9);
  await isSaved(page);
  expect((await saved(world, id)).sections![0]!.patches![0]!.keys).toMatchObject([{ frame: 16 }]);
  await page.mouse.dblclick(x + 14, y + 9);
  await isSaved(page);
  expect((await saved(world, id)).sections![0]!.patches![0]!.keys![0]!.points).toHaveLength(5);
  const knob = (await page.locator('[data-test="picture"] rect.knob').nth(1).boundingBox())!;
  await page.keyboard.down('Alt');
  await page.mouse.click(knob.x + 4, knob.y + 4);
  await page.keyboard.up('Alt');
  await isSaved(page);
  expect((await saved(world, id)).sections![0]!.patches![0]!.points).toHaveLength(4);
  await expect(summary(page)).toHaveText('24 of 24 followed, 8 outdated');
  await page.keyboard.press('f');
  await isFollowed(page);
  expect(numbers(await rowsOf(world, id), 16)).toEqual(numbers(first, 16));
  await world.server.request('DELETE', `/screens/${id}`);
});

test('sections are trimmed, moved, joined and removed, by pointer and by keyboard, and nothing followed is lost', async ({
  page,
  world,
}) => {
  const id = await open(page, world, 'cut up');
  await followAll(page);
  await page.getByText('How it is followed').click();
  await goTo(page, 14);
  await page.getByTestId('motion').selectOption('affine');
  await goTo(page, 20);
  await page.getByTestId('motion').selectOption('similarity');
  await isSaved(page);
  expect((await saved(world, id)).sections).toEqual([
    { from: 14, to: 19, motion: 'affine' },
    { from: 20, to: 23, motion: 'similarity' },
  ]);
  await expect(page.getByTestId('motion')).toHaveValue('similarity');
  await goTo(page, 15);
  await expect(page.getByTestId('motion')).toHaveValue('affine');
  await goTo(page, 10);
  await expect(page.getByTestId('motion')).toHaveValue('perspective');
  await page.getByTestId('section-from-0').fill('17');
  await page.getByTestId('section-from-0').press('Enter');
  await expect(summary(page)).toHaveText('24 of 24 followed, 7 outdated');
  await page.getByTestId('lanes-open').click();
  const end = (await page.getByTestId('section-block-0').getByTestId('section-end-from').boundingBox())!;
  const lane = (await page.getByTestId('section-lane').boundingBox())!;
  await drag(page, [end.x + 2, end.y + 5], (2 * lane.width) / 24, 0);
  await isSaved(page);
  expect((await saved(world, id)).sections![0]).toEqual({ from: 19, to: 19, motion: 'affine' });
  await page.getByTestId('section-block-0').press('j');
  await isSaved(page);
  expect((await saved(world, id)).sections).toEqual([{ from: 19, to: 23, motion: 'affine' }]);
  await page.getByTestId('section-remove-0').click();
  await expect(summary(page)).toHaveText('24 of 24 followed');
  await isSaved(page);
  expect((await saved(world, id)).sections).toBeUndefined();
  // A change of the whole shot, as it is chosen.
  await page.getByTestId('reach').selectOption('shot');
  await page.getByTestId('motion').selectOption('affine');
  await expect(summary(page)).toHaveText('24 of 24 followed, 24 outdated');
  await page.getByTestId('undo').click();
  await expect(summary(page)).toHaveText('24 of 24 followed');
  await world.server.request('DELETE', `/screens/${id}`);
});

test('a coarse run is followed again on the steadied plate by one key, and taken back by another', async ({
  page,
  world,
}) => {
  const id = await open(page, world, 'in two runs');
  await page.getByText('How it is followed').click();
  await page.getByTestId('motion').selectOption('translation');
  await page.getByTestId('follow-both').click();
  await expect(summary(page)).toContainText('24 of 24 followed', { timeout: 40_000 });
  const coarse = await rowsOf(world, id);
  await page.keyboard.press('Shift+G');
  await expect(page.getByTestId('section-0')).toContainText('on the steadied plate, perspective');
  const isFiner = async (): Promise<boolean> =>
    (await rowsOf(world, id)).every((f, i) => f.frame === 8 || f.homography[6] !== coarse[i]!.homography[6]);
  await expect.poll(isFiner, { timeout: 60_000 }).toBe(true);
  await expect(page.getByTestId('follow-stop')).toHaveCount(0, { timeout: 40_000 });
  await expect(summary(page)).toHaveText('24 of 24 followed');
  await page.keyboard.press('Control+z');
  await expect(page.getByTestId('section-0')).toHaveCount(0);
  await isSaved(page);
  expect(numbers(await rowsOf(world, id), 24)).toEqual(numbers(coarse, 24));
  await world.server.request('DELETE', `/screens/${id}`);
});

test('corners of the dressed fill as the shutter opens are delivered, and say so', async ({ page, world }) => {
  const id = await open(page, world, 'for others');
  await followAll(page);
  await page.getByTestId('stage-hand-over').click();
  await page.getByTestId('data-format').selectOption('csv');
  await page.getByTestId('data-at').selectOption('open');
  await page.getByTestId('data-dressed').selectOption({ label: 'of the dressed fill' });
  const asked = page.waitForResponse((r) => r.url().endsWith('/text') && r.request().method() === 'POST');
  await page.getByTestId('copy-data').click();
  expect(await (await asked).text()).toContain('as the shutter opens');
  await world.server.request('DELETE', `/screens/${id}`);
});

test('what passes in front is outlined on a frame, followed by itself, and ignored by the Screen behind it', async ({
  page,
  world,
}) => {
  const id = await open(page, world, 'behind');
  await page.getByTestId('draw-carried').click();
  for (const [x, y] of [
    [300, 160],
    [420, 160],
    [420, 250],
    [300, 250],
  ] as const)
    await page.mouse.click(...(await onPicture(page, x, y)));
  await page.keyboard.press('Enter');
  const chip = page.getByRole('button', { name: 'outline 1' });
  await expect(chip).toHaveAttribute('aria-pressed', 'true');
  const carrier = Number((await chip.getAttribute('data-test'))!.replace('chip-', ''));
  await expect(page.getByTestId('corner-BR')).toHaveCount(0);
  await page.keyboard.press('f');
  await expect(summary(page)).toContainText('24 of 24 followed', { timeout: 40_000 });
  await page.getByTestId(`chip-${id}`).click();
  await page.getByTestId(`ignore-${carrier}`).check();
  await isSaved(page);
  expect(await saved(world, id)).toMatchObject({ ignores: ['outline 1'] });
  await page.keyboard.press('f');
  await expect(summary(page)).toContainText('24 of 24 followed', { timeout: 40_000 });
  for (const one of [id, carrier]) await world.server.request('DELETE', `/screens/${one}`);
});
