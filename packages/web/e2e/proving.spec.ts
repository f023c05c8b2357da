/**
 * Proving and repairing in the real interface, on a real clip: by keyboard alone, by mouse alone, and what each view
 * tells.
 */
import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Locator, Page } from '@playwright/test';
import { PIN, plateBytes, recipe } from '../../server/test/builders/plate';
import { expect, isSaved, onPicture, painted, settled, test } from './fixture';
import type { World } from './fixture';
import { allowedMs } from '../../core/test/builders/on-time';

/** A shot whose Screen is followed, with a bezel that slips can be told by. */
async function followed({ server }: World): Promise<{ shot: number; screen: number }> {
  const made = await server.shot(await plateBytes(24, 0, true));
  const { body } = await server.request<{ id: number }>('POST', `/shots/${made.shot}/screens`, {
    ...recipe,
    name: 'proved',
  });
  const job = await server.request<{ id: number }>('POST', `/screens/${body.id}/follow`, { from: 0, to: 23 });
  await server.until(
    async () =>
      (await server.request<{ id: number; state: string }[]>('GET', '/jobs')).body.find(
        (j) => j.id === job.body.id && j.state === 'done',
      ) ?? null,
  );
  return { shot: made.shot, screen: body.id };
}
/** Spoils a track by what a touch-up of another page puts on it. */
async function spoil({ server }: World, screen: number, touchUps: object[]): Promise<void> {
  const now = (await server.request<{ revision: number; recipe: object }>('GET', `/screens/${screen}`)).body;
  const put = await server.request('PUT', `/screens/${screen}`, {
    revision: now.revision,
    recipe: { ...now.recipe, touchUps },
    step: 'Spoil',
  });
  expect(put.status).toBe(200);
}
async function measure(page: Page): Promise<void> {
  await page.getByTestId('measure-slip').click();
  await expect(page.getByText(/told on/)).toBeVisible({ timeout: 30_000 });
}
async function tabTo(page: Page, target: Locator): Promise<void> {
  for (let i = 0; i < 60; i++) {
    if (await target.evaluate((e) => e === document.activeElement).catch(() => false)) return;
    await page.keyboard.press('Tab');
  }
  throw new Error(`${String(target)} cannot be reached by Tab`);
}

test('by keyboard alone, from the plate to the verdict and a repair', async ({ page, world }) => {
  const file = join(world.folder, 'keys.mp4');
  await writeFile(file, await plateBytes(24, 0, true));
  await page.goto(world.server.url);
  await tabTo(page, page.getByLabel('New production'));
  await page.keyboard.type('By keys');
  await tabTo(page, page.getByRole('button', { name: 'Create' }));
  await page.keyboard.press('Enter');
  const chooser = page.waitForEvent('filechooser');
  await page.getByTestId('choose-files').waitFor();
  await tabTo(page, page.getByTestId('choose-files'));
  await page.keyboard.press('Enter');
  await (await chooser).setFiles(file);
  await page.getByRole('link', { name: 'keys', exact: true }).waitFor();
  await tabTo(page, page.getByRole('link', { name: 'keys', exact: true }));
  await page.keyboard.press('Enter');
  await settled(page, 0);
  await page.keyboard.press('Alt+2');
  for (let i = 0; i < 8; i++) await page.keyboard.press('ArrowRight');
  await settled(page, 8);
  await page.keyboard.press('n');
  let [x, y] = [320, 192];
  for (const [px, py] of PIN) {
    for (const [now, to, less, more] of [
      [x, px, 'ArrowLeft', 'ArrowRight'],
      [y, py, 'ArrowUp', 'ArrowDown'],
    ] as const) {
      const d = to - now;
      const key = d < 0 ? less : more;
      for (let i = 0; i < Math.floor(Math.abs(d) / 10); i++) await page.keyboard.press(key);
      for (let i = 0; i < Math.round(Math.abs(d) % 10); i++) await page.keyboard.press(`Shift+${key}`);
    }
    [x, y] = [px, py];
    await page.keyboard.press('Enter');
  }
  await expect(page.getByRole('button', { name: 'Screen 1' })).toBeVisible();
  await page.keyboard.press('f');
  await expect(page.getByTestId('summary')).toHaveText('24 of 24 followed', { timeout: 30_000 });
  await page.keyboard.press('Alt+4');
  await page.keyboard.press('m');
  await expect(page.getByText(/told on/)).toBeVisible({ timeout: 30_000 });
  await expect(page.getByTestId('verdict')).toHaveText('holds');
  await page.keyboard.press('End');
  await page.keyboard.press('1');
  await page.keyboard.press('Control+ArrowRight');
  await expect(page.getByTestId('verdict')).not.toHaveText('holds');
  await expect(page.getByTestId('touch-up-23')).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(page.getByTestId('verdict')).toHaveText('holds');
  for (const look of ['flat-view', 'slit-view', 'curves-view']) {
    await page.keyboard.press('y');
    await expect(page.getByTestId(look)).toBeVisible({ timeout: 10_000 });
  }
  await page.keyboard.press('y');
  await isSaved(page);
});

