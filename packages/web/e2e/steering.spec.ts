import { PIN, truthAt } from '../../server/test/builders/plate';
import { mapQuad } from '../../core/src/geometry/quad';
import { expect, isSaved, onPicture, settled, test } from './fixture';
import { drag, drawIgnored, followAll, isFollowed, open, saved } from './steering';

test('the screen is followed both ways, its cells are shown, dropped after a frame, and followed on from there', async ({
  page,
  world,
}) => {
  const id = await open(page, world, 'steered');
  await followAll(page);
  await page.keyboard.press('Home');
  for (let i = 0; i < 14; i++) await page.keyboard.press('ArrowRight');
  await settled(page, 14);
  await expect(page.getByTestId('resting')).toContainText('picture');
  await expect.poll(async () => Number(await page.getByTestId('seen').getAttribute('data-count'))).toBeGreaterThan(20);
  await page.keyboard.press('t');
  await expect(page.getByTestId('seen')).toHaveAttribute('data-count', '0');
  await page.keyboard.press('t');
  await page.getByText('From this frame, and a part again').click();
  await page.getByTestId('cut-after').click();
  await expect(page.getByTestId('summary')).toContainText('15 of 24 followed');
  await page.getByTestId('follow-from-on').click();
  await isFollowed(page);
  await world.server.request('DELETE', `/screens/${id}`);
});

test('a pin is placed by hand on one frame, dragged there alone, and undone', async ({ page, world }) => {
  const id = await open(page, world, 'by hand');
  for (let i = 0; i < 4; i++) await page.keyboard.press('ArrowRight');
  await settled(page, 12);
  await page.getByTestId('hand-here').click();
  await expect(page.getByTestId('hand-drop')).toBeVisible();
  const zoom = Number(await page.getByTestId('picture').getAttribute('data-zoom'));
  const grip = await page
    .getByTestId('corner-BR')
    .boundingBox()
    .then((b) => [b!.x + b!.width / 2, b!.y + b!.height / 2] as const);
  await drag(page, grip, 18, -9);
  await isSaved(page);
  const { hand } = await saved(world, id);
  expect(hand).toHaveLength(1);
  expect(hand![0]!.frame).toBe(12);
  expect(hand![0]!.corners[2]![0]! - PIN[2][0]).toBeCloseTo(18 / zoom, 0);
  expect((await saved(world, id)).pin![2]![0]).toBe(PIN[2][0]);
  await page.getByTestId('presence-to').click();
  await expect(page.getByText('0 to 12')).toBeVisible();
  for (let i = 0; i < 3; i++) await page.getByTestId('undo').click();
  await expect(page.getByTestId('hand-drop')).toHaveCount(0);
  await isSaved(page);
  expect((await saved(world, id)).hand ?? []).toHaveLength(0);
  await world.server.request('DELETE', `/screens/${id}`);
});

test('an outline is curved, and reshaped from a frame on by dragging it there', async ({ page, world }) => {
  const id = await open(page, world, 'outlined');
  await drawIgnored(page);
  await page.getByTestId('patch-row-0').getByRole('checkbox').check();
  await followAll(page);
  await page.keyboard.press('End');
  await settled(page, 23);
  const knob = page.locator('[data-test="picture"] rect.knob').nth(1);
  const box = (await knob.boundingBox())!;
  await drag(page, [box.x + 4, box.y + 4], 24, 0);
  await isSaved(page);
  const { patches: own, sections } = await saved(world, id);
  expect(own![0]!.keys).toBeUndefined();
  expect(sections).toMatchObject([{ from: 23, to: 23 }]);
  const [patch] = sections![0]!.patches!;
  expect(patch).toMatchObject({ smooth: true, keys: [{ frame: 23 }] });
  expect(patch!.keys![0]!.points[1]![0]! - patch!.points[1]![0]!).toBeGreaterThan(10);
  expect(patch!.keys![0]!.points[0]![0]).toBeCloseTo(patch!.points[0]![0]!, 6);
  await world.server.request('DELETE', `/screens/${id}`);
});

