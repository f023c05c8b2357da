/** Keys of a dress in the strip: dragged, valued, eased, copied and deleted, one value's and several at once. */
import type { Page } from '@playwright/test';
import { filled } from './filled';
import type { World } from './fixture';
import { expect, isSaved, settled, test } from './fixture';

interface Key {
  readonly frame: number;
  readonly value: number;
  readonly ease?: string;
}
type Dress = Readonly<Record<string, Readonly<Record<string, readonly Key[] | number>>>>;

async function dress(page: Page, { server }: World, screen: number): Promise<Dress> {
  await isSaved(page);
  return (await server.request<{ recipe: { dress: Dress } }>('GET', `/screens/${screen}`)).body.recipe.dress;
}
const framesOf = (keys: readonly Key[] | number): number[] => (keys as readonly Key[]).map((k) => k.frame);

/** A Screen whose gain goes from 1 on frame 8 to 0.5 on frame 18, and whose lift has a key on frame 8. */
async function open(page: Page, world: World): Promise<number> {
  const { shot, screen } = await filled(world);
  await page.goto(`${world.server.url}/shots/${shot}/dress`);
  await settled(page, 0);
  const at = async (frame: number): Promise<void> => {
    await page.getByTestId('picture').click({ position: { x: 5, y: 5 } });
    await page.keyboard.press('Home');
    for (let i = 0; i < frame; i++) await page.keyboard.press('ArrowRight');
    await settled(page, frame);
  };
  await at(8);
  await page.getByTestId('levels-gain-key').click();
  await page.getByTestId('levels-lift-key').click();
  await at(18);
  await page.getByTestId('levels-gain-typed').fill('0.5');
  await page.getByTestId('levels-gain-typed').press('Enter');
  await page.getByTestId('lanes-open').click();
  await expect(page.getByTestId('key-curve')).toBeVisible();
  return screen;
}

/** px of the page a frame of the strip. */
async function frameWidth(page: Page): Promise<number> {
  const [a, b] = await Promise.all([8, 18].map(async (f) => (await page.getByTestId(`keys-${f}`).boundingBox())!.x));
  return (b! - a!) / 10;
}

async function drag(page: Page, name: string, dx: number, dy: number): Promise<void> {
  const box = (await page.getByTestId(name).boundingBox())!;
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x + dx / 2, y + dy / 2);
  await page.mouse.move(x + dx, y + dy);
  await page.mouse.up();
}

test('a key is dragged in time and in value, eased, and each is one step of undo', async ({ page, world }) => {
  const screen = await open(page, world);
  const wide = await frameWidth(page);
  await drag(page, 'key-18', 3 * wide, 0);
  expect((await dress(page, world, screen))['levels']!['gain']).toEqual([
    { frame: 8, value: 1 },
    { frame: 21, value: 0.5 },
  ]);
  await page.getByTestId('undo').click();
  expect(framesOf((await dress(page, world, screen))['levels']!['gain']!)).toEqual([8, 18]);

  // Half way up the curve's 40 px.
  await drag(page, 'key-18', 0, -20);
  const [, raised] = (await dress(page, world, screen))['levels']!['gain'] as readonly Key[];
  expect(raised!.frame).toBe(18);
  expect(raised!.value).toBeCloseTo(0.75, 1);

  await page.getByTestId('key-8').click();
  await page.getByTestId('key-ease').selectOption('hold');
  expect((await dress(page, world, screen))['levels']!['gain']).toMatchObject([
    { frame: 8, ease: 'hold' },
    { frame: 18 },
  ]);
  await settled(page, 8);
});

test('keys of several values are moved, copied and deleted at once', async ({ page, world }) => {
  const screen = await open(page, world);
  const wide = await frameWidth(page);
  await drag(page, 'keys-8', -5 * wide, 0);
  const moved = (await dress(page, world, screen))['levels']!;
  expect([framesOf(moved['gain']!), framesOf(moved['lift']!)]).toEqual([[3, 18], [3]]);
  await expect(page.getByTestId('key-tools')).toContainText('2 keys');

  // The frame shown is 18 still.
  await page.getByTestId('key-copy').click();
  const copied = (await dress(page, world, screen))['levels']!;
  expect(copied).toMatchObject({
    gain: [
      { frame: 3, value: 1 },
      { frame: 18, value: 1 },
    ],
    lift: [{ frame: 3 }, { frame: 18 }],
  });

  await page.getByTestId('key-delete').click();
  const left = (await dress(page, world, screen))['levels']!;
  expect([framesOf(left['gain']!), framesOf(left['lift']!)]).toEqual([[18], [18]]);
  await expect(page.getByTestId('key-tools')).toHaveCount(0);
});

test('by keys alone: a key is moved by frames, valued, and deleted; another value is shown', async ({
  page,
  world,
}) => {
  const screen = await open(page, world);
  await page.getByTestId('key-18').focus();
  await page.keyboard.press('Alt+ArrowRight');
  await expect(page.getByTestId('key-19')).toBeFocused();
  await page.keyboard.press('Alt+ArrowUp');
  const [, key] = (await dress(page, world, screen))['levels']!['gain'] as readonly Key[];
  expect(key!.frame).toBe(19);
  expect(key!.value).toBeGreaterThan(0.5);
  await page.keyboard.press('Delete');
  expect(framesOf((await dress(page, world, screen))['levels']!['gain']!)).toEqual([8]);
  await page.getByTestId('key-value').selectOption({ label: 'Levels: Lift' });
  await expect(page.getByTestId('key-curve')).toHaveAttribute('aria-label', 'Levels: Lift');
});
