/** Outlines shaped on the picture, regions that are graded, marks that are painted out: by mouse and by keys. */
import type { Page } from '@playwright/test';
import { filled } from './filled';
import type { World } from './fixture';
import { drag, expect, isSaved, middleOf, onPicture, painted, settled, shown, test } from './fixture';

type Numbers = readonly (readonly number[])[];
interface Outline {
  readonly kind: string;
  readonly points: Numbers;
  readonly handles?: Numbers;
  readonly soft?: readonly number[];
  readonly plane?: string;
  readonly onPicture?: boolean;
  readonly givesBack?: boolean;
  readonly keys?: readonly { readonly frame: number; readonly points: Numbers }[];
}
interface Dress {
  readonly holdouts?: readonly Outline[];
  readonly retouches?: readonly (Outline & Readonly<Record<string, unknown>>)[];
}

async function dressOf(page: Page, { server }: World, screen: number): Promise<Dress> {
  await isSaved(page);
  return (await server.request<{ recipe: { dress?: Dress } }>('GET', `/screens/${screen}`)).body.recipe.dress ?? {};
}
const boundsOf = (points: Numbers): { width: number; height: number; x: number; y: number } => {
  const [xs, ys] = [points.map((p) => p[0]!), points.map((p) => p[1]!)];
  const [x, y] = [Math.min(...xs), Math.min(...ys)];
  return { x, y, width: Math.max(...xs) - x, height: Math.max(...ys) - y };
};

async function open(page: Page, world: World, frame: number): Promise<number> {
  const { shot, screen } = await filled(world);
  await page.goto(`${world.server.url}/shots/${shot}/dress`);
  await settled(page, 0);
  await goTo(page, 0, frame);
  return screen;
}
async function goTo(page: Page, from: number, to: number): Promise<void> {
  for (let i = from; i < to; i++) await page.keyboard.press('ArrowRight');
  await settled(page, to);
}

/** One stroke around a place of the picture. */
async function stroke(page: Page, [x, y]: readonly [number, number], rx: number, ry: number): Promise<void> {
  const at = (k: number): Promise<[number, number]> =>
    onPicture(page, x + rx * Math.cos((k * Math.PI) / 16), y + ry * Math.sin((k * Math.PI) / 16));
  await page.mouse.move(...(await at(0)));
  await page.mouse.down();
  for (let k = 1; k < 32; k++) await page.mouse.move(...(await at(k)));
  await page.mouse.up();
}

test('a holdout is drawn in one stroke, and takes three shapes over time, in six actions', async ({ page, world }) => {
  const screen = await open(page, world, 8);
  // 1 and 2: the tool, and the stroke.
  await page.getByTestId('holdout-outline').click();
  await stroke(page, [300, 190], 44, 30);
  await expect(page.getByTestId('outline-handles')).toBeVisible();
  const [drawn] = (await dressOf(page, world, screen)).holdouts!;
  expect(drawn!.points.length).toBeGreaterThanOrEqual(4);
  expect(drawn!.points.length).toBeLessThanOrEqual(10);
  expect(drawn!.handles).toHaveLength(drawn!.points.length);
  for (const [x, y] of drawn!.points) {
    expect(Math.abs(Math.hypot((x! - 300) / 44, (y! - 190) / 30) - 1)).toBeLessThan(0.15);
  }
  const zoom = Number(await page.getByTestId('picture').getAttribute('data-zoom'));

  // 3 and 4: another frame, scaled by a corner. Arrows step from frame to frame.
  await goTo(page, 8, 14);
  await drag(page, await middleOf(page, 'outline-scale-4'), 20 * zoom, 14 * zoom);
  // 5 and 6: a third frame, turned by the knob.
  await goTo(page, 14, 20);
  await drag(page, await middleOf(page, 'outline-turn'), 40 * zoom, 0);
  const { holdouts } = await dressOf(page, world, screen);
  expect(holdouts![0]!.keys!.map((k) => k.frame)).toEqual([14, 20]);
  const [first, second] = [drawn!.points, holdouts![0]!.keys![0]!.points].map(boundsOf);
  expect(second!.width / first!.width).toBeGreaterThan(1.1);
  expect(second!.width / first!.width).toBeCloseTo(second!.height / first!.height, 1);
  expect(boundsOf(holdouts![0]!.keys![1]!.points).height).not.toBeCloseTo(second!.height, 0);

  // Between the shapes it changes evenly, and one step of undo takes back one drag.
  await page.getByTestId('undo').click();
  expect((await dressOf(page, world, screen)).holdouts![0]!.keys!.map((k) => k.frame)).toEqual([14]);

  // The view rides on it: its middle stands still on the page, though it moves in the picture.
  await page.keyboard.press('d');
  await expect(page.getByTestId('ride-on')).toHaveValue('outline');
  const points = page.locator('[data-test^="outline-holdouts-0-point-"]');
  const middle = async (): Promise<readonly [number, number]> => {
    await painted(page);
    const boxes = await points.evaluateAll((all) =>
      all.map((e) => e.getBoundingClientRect()).map((b) => [b.x + b.width / 2, b.y + b.height / 2] as const),
    );
    return [0, 1].map((k) => boxes.reduce((sum, b) => sum + b[k]!, 0) / boxes.length) as unknown as [number, number];
  };
  const before = await middle();
  for (let i = 0; i < 6; i++) await page.keyboard.press('ArrowLeft');
  await settled(page, 14);
  const after = await middle();
  expect(Math.hypot(after[0] - before[0], after[1] - before[1])).toBeLessThan(1);
});