test('the reference frame shows the card like every other', async ({ page, world }) => {
  const { shot } = await followed(world);
  await page.goto(`${world.server.url}/shots/${shot}/prove`);
  await settled(page, 0);
  for (let i = 0; i < 8; i++) await page.keyboard.press('ArrowRight');
  await settled(page, 8);
});

test('by mouse alone: corners laid onto the glass, followed, measured, a pop found and repaired by the plan', async ({
  page,
  world,
}) => {
  const { shot, screen } = await followed(world);
  await page.goto(`${world.server.url}/shots/${shot}/plate`);
  await settled(page, 0);
  await page.getByTestId('stage-pin').click();
  await page.getByText('Go to the reference frame').click();
  await settled(page, 8);
  await page.getByTestId('snap-glass').click();
  await expect(page.getByTestId('side-found-0')).toContainText('scatter');
  await page.getByTestId('undo').click();
  // What is spoilt next must not meet an edit that is still on its way.
  await isSaved(page);
  await spoil(world, screen, [
    {
      frame: 17,
      offsets: [
        [4, 0],
        [4, 0],
        [4, 0],
        [4, 0],
      ],
      before: { frames: 1, shape: 'linear' },
      after: { frames: 1, shape: 'linear' },
    },
  ]);
  await page.reload();
  await settled(page, 0);
  await page.getByTestId('stage-prove').click();
  await measure(page);
  await expect(page.getByTestId('verdict')).toHaveText('look again');
  await page.getByTestId('worst-17').click();
  await expect(page.getByTestId('frame')).toHaveText('17');
  await page.getByTestId('plan-repairs').click();
  await expect(page.getByTestId('plan')).toContainText('1 repair brings the worst');
  await expect(page.getByTestId('curves-view')).toBeVisible();
  await expect(page.getByTestId('curves-proposed')).toBeVisible();
  expect(
    (await world.server.request<{ recipe: { touchUps: object[] } }>('GET', `/screens/${screen}`)).body.recipe.touchUps,
  ).toHaveLength(1);
  await page.getByTestId('apply-plan').click();
  await expect(page.getByTestId('verdict')).toHaveText('holds');
  await isSaved(page);
  expect(
    (await world.server.request<{ recipe: { touchUps: object[] } }>('GET', `/screens/${screen}`)).body.recipe.touchUps,
  ).toHaveLength(2);
  await page.getByTestId('plan-repairs').click();
  await expect(page.getByTestId('plan')).toContainText('Nothing to repair');
  await expect(page.getByTestId('curves-proposed')).toBeHidden();
  await page.getByTestId('undo').click();
  await expect(page.getByTestId('verdict')).toHaveText('look again');
});

test('a corner that is dragged becomes a touch-up, seen as a tent in its lane, whose fade is dragged; muting takes it back', async ({
  page,
  world,
}) => {
  const { shot, screen } = await followed(world);
  await page.goto(`${world.server.url}/shots/${shot}/prove`);
  await settled(page, 0);
  await page.keyboard.press('End');
  await settled(page, 23);
  const corner = page.getByTestId('corner-TR');
  const before = Number(await corner.getAttribute('data-x'));
  const box = (await corner.boundingBox())!;
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2 + 18, box.y + box.height / 2, { steps: 6 });
  await page.mouse.up();
  await expect(page.getByTestId('touch-up-23')).toBeVisible();
  const after = Number(await corner.getAttribute('data-x'));
  expect(after - before).toBeGreaterThan(5);
  await page.keyboard.press('e');
  await expect(page.getByTestId('repairs-shown')).toHaveValue('but-last');
  expect(Math.abs(Number(await corner.getAttribute('data-x')) - before)).toBeLessThan(0.01);
  await page.keyboard.press('e');
  await page.keyboard.press('e');
  expect(Number(await corner.getAttribute('data-x'))).toBe(after);
  await page.getByTestId('lanes-open').click();
  const grip = (await page.getByTestId('tent-before-23').boundingBox())!;
  const fades = page.getByTestId('fade-before');
  const wide = Number(await fades.inputValue());
  await page.mouse.move(grip.x + 4, grip.y + 4);
  await page.mouse.down();
  await page.mouse.move(grip.x + 90, grip.y + 4, { steps: 5 });
  await page.mouse.up();
  expect(Number(await fades.inputValue())).toBeLessThan(wide);
  await page.getByTestId('mute-23').click();
  expect(Math.abs(Number(await corner.getAttribute('data-x')) - before)).toBeLessThan(0.01);
  await isSaved(page);
  const saved = (
    await world.server.request<{ recipe: { pin: number[][]; touchUps: { muted: boolean }[] } }>(
      'GET',
      `/screens/${screen}`,
    )
  ).body.recipe;
  expect(saved.pin).toEqual(PIN);
  expect(saved.touchUps[0]!.muted).toBe(true);
});

