import type { Page } from '@playwright/test';
import sharp from 'sharp';
import { filled } from './filled';
import type { World } from './fixture';
import { expect, isSaved, onPicture, settled, shown, test, WHILE_IT_BLINKS } from './fixture';

interface Saved {
  readonly recipe: {
    readonly dress?: Record<string, Record<string, unknown> & unknown[]>;
    readonly fill?: { readonly media: string; readonly versions?: string[] };
  };
}

const saved = async ({ server }: World, screen: number): Promise<Saved['recipe']> =>
  (await server.request<Saved>('GET', `/screens/${screen}`)).body.recipe;
async function slide(page: Page, control: string, value: number): Promise<void> {
  await page.getByTestId(`${control}-typed`).fill(String(value));
  await page.getByTestId(`${control}-typed`).press('Enter');
  await page.getByTestId(`${control}-typed`).blur();
}

test('the plate is measured, its proposals are taken one by one as one step, and undone', async ({ page, world }) => {
  const { shot, screen } = await filled(world);
  await page.goto(`${world.server.url}/shots/${shot}/dress`);
  await settled(page, 0);
  await page.getByTestId('match-all').click();
  await expect(page.getByTestId('proposals')).toContainText('sigma of', { timeout: 30_000 });
  await page.getByTestId('take-grain').uncheck();
  await page.getByTestId('take-proposals').click();
  await isSaved(page);
  const { dress } = await saved(world, screen);
  expect(Object.keys(dress!)).toEqual(expect.arrayContaining(['levels', 'softness', 'motionBlur']));
  expect(dress!['grain']).toBeUndefined();
  await settled(page, 0);
  await page.getByTestId('undo').click();
  await isSaved(page);
  expect((await saved(world, screen)).dress).toBeUndefined();
});

test('a number is typed and seen, keyed over the shot, its keys stand in the strip, and it goes back to nothing', async ({
  page,
  world,
}) => {
  const { shot, screen } = await filled(world);
  await page.goto(`${world.server.url}/shots/${shot}/dress`);
  await settled(page, 0);
  for (let i = 0; i < 8; i++) await page.keyboard.press('ArrowRight');
  await settled(page, 8);
  await expect.poll(() => shown(page, 310, 190)).toEqual([230, 200, 60]);
  await slide(page, 'levels-gain', 0.25);
  await expect.poll(async () => (await shown(page, 310, 190))[0]).toBeLessThan(140);
  await page.getByTestId('levels-gain-key').click();
  await page.mouse.move(400, 300);
  for (let i = 0; i < 10; i++) await page.keyboard.press('ArrowRight');
  await settled(page, 18);
  await slide(page, 'levels-gain', 1);
  await expect.poll(() => shown(page, 325, 195)).toEqual([230, 200, 60]);
  for (let i = 0; i < 5; i++) await page.keyboard.press('ArrowLeft');
  await settled(page, 13);
  await expect(page.getByTestId('levels-gain-typed')).toHaveValue('0.63');
  await page.getByTestId('lanes-open').click();
  await expect(page.getByTestId('dress-keys').getByRole('button')).toHaveCount(2);
  await page.getByTestId('dress-keys').getByRole('button').first().click();
  await settled(page, 8);
  await isSaved(page);
  expect((await saved(world, screen)).dress).toEqual({
    levels: {
      gain: [
        { frame: 8, value: 0.25 },
        { frame: 18, value: 1 },
      ],
    },
  });
  await page.getByTestId('undress').click();
  await expect.poll(() => shown(page, 310, 190)).toEqual([230, 200, 60]);
  // Blinking, the plate's own pixel shows between.
  await page.getByTestId('blink-dress').check();
  await expect.poll(async () => (await shown(page, 310, 190)).join(), WHILE_IT_BLINKS).not.toBe('230,200,60');
  await page.getByTestId('blink-dress').uncheck();
  await expect.poll(() => shown(page, 310, 190)).toEqual([230, 200, 60]);
});