test('points become corners and curves, are led by handles, made soft, gone through and taken away by keys', async ({
  page,
  world,
}) => {
  const screen = await open(page, world, 8);
  await page.getByTestId('holdout-outline').click();
  for (const p of [
    [260, 160],
    [340, 160],
    [340, 220],
    [260, 220],
  ] as const)
    await page.mouse.click(...(await onPicture(page, p[0], p[1])));
  await page.keyboard.press('Enter');
  await page.getByTestId('curved-holdouts-0').check();
  expect((await dressOf(page, world, screen)).holdouts![0]!.handles).toHaveLength(4);

  // By keys: the first point, a corner; the second moved by ten px; the third taken away.
  await page.mouse.move(...(await onPicture(page, 60, 60)));
  await page.getByTestId('picture').focus();
  await page.keyboard.press('.');
  await page.keyboard.press('7');
  await page.keyboard.press('.');
  await page.keyboard.press('Control+ArrowRight');
  const bent = (await dressOf(page, world, screen)).holdouts![0]!;
  expect(bent.handles![0]).toEqual([0, 0, 0, 0]);
  expect(bent.handles![1]!.some((v) => v !== 0)).toBe(true);
  expect(bent.points[1]![0]!).toBeCloseTo(350, 1);
  await page.getByTestId('point-soft').fill('24');
  await page.getByTestId('point-soft').press('Enter');
  expect((await dressOf(page, world, screen)).holdouts![0]!.soft).toEqual([0, 24, 0, 0]);
  await page.getByTestId('picture').focus();
  await page.keyboard.press('.');
  await page.keyboard.press('Delete');
  const three = (await dressOf(page, world, screen)).holdouts![0]!;
  expect([three.points, three.handles, three.soft].map((l) => l!.length)).toEqual([3, 3, 3]);

  // By mouse: a handle is drawn out, its opposite stays in line with it.
  const zoom = Number(await page.getByTestId('picture').getAttribute('data-zoom'));
  await page.keyboard.press('Escape');
  await page.getByTestId('holdout-0').getByRole('button', { name: 'outline' }).click();
  await drag(page, await middleOf(page, 'handle-1-after'), 0, 30 * zoom);
  const [ix, iy, ox, oy] = (await dressOf(page, world, screen)).holdouts![0]!.handles![1]!;
  expect(Math.abs(ix! * oy! - iy! * ox!)).toBeLessThan(1e-6 * Math.hypot(ix!, iy!) * Math.hypot(ox!, oy!) + 1e-9);
  expect(oy! - three.handles![1]![3]!).toBeCloseTo(30, 0);

  // The whole by keys: larger, turned, let go.
  await page.getByTestId('picture').focus();
  const before = boundsOf((await dressOf(page, world, screen)).holdouts![0]!.points);
  await page.keyboard.press(',');
  for (let i = 0; i < 10; i++) await page.keyboard.press('PageUp');
  const after = boundsOf((await dressOf(page, world, screen)).holdouts![0]!.points);
  expect(after.width).toBeGreaterThan(before.width + 5);
  await page.keyboard.press('Escape');
  await expect(page.getByTestId('outline-handles')).toBeHidden();
});