test('snapping to the likeness brings a spoilt frame back, and refuses with a reason where it cannot be told', async ({
  page,
  world,
}) => {
  const { shot, screen } = await followed(world);
  const offsets = [
    [3, 1],
    [3, 1],
    [3, 1],
    [3, 1],
  ];
  await spoil(world, screen, [
    { frame: 20, offsets, before: { frames: 10, shape: 'linear' }, after: { frames: 10, shape: 'hold' } },
  ]);
  await page.goto(`${world.server.url}/shots/${shot}/prove`);
  await measure(page);
  const worst = page.getByTestId('worst').getByRole('button').first();
  await worst.click();
  await page.keyboard.press('Escape');
  await page.getByTestId('snap-likeness').click();
  await expect(page.getByTestId('snap-told')).toContainText('Touched up');
  await isSaved(page);
  const frame = Number(await page.getByTestId('frame').textContent());
  const t = (
    await world.server.request<{ frames: { frame: number; corners: number[][]; homography: number[] }[] }>(
      'GET',
      `/screens/${screen}/track`,
    )
  ).body.frames.find((f) => f.frame === frame)!;
  const h = t.homography;
  const [x, y] = PIN[1];
  const w = h[6]! * x + h[7]! * y + h[8]!;
  const own = [(h[0]! * x + h[1]! * y + h[2]!) / w, (h[3]! * x + h[4]! * y + h[5]!) / w];
  expect(Math.hypot(t.corners[1]![0]! - own[0]!, t.corners[1]![1]! - own[1]!)).toBeLessThan(0.6);
});

test('flat and slit view stand still on a good track; a line is dragged and a click goes to its frame; curves go to a frame', async ({
  page,
  world,
}) => {
  const { shot } = await followed(world);
  await page.goto(`${world.server.url}/shots/${shot}/prove`);
  await settled(page, 0);
  await page.getByTestId('look-slit').click();
  const picture = page.getByTestId('slit-picture');
  await expect(picture).toBeVisible({ timeout: 10_000 });
  const bend = (): Promise<number> =>
    picture.evaluate((c: HTMLCanvasElement) => {
      const { data } = c.getContext('2d')!.getImageData(0, 0, c.width, c.height);
      let sum = 0;
      for (let y = Math.floor(c.height / 4); y < (3 * c.height) / 4; y++)
        for (let x = 1; x < c.width; x++)
          sum += Math.abs(data[4 * (y * c.width + x)]! - data[4 * (y * c.width + x - 1)]!);
      return sum / (c.width * (c.height / 2));
    });
  expect(await bend()).toBeLessThan(6);
  const line = (await page.getByTestId('slit-end-0').boundingBox())!;
  await page.mouse.move(line.x + 4, line.y + 4);
  await page.mouse.down();
  const begin = Date.now();
  for (let i = 0; i < 20; i++) await page.mouse.move(line.x + 4, line.y + 4 - 2 * i);
  await page.mouse.up();
  expect(Date.now() - begin).toBeLessThan(allowedMs(2000));
  const box = (await picture.boundingBox())!;
  await page.mouse.click(box.x + box.width * (10.5 / 24), box.y + 40);
  await expect(page.getByTestId('frame')).toHaveText('10');
  await page.getByTestId('look-flat').click();
  await page.getByTestId('flat-against').selectOption('difference');
  await expect(page.getByTestId('flat-view')).toBeVisible();
  await page.getByTestId('look-curves').click();
  for (const k of ['path', 'speed', 'trust', 'sigma', 'blur']) await page.getByTestId(`curve-${k}`).click();
  // The chart lays itself out once more after its curves were chosen.
  await expect(async () => {
    const chart = (await page.getByTestId('curves-view').locator('canvas').boundingBox())!;
    await page.mouse.click(chart.x + chart.width * 0.95, chart.y + chart.height / 2);
    expect(Number(await page.getByTestId('frame').textContent())).toBeGreaterThan(19);
  }).toPass({ timeout: 10_000 });
});

