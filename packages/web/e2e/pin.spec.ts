/** The pin that rides on what is followed, and taken as a whole; several Screens at once. */
import { PIN, plateBytes, recipe, truthAt } from '../../server/test/builders/plate';
import type { Quad } from '../../core/src/geometry/quad';
import { farthest, mapQuad, signedArea } from '../../core/src/geometry/quad';
import { expect, isSaved, onPicture, settled, test } from './fixture';
import { drag, followAll, isFollowed, open, saved } from './steering';

test('a pin that is set far from what was followed outdates nothing; its own area is followed when it is asked for', async ({
  page,
  world,
}) => {
  const id = await open(page, world, 'set later');
  await followAll(page);
  await expect(page.getByTestId('area-apart')).toHaveCount(0);
  await page.getByRole('button', { name: 'Go there' }).click();
  await settled(page, 8);
  await page.getByTestId('stage-pin').click();
  await expect(page.getByTestId('corner-BR')).toBeVisible();
  const zoom = Number(await page.getByTestId('picture').getAttribute('data-zoom'));
  const [x, y] = await onPicture(page, ...PIN[2]);
  await drag(page, [x, y], -150 * zoom, -60 * zoom);
  await isSaved(page);
  await expect(page.getByTestId('followed-area')).toBeVisible();
  await page.getByTestId('stage-follow').click();
  await expect(page.getByTestId('area-apart')).toContainText('Nothing has to be followed again');
  await expect(page.getByTestId('summary')).toHaveText('24 of 24 followed');
  await expect(page.getByTestId('stage-follow')).not.toContainText('outdated');
  const solve = async (): Promise<{ solveId: number; outdated: boolean }> =>
    (await world.server.request<{ solveId: number; outdated: boolean }>('GET', `/screens/${id}/track`)).body;
  const first = await solve();
  expect(first.outdated).toBe(false);
  await page.getByTestId('follow-new-area').click();
  await expect(page.getByTestId('area-apart')).toHaveCount(0);
  await expect.poll(async () => (await solve()).solveId, { timeout: 40_000 }).not.toBe(first.solveId);
  await expect(page.getByTestId('follow-stop')).toHaveCount(0, { timeout: 40_000 });
  await isFollowed(page);
  await page.getByTestId('undo').click();
  await isSaved(page);
  expect(await solve()).toMatchObject({ solveId: first.solveId, outdated: false });
  await expect(page.getByTestId('area-apart')).toBeVisible();
  await world.server.request('DELETE', `/screens/${id}`);
});

test('all Screens of a shot are followed and measured at once, by key and by button', async ({ page, world }) => {
  const { server } = world;
  // A shot of its own: what is done to all Screens is done to those of other tests too.
  const { shot } = await server.shot(await plateBytes());
  const make = async (own: object): Promise<number> =>
    (await server.request<{ id: number }>('POST', `/shots/${shot}/screens`, { ...recipe, ...own })).body.id;
  const both = [
    await make({ name: 'one of two' }),
    await make({ name: 'two of two', referenceFrame: 12, pin: mapQuad(truthAt(12), PIN) }),
  ] as const;
  await page.goto(`${server.url}/shots/${shot}/follow`);
  await page.getByTestId(`chip-${both[0]}`).click();
  await expect(page.getByTestId('follow-all')).toBeEnabled();
  await page.keyboard.press('Shift+F');
  const followed = async (): Promise<number[]> =>
    Promise.all(
      both.map(
        async (id) => (await server.request<{ frames: object[] }>('GET', `/screens/${id}/track`)).body.frames.length,
      ),
    );
  await expect.poll(followed, { timeout: 60_000 }).toEqual([24, 24]);
  await page.getByTestId(`chip-${both[1]}`).click();
  await expect(page.getByTestId('summary')).toHaveText('24 of 24 followed');
  await page.getByTestId('stage-prove').click();
  await expect(page.getByTestId('measure-all')).toBeEnabled({ timeout: 20_000 });
  await page.getByTestId('measure-all').click();
  const proved = async (): Promise<number[]> =>
    Promise.all(
      both.map(
        async (id) =>
          (await server.request<{ frames: object[] } | null>('GET', `/screens/${id}/proof`)).body?.frames.length ?? 0,
      ),
    );
  await expect.poll(proved, { timeout: 60_000 }).toEqual([24, 24]);
  await server.request('DELETE', `/shots/${shot}`);
});