test('outlines work in their order, give back, and ride on the picture without moving there', async ({
  page,
  world,
}) => {
  const screen = await open(page, world, 12);
  for (const r of [40, 16]) {
    await page.getByTestId('holdout-outline').click();
    await stroke(page, [310, 190], r, r);
    await painted(page);
  }
  await page.getByTestId('does-1').selectOption('back');
  await page.keyboard.press('Escape');
  const look = async (): Promise<string> => (await shown(page, 310, 190)).join(' ');
  await expect.poll(look).toBe('230 200 60');
  await page.getByRole('button', { name: 'Holdout 2 earlier' }).click();
  await expect.poll(look).not.toBe('230 200 60');
  const before = await page.getByTestId('patch-holdout').first().getAttribute('points');
  await page.getByTestId('rides-holdouts-0').selectOption({ label: 'the picture' });
  await expect.poll(async () => (await dressOf(page, world, screen)).holdouts![0]!.onPicture).toBe(true);
  const [a, b] = [before!, (await page.getByTestId('patch-holdout').first().getAttribute('points'))!].map((t) =>
    t.split(/[ ,]/).map(Number),
  );
  a!.forEach((v, i) => expect(Math.abs(v - b![i]!)).toBeLessThan(0.05));
});

test('a region is graded, and a mark painted out from beside it and from another frame', async ({ page, world }) => {
  const screen = await open(page, world, 8);
  const was = await shown(page, 100, 100);
  await page.getByTestId('draw-grade').click();
  await stroke(page, [100, 100], 30, 30);
  await page.getByTestId('grade-0-gain-typed').fill('0.2');
  await page.getByTestId('grade-0-gain-typed').press('Enter');
  await expect.poll(async () => (await shown(page, 100, 100))[1]!).toBeLessThan(0.7 * was[1]!);
  await page.keyboard.press('Escape');

  await page.getByTestId('draw-paint-out').click();
  await stroke(page, [540, 80], 24, 18);
  await page.getByTestId('paint-from-1').selectOption('beside');
  const zoom = Number(await page.getByTestId('picture').getAttribute('data-zoom'));
  const before = (await dressOf(page, world, screen)).retouches![1]!['offset'] as number[];
  await drag(page, await middleOf(page, 'paint-source'), -30 * zoom, 40 * zoom);
  const offset = (await dressOf(page, world, screen)).retouches![1]!['offset'] as number[];
  expect(offset[0]! - before[0]!).toBeCloseTo(-30, 0);
  expect(offset[1]! - before[1]!).toBeCloseTo(40, 0);
  await page.getByTestId('paint-from-1').selectOption('frame');
  await page.getByTestId('paint-frame-1').fill('20');
  await page.getByTestId('paint-frame-1').press('Enter');
  const { retouches } = await dressOf(page, world, screen);
  expect(retouches!.map((r) => r.kind)).toEqual(['grade', 'paint-out']);
  expect(retouches![1]).toMatchObject({ from: 'frame', frame: 20 });
  // With nothing in the slot the plate is cleaned all the same.
  await page.getByTestId('take-fill-out').click();
  await settled(page, 8);
  await expect.poll(async () => (await shown(page, 100, 100))[1]!).toBeLessThan(0.7 * was[1]!);
  await page.getByRole('button', { name: 'Delete retouch 1' }).click();
  await expect.poll(() => shown(page, 100, 100)).toEqual(was);
});