test('four spots at the corners make a whole pin, and one is placed by hand with the next frame coming up', async ({
  page,
  world,
}) => {
  const id = await open(page, world, 'spotted');
  await page.getByTestId('four-spots').click();
  await page.getByTestId('add-spot').click();
  await page.mouse.click(...(await onPicture(page, 300, 190)));
  await expect(page.getByTestId('spot-4')).toContainText('spot 5');
  await isSaved(page);
  expect((await saved(world, id)).spots!.map((s) => s.corner)).toEqual([0, 1, 2, 3, undefined]);
  await page.getByTestId('follow-forwards').click();
  await expect(page.getByTestId('summary')).toContainText('16 of 24 followed', { timeout: 40_000 });
  await expect(page.getByTestId('resting')).toContainText('100 % spots');
  const row = (
    await world.server.request<{ frames: { frame: number; corners: number[][] }[] }>('GET', `/screens/${id}/track`)
  ).body.frames.find((f) => f.frame === 10)!;
  mapQuad(truthAt(10), PIN).forEach((p, i) =>
    expect(Math.hypot(p[0] - row.corners[i]![0]!, p[1] - row.corners[i]![1]!)).toBeLessThan(1),
  );
  await page.keyboard.press('Home');
  for (let i = 0; i < 10; i++) await page.keyboard.press('ArrowRight');
  await settled(page, 10);
  const mark = (await page.getByTestId('spot-mark-4').boundingBox())!;
  await drag(page, [mark.x + mark.width / 2, mark.y + mark.height / 2], 12, 6);
  await expect(page.getByTestId('frame')).toHaveText('11');
  await isSaved(page);
  expect((await saved(world, id)).spots![4]!.keys).toMatchObject([{ frame: 10 }]);
  await expect(page.getByTestId('spot-on')).toBeDisabled();
  await page.keyboard.press('ArrowLeft');
  await page.getByTestId('spot-on').click();
  await expect(page.getByTestId('spot-path')).toContainText('Followed alone on 13 frames, 11 to 23', {
    timeout: 20_000,
  });
  await expect(page.getByTestId('spot-way')).toBeVisible();
  for (let i = 0; i < 8; i++) await page.keyboard.press('ArrowLeft');
  await page.getByTestId('spot-cut-after').click();
  await expect(page.getByTestId('spot-path')).toContainText('11 to 15');
  await page.keyboard.press('Control+z');
  await expect(page.getByTestId('spot-path')).toContainText('11 to 23');
  await isSaved(page);
  expect((await saved(world, id)).spots![4]!.path).toHaveLength(13);
  // The same backwards, where the next frame that comes up is the one before.
  await page.keyboard.press('Home');
  for (let i = 0; i < 8; i++) await page.keyboard.press('ArrowRight');
  await settled(page, 8);
  await page.getByTestId('spot-back').click();
  await expect(page.getByTestId('spot-path')).toContainText('Followed alone on 21 frames, 0 to 23', {
    timeout: 20_000,
  });
  for (let i = 0; i < 6; i++) await page.keyboard.press('ArrowRight');
  await settled(page, 6);
  const there = (await page.getByTestId('spot-mark-4').boundingBox())!;
  await drag(page, [there.x + there.width / 2, there.y + there.height / 2], 10, 5);
  await expect(page.getByTestId('frame')).toHaveText('5');
  await world.server.request('DELETE', `/screens/${id}`);
});

test('a lens is typed and goes back to being found; what is read and how brightness may change are chosen', async ({
  page,
  world,
}) => {
  const id = await open(page, world, 'wide');
  await page.getByText('How it is followed').click();
  await page.getByTestId('lens').fill('-0.06');
  await page.getByTestId('lens').press('Tab');
  await isSaved(page);
  expect((await saved(world, id)).lens).toBe(-0.06);
  await page.getByTestId('lens').fill('');
  await page.getByTestId('lens').press('Tab');
  await isSaved(page);
  expect((await saved(world, id)).lens).toBe('auto');
  await page.getByTestId('reading').selectOption('green');
  await page.getByTestId('levels').selectOption('screen');
  await isSaved(page);
  expect(await saved(world, id)).toMatchObject({ reading: 'green', levels: 'screen' });
  await page.getByTestId('follow-forwards').click();
  await expect(page.getByTestId('summary')).toContainText('16 of 24 followed', { timeout: 40_000 });
  // After following, a lens moves what is there, and asks for no run.
  const cornersNow = async (): Promise<unknown> =>
    (await world.server.request<{ frames: { corners: unknown }[] }>('GET', `/screens/${id}/track`)).body.frames.at(-1)!
      .corners;
  const before = await cornersNow();
  await page.getByTestId('reach').selectOption('shot');
  await page.getByTestId('lens').fill('-0.06');
  await page.getByTestId('lens').press('Tab');
  await isSaved(page);
  await expect(page.getByTestId('outdated')).toBeHidden();
  await expect(page.getByTestId('summary')).toContainText('16 of 24 followed');
  expect(await cornersNow()).not.toEqual(before);
  // Another reading from a frame on is followed there again.
  await page.getByTestId('reach').selectOption('on');
  for (let i = 0; i < 3; i++) await page.keyboard.press('ArrowLeft');
  await settled(page, 20);
  await page.getByTestId('reading').selectOption('red');
  await expect(page.getByTestId('outdated')).toContainText('20 to 23');
  await page.getByTestId('follow-forwards').click();
  await expect(page.getByTestId('outdated')).toBeHidden({ timeout: 40_000 });
  expect((await saved(world, id)).sections).toEqual([{ from: 20, to: 23, reading: 'red' }]);
  await world.server.request('DELETE', `/screens/${id}`);
});