test('what stays in front is drawn by outline; the matte shows it; the fill is swapped and nothing else changes', async ({
  page,
  world,
}) => {
  const { shot, screen, fill } = await filled(world);
  await page.goto(`${world.server.url}/shots/${shot}/dress`);
  await settled(page, 0);
  for (let i = 0; i < 8; i++) await page.keyboard.press('ArrowRight');
  await settled(page, 8);
  await page.getByTestId('holdout-outline').click();
  for (const p of [
    [260, 150],
    [340, 150],
    [340, 230],
    [260, 230],
  ] as const)
    await page.mouse.click(...(await onPicture(page, p[0], p[1])));
  await page.keyboard.press('Enter');
  await expect(page.getByTestId('holdout-0')).toBeVisible();
  await expect.poll(async () => (await shown(page, 300, 190)).join()).not.toBe('230,200,60');
  expect(await shown(page, 400, 190)).toEqual([230, 200, 60]);
  await page.getByTestId('show').selectOption('matte');
  await expect.poll(() => shown(page, 400, 190)).toEqual([255, 255, 255]);
  await expect.poll(() => shown(page, 300, 190)).toEqual([0, 0, 0]);
  await page.getByTestId('show').selectOption('dressed');
  const { id } = await world.server.upload(
    await sharp({ create: { width: 90, height: 60, channels: 3, background: { r: 20, g: 60, b: 220 } } })
      .png()
      .toBuffer(),
  );
  const other = (
    await world.server.request<{ hash: string }>('POST', '/media', { upload: id, fileName: `blue-${shot}.png` })
  ).body.hash;
  await world.server.until(
    async () => (await world.server.request<{ state: string }>('GET', `/media/${other}`)).body.state === 'ready',
  );
  await page.reload();
  await settled(page, 0);
  for (let i = 0; i < 8; i++) await page.keyboard.press('ArrowRight');
  await settled(page, 8);
  await page.getByTestId(`fill-blue-${shot}.png`).click();
  await expect.poll(() => shown(page, 400, 190)).toEqual([20, 60, 220]);
  await isSaved(page);
  const now = await saved(world, screen);
  expect(now.fill).toEqual({ media: other, versions: [fill] });
  expect(now.dress!['holdouts']).toHaveLength(1);
});

test('sides are bent by a handle that is dragged, the opposite one along, and straightened again', async ({
  page,
  world,
}) => {
  const { shot, screen } = await filled(world);
  await page.goto(`${world.server.url}/shots/${shot}/dress`);
  await settled(page, 0);
  await page.getByTestId('bend-more').click();
  await page.getByTestId('bend-linked').check();
  const knob = page.getByTestId('bend-top-0');
  const box = (await knob.boundingBox())!;
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2 - 20, { steps: 4 });
  await page.mouse.up();
  await isSaved(page);
  const bend = (await saved(world, screen)).dress!['bend'] as unknown as Record<string, { y: number }[]>;
  expect(bend['top']![0]!.y).toBeLessThan(-0.03);
  expect(bend['bottom']![0]!.y).toBeCloseTo(bend['top']![0]!.y, 6);
  await page.getByTestId('bend-none').click();
  await expect.poll(async () => (await saved(world, screen)).dress).toBeUndefined();
});

test('the key’s histogram has a handle at each end, sides feather and are drawn in one by one, and values beyond the limits stand at them', async ({
  page,
  world,
}) => {
  const { shot, screen } = await filled(world);
  await page.goto(`${world.server.url}/shots/${shot}/dress`);
  await settled(page, 0);
  await page.getByTestId('holdout-key').click();
  await page.mouse.click(...(await onPicture(page, 310, 190)));
  const handle = page.getByTestId('key-0-gone');
  await handle.focus();
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('ArrowRight');
  await page.getByTestId('feather-split').check();
  await slide(page, 'feather-1', 12);
  await page.getByTestId('inset-split').check();
  await page.getByTestId('inset-pairs').check();
  await slide(page, 'inset-3', 5);
  await slide(page, 'levels-gain', 900);
  await expect(page.getByTestId('levels-gain-typed')).toHaveValue('4.00');
  await isSaved(page);
  const dress = (await saved(world, screen)).dress!;
  expect((dress['holdouts'] as unknown as { gone: number }[])[0]!.gone).toBeCloseTo(0.32, 3);
  expect((dress['edge']!['feather'] as { sides: number[] }).sides).toEqual([0, 12, 0, 0]);
  // The right side went along with the left one.
  expect((dress['edge']!['inset'] as { sides: number[] }).sides).toEqual([0, 5, 0, 5]);
  expect(dress['levels']!['gain']).toBe(4);
});

test('the element, the matte over the plate, the difference and the pair are looked at; scopes tell the Screen from what is about it', async ({
  page,
  world,
}) => {
  const { shot } = await filled(world);
  await page.goto(`${world.server.url}/shots/${shot}/dress`);
  await settled(page, 0);
  const plate = await shown(page, 80, 60);
  await page.getByTestId('show').selectOption('difference');
  await expect.poll(() => shown(page, 80, 60)).toEqual([0, 0, 0]);
  await page.getByTestId('show').selectOption('overlay');
  await expect.poll(() => shown(page, 80, 60)).toEqual(plate);
  await page.getByTestId('show').selectOption('element');
  await expect.poll(async () => [88, 104].includes((await shown(page, 80, 60))[0]!)).toBe(true);
  await expect.poll(() => shown(page, 310, 190)).toEqual([230, 200, 60]);
  await page.getByTestId('show').selectOption('dressed');
  await expect(page.getByTestId('waveform')).toBeVisible();
  await page.getByTestId('beside').check();
  await expect(page.getByTestId('picture').locator('svg.overlay')).toHaveCount(0);
});