test('the whole pin is moved, turned and scaled by its handles and by keys, and let go', async ({ page, world }) => {
  const id = await open(page, world, 'as a whole');
  await page.getByTestId('stage-pin').click();
  const pin = async (): Promise<Quad> => {
    await isSaved(page);
    return (await saved(world, id)).pin as unknown as Quad;
  };
  const zoom = Number(await page.getByTestId('picture').getAttribute('data-zoom'));
  const centre = async (handle: string): Promise<[number, number]> => {
    const box = (await page.getByTestId(handle).boundingBox())!;
    return [box.x + box.width / 2, box.y + box.height / 2];
  };
  await expect(page.getByTestId('whole-pin-handles')).toHaveCount(0);
  await page.getByTestId('whole-pin').click();
  await drag(page, await centre('whole-pin-move'), 44, -22);
  await expect(page.getByTestId('undo')).toBeEnabled();
  const moved = await pin();
  for (const [i, [x, y]] of moved.entries()) {
    expect(x - PIN[i]![0]).toBeCloseTo(44 / zoom, 1);
    expect(y - PIN[i]![1]).toBeCloseTo(-22 / zoom, 1);
  }
  // The picture has the keys, not the button.
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('Shift+ArrowUp');
  await expect.poll(async () => (await pin())[3][0] - moved[3][0]).toBeCloseTo(1, 6);
  expect((await pin())[3][1] - moved[3][1]).toBeCloseTo(-0.1, 6);
  const before = await pin();
  await page.keyboard.press('PageUp');
  await expect.poll(async () => farthest(await pin(), before)).toBeCloseTo(1, 2);
  expect(Math.abs(signedArea(await pin()))).toBeGreaterThan(Math.abs(signedArea(before)));
  const larger = await pin();
  await page.keyboard.press('Alt+PageDown');
  await expect.poll(async () => farthest(await pin(), larger)).toBeCloseTo(1, 2);
  expect(signedArea(await pin())).toBeCloseTo(signedArea(larger), 3);
  const still = await pin();
  // The knob goes twice as far from the middle: twice as large.
  const [mx, my] = await centre('whole-pin-move');
  const [kx, ky] = await centre('whole-pin-turn');
  await drag(page, [kx, ky], 0.5 * (kx - mx), 0.5 * (ky - my));
  await expect.poll(async () => signedArea(await pin()) / signedArea(still)).toBeCloseTo(2.25, 1);
  await page.keyboard.press('Escape');
  await expect(page.getByTestId('whole-pin-handles')).toHaveCount(0);
  await page.keyboard.press('5');
  await expect(page.getByTestId('whole-pin-handles')).toBeVisible();
  await page.keyboard.press('1');
  await expect(page.getByTestId('whole-pin-handles')).toHaveCount(0);
  await world.server.request('DELETE', `/screens/${id}`);
});

test('frame after frame is placed by hand with a key and a drag each, forwards and backwards', async ({
  page,
  world,
}) => {
  const id = await open(page, world, 'frame by frame');
  const zoom = Number(await page.getByTestId('picture').getAttribute('data-zoom'));
  const dragWhole = async (dx: number): Promise<void> => {
    const box = (await page.getByTestId('whole-pin-move').boundingBox())!;
    await drag(page, [box.x + box.width / 2, box.y + box.height / 2], dx, 0);
  };
  await page.keyboard.press('k');
  await expect(page.getByTestId('whole-pin-handles')).toHaveCount(0);
  for (const [step, dx] of [
    ['ArrowRight', 20],
    ['ArrowLeft', -20],
  ] as const) {
    await page.getByRole('button', { name: 'Go there' }).click();
    await page.keyboard.press('Escape');
    await page.keyboard.press(step);
    for (let n = 0; n < 3; n++) {
      await page.keyboard.press('k');
      await dragWhole(dx);
    }
  }
  await isSaved(page);
  const { hand } = await saved(world, id);
  expect(hand!.map((k) => k.frame)).toEqual([5, 6, 7, 9, 10, 11]);
  // Each begins where the nearest one that is known was left.
  for (const k of hand!) expect(k.corners[0]![0]! - PIN[0][0]).toBeCloseTo(((k.frame - 8) * 20) / zoom, 0);
  await world.server.request('DELETE', `/screens/${id}`);
});