test('the corner board is at hand in every stage, changes places with the picture, and compares with the likeness', async ({
  page,
  world,
}) => {
  const { shot } = await followed(world);
  await page.goto(`${world.server.url}/shots/${shot}/follow`);
  await settled(page, 0);
  await expect(page.getByTestId('corner-board')).toHaveCount(0);
  await page.keyboard.press('b');
  await expect(page.getByTestId('corner-board').locator('canvas')).toHaveCount(4);
  await page.getByTestId('stage-prove').click();
  await page.keyboard.press('b');
  expect((await page.getByTestId('close-up-0').boundingBox())!.width).toBeGreaterThan(220);
  await page.keyboard.press('q');
  await expect(page.getByTestId('close-up-0')).toContainText('TL / 8');
  const differs = async (): Promise<number> => {
    await painted(page);
    return page
      .getByTestId('close-up-1')
      .locator('canvas')
      .evaluate((c: HTMLCanvasElement) => {
        const { data } = c.getContext('2d')!.getImageData(0, 0, c.width, c.height);
        let sum = 0;
        for (let i = 0; i < data.length; i += 4) sum += data[i]!;
        return sum / (data.length / 4);
      });
  };
  const plain = await differs();
  await page.getByTestId('compare').selectOption('difference');
  // Until the likeness is there the picture itself is seen, many times as bright as what differs.
  await expect.poll(differs).toBeLessThan(0.5 * plain);
  const good = await differs();
  // A corner that lies elsewhere differs more from what it looked like.
  await page.keyboard.press('2');
  await page.keyboard.press('Control+ArrowRight');
  await expect.poll(differs).toBeGreaterThan(1.3 * good);
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Escape');
  await page.keyboard.press('End');
  await page.getByTestId('remember-likeness').click();
  await expect(page.getByTestId('close-up-0')).toContainText('TL / 23');
  await page.keyboard.press('b');
});

test('squares the pin up, turns the content, and goes back to an earlier version after a reload', async ({
  page,
  world,
}) => {
  const { shot, screen } = await followed(world);
  await page.goto(`${world.server.url}/shots/${shot}/pin`);
  await page.getByText('Go to the reference frame').click();
  await page.getByTestId('ratio-width').fill('240');
  await page.getByTestId('ratio-height').fill('152');
  await page.getByTestId('square-up').click();
  await expect(page.getByTestId('squared')).toContainText(/Moved by up to|No lens/);
  await page.getByTestId('undo').click();
  await page.getByTestId('turn-left').click();
  expect(Number(await page.getByTestId('TL-x').inputValue())).toBeCloseTo(PIN[1][0], 1);
  await isSaved(page);
  await page.reload();
  await page.getByText('Earlier versions').click();
  await expect(page.getByTestId('versions')).toContainText('Turn content left');
  await page.getByTestId('version-1').click();
  await expect.poll(async () => Number(await page.getByTestId('TL-x').inputValue())).toBeCloseTo(PIN[0][0], 1);
  await isSaved(page);
  expect(
    (await world.server.request<{ recipe: { pin: number[][] } }>('GET', `/screens/${screen}`)).body.recipe.pin,
  ).toEqual(PIN);
});

test('view aids change what is seen and nothing else; the divider shows plate and card side by side', async ({
  page,
  world,
}) => {
  const { shot } = await followed(world);
  await page.goto(`${world.server.url}/shots/${shot}/plate`);
  await settled(page, 0);
  await page.mouse.move(...(await onPicture(page, 300, 190)));
  const read = (): Promise<string | null> => page.getByTestId('readout').textContent();
  const plain = await read();
  await page.getByTestId('channel').selectOption('red');
  await page.getByTestId('edges').check();
  await expect(page.getByTestId('aid')).toHaveText('view aid: red, edges');
  await page.mouse.move(...(await onPicture(page, 301, 190)));
  await page.mouse.move(...(await onPicture(page, 300, 190)));
  expect(await read()).toBe(plain);
  await page.getByTestId('aid-plain').click();
  await page.getByTestId('stage-prove').click();
  await page.keyboard.press('w');
  const bar = (await page.getByTestId('wipe').boundingBox())!;
  await page.mouse.move(bar.x + bar.width / 2, bar.y + 300);
  await page.mouse.down();
  await page.mouse.move(bar.x + 120, bar.y + 300, { steps: 4 });
  await page.mouse.up();
  expect((await page.getByTestId('wipe').boundingBox())!.x).toBeGreaterThan(bar.x + 80);
  await page.keyboard.press('w');
  await expect(page.getByTestId('wipe')).toHaveCount(0);
});
