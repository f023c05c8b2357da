import { mkdtemp, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { ROOM, glassRecipe, roomClip } from '../../media/test/builders/room';
import type { World } from './fixture';
import { expect, onPicture, test } from './fixture';
import { drag } from './steering';

const COVERED = [14, 15, 16, 17, 18];
/** Px of the plate: the box about the dark glass, and the wall beside it. */
const BOX = [
  [90, 80],
  [330, 200],
] as const;

let shot: number;
test.beforeAll(async ({ world }) => {
  const folder = await mkdtemp(join(tmpdir(), 'yarlop-room-'));
  try {
    await roomClip(join(folder, 'room.mp4'), (n) => COVERED.includes(n));
    ({ shot } = await world.server.shot(await readFile(join(folder, 'room.mp4')), 'room.mp4'));
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
});

async function open(page: Page, { server }: World, stage = 'follow'): Promise<void> {
  await page.goto(`${server.url}/shots/${shot}/${stage}`);
  await expect(page.getByTestId('picture')).toHaveAttribute('data-frame', '0');
}
const solved = async ({ server }: World): Promise<{ points: { id: number }[] } | null> => {
  const { body } = await server.request<{ solved: { file: { points: { id: number }[] } } | null }>(
    'GET',
    `/shots/${shot}/camera`,
  );
  return body.solved?.file ?? null;
};
/** A box from one place of the plate to another. */
async function box(page: Page): Promise<void> {
  const [a, b] = [await onPicture(page, ...BOX[0]), await onPicture(page, ...BOX[1])];
  await drag(page, a, b[0] - a[0], b[1] - a[1]);
}

test('the camera is solved, its points are seen, chosen, dropped and taken back', async ({ page, world }) => {
  await open(page, world);
  await page.getByTestId('camera-known').selectOption('mm');
  await page.getByTestId('camera-focal').fill(String((ROOM.focal / ROOM.width) * 32));
  await page.getByTestId('camera-focal').press('Enter');
  await page.getByTestId('camera-sensor').fill('32');
  await page.getByTestId('camera-sensor').press('Enter');
  // Keys that are typed into a field are its own.
  await page.getByTestId('picture').focus();
  await page.keyboard.press('Shift+K');
  await expect(page.getByTestId('camera-progress')).toBeVisible();
  await expect(page.getByTestId('camera-told')).toContainText('A camera that moves: 24 frames', { timeout: 60_000 });
  await expect(page.getByTestId('camera-told')).toContainText('focal length 420.0 px');
  await page.getByTestId('camera-lens').selectOption('known');
  await page.getByTestId('camera-k1').fill('-0.01');
  await page.getByTestId('camera-k1').press('Enter');
  await expect(page.getByTestId('camera-old')).toBeVisible();
  await page.getByTestId('camera-solve').click();
  await expect(page.getByTestId('camera-told')).toContainText('bows by -0.010', { timeout: 60_000 });
  const all = (await solved(world))!.points.length;
  await expect(page.getByTestId('camera-points')).not.toHaveAttribute('data-count', '0');
  await page.getByTestId('camera-box').click();
  await box(page);
  const some = page.getByTestId('camera-drop');
  await expect(some).toContainText(/Drop \d+ points/);
  await page.keyboard.press('Escape');
  await some.click();
  await expect(page.getByTestId('camera-take-back')).toBeVisible({ timeout: 60_000 });
  await expect.poll(async () => (await solved(world))!.points.length, { timeout: 60_000 }).toBeLessThan(all);
  await page.getByTestId('camera-take-back').click();
  await expect.poll(async () => (await solved(world))!.points.length, { timeout: 60_000 }).toBe(all);
});

test('a run is stopped, and what cannot be solved is said with the mend', async ({ page, world }) => {
  await open(page, world);
  const before = await solved(world);
  await page.getByTestId('camera-kind').selectOption('moving');
  await expect(page.getByTestId('camera-old')).toBeVisible();
  // A run is short here: it is stopped within the page as soon as it can be.
  await page.evaluate(
    () =>
      new Promise<void>((stopped) => {
        const button = (id: string): HTMLElement | null => document.querySelector(`[data-test="${id}"]`);
        const watching = new MutationObserver(() => {
          const stop = button('camera-stop');
          if (!stop) return;
          watching.disconnect();
          stop.click();
          stopped();
        });
        watching.observe(document.body, { subtree: true, childList: true });
        button('camera-solve')!.click();
      }),
  );
  await expect(page.getByTestId('camera-stop')).toHaveCount(0);
  const jobs = (await world.server.request<{ id: number; kind: string; state: string }[]>('GET', '/jobs')).body;
  const last = jobs.filter((j) => j.kind === 'camera').sort((a, b) => b.id - a.id)[0];
  expect(last).toMatchObject({ state: 'cancelled' });
  expect(await solved(world)).toEqual(before);
  await page.getByTestId('camera-kind').selectOption('find');
  await expect(page.getByTestId('camera-old')).toHaveCount(0);
});

test('a Screen rests on it, another is laid on a surface, and the room is seen from outside', async ({
  page,
  world,
}) => {
  const { server } = world;
  const { body } = await server.request<{ id: number }>('POST', `/shots/${shot}/screens`, glassRecipe());
  await server.request('POST', `/screens/${body.id}/follow`, { from: 0, to: 23 });
  await server.ended('follow', 'done');
  await open(page, world);
  await expect(page.getByTestId('summary')).not.toHaveText('not followed yet');
  await page.getByTestId('rests-on-scene').check();
  await expect(page.getByTestId('summary')).toContainText('24 of 24 followed');
  for (let i = 0; i < 16; i++) await page.keyboard.press('ArrowRight');
  await expect(page.getByTestId('resting')).toContainText('scene');
  await page.getByTestId('surface-shape').selectOption('tv');
  await page.getByTestId('surface').click();
  await page.mouse.click(...(await onPicture(page, 210, 195)));
  await expect(page.getByText('Surface 1').first()).toBeVisible();
  await expect(page.getByTestId('summary')).toContainText('24 of 24 followed');
  await page.getByTestId('plane-offset').fill('5');
  await page.getByTestId('plane-offset').press('Enter');
  interface Shown {
    readonly screens: readonly { readonly recipe: object }[];
  }
  const screens = async () => (await server.request<Shown>('GET', `/shots/${shot}`)).body.screens;
  await expect
    .poll(async () => (await screens()).at(-1)!.recipe)
    .toMatchObject({
      device: 'tv',
      scenePlane: { offset: 0.05 },
    });
  await page.getByTestId('stage-prove').click();
  await page.getByTestId('cones').check();
  await expect
    .poll(async () => Number(await page.getByTestId('proof-marks').getAttribute('data-cones')))
    .toBeGreaterThan(4);
  await page.getByTestId('look-room').click();
  const room = page.getByTestId('room');
  await expect(room).toHaveAttribute('data-planes', '2');
  const drawn = async (): Promise<Buffer> => room.locator('canvas').screenshot();
  await expect(room.locator('canvas')).toBeVisible();
  const first = await drawn();
  await room.focus();
  for (let i = 0; i < 6; i++) await page.keyboard.press('ArrowLeft');
  expect((await drawn()).equals(first)).toBe(false);
});

test('a world is told by chosen points, and the camera is saved in it', async ({ page, world }) => {
  await open(page, world);
  await page.getByTestId('camera-box').click();
  await box(page);
  await page.keyboard.press('Escape');
  await page.getByTestId('camera-world').locator('summary').click();
  await page.getByTestId('world-ground').click();
  await expect(page.getByTestId('camera-world')).toContainText('The ground goes through');
  await page.getByTestId('stage-hand-over').click();
  const waiting = page.waitForEvent('download');
  await page.getByTestId('save-camera').click();
  const download = await waiting;
  expect(download.suggestedFilename()).toBe('Quay-camera.gltf');
  const text = await readFile(await download.path(), 'utf8');
  const { nodes } = JSON.parse(text) as { nodes: { name: string }[] };
  expect(nodes.map((n) => n.name)).toEqual(['camera', 'points', 'dark glass', 'Surface 1']);
  await page.getByTestId('camera-format').selectOption('lens-undistort');
  const map = page.waitForEvent('download');
  await page.getByTestId('save-camera').click();
  expect((await map).suggestedFilename()).toBe('Quay-lens-undistort.exr');
});
