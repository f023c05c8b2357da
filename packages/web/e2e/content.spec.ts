/** Made-up content: laid out in layers on a page of its own, by mouse and by keyboard, and shown by several Screens. */
import type { Page } from '@playwright/test';
import { filled } from './filled';
import type { World } from './fixture';
import { expect, isSaved, settled, shown, test } from './fixture';

interface Layer {
  readonly kind: string;
  readonly text?: string;
  readonly media?: string;
  readonly x?: number | readonly { readonly frame: number; readonly value: number }[];
  readonly y?: number;
  readonly scale?: number;
  readonly fields?: Readonly<Record<string, string>>;
  readonly key?: { readonly colour: readonly number[] };
}
interface Content {
  readonly id: number;
  readonly name: string;
  readonly revision: number;
  readonly document: { readonly ground: readonly number[]; readonly layers: readonly Layer[] };
}

const content = async ({ server }: World, id: number): Promise<Content> =>
  (await server.request<Content>('GET', `/contents/${id}`)).body;
const fillOf = async ({ server }: World, screen: number): Promise<{ made?: { layers: Layer[] }; media?: string }> =>
  (await server.request<{ recipe: { fill: object } }>('GET', `/screens/${screen}`)).body.recipe.fill;

/** Makes content up in the slot of the Screen at hand. @returns its number */
async function madeUp(page: Page, world: World, shot: number): Promise<number> {
  await page.goto(`${world.server.url}/shots/${shot}/dress`);
  await settled(page, 0);
  await page.getByTestId('make-up').click();
  await page.waitForURL(/\/contents\/\d+/);
  await drawnOn(page, 0);
  return Number(/contents\/(\d+)/.exec(page.url())![1]);
}
const drawnOn = (page: Page, frame: number): Promise<void> =>
  page.locator(`[data-test="content-view"][data-frame="${frame}"]`).waitFor();
const kept = (page: Page): Promise<void> => expect(page.getByTestId('content-state')).toHaveText('Saved');

/** Where a share of the content's width and height lies on the page. */
async function placeOf(page: Page, x: number, y: number): Promise<{ x: number; y: number }> {
  const box = (await page.getByTestId('content-picture').boundingBox())!;
  return { x: box.x + x * box.width, y: box.y + y * box.height };
}
async function drag(page: Page, from: { x: number; y: number }, to: { x: number; y: number }): Promise<void> {
  await page.mouse.move(from.x, from.y);
  await page.mouse.down();
  await page.mouse.move((from.x + to.x) / 2, (from.y + to.y) / 2, { steps: 3 });
  await page.mouse.move(to.x, to.y, { steps: 3 });
  await page.mouse.up();
}
/** Colour of the content's picture at shares of its width and height. */
const colourAt = (page: Page, x: number, y: number): Promise<number[]> =>
  page.getByTestId('content-picture').evaluate(
    (c: HTMLCanvasElement, [u, v]) => [
      ...c
        .getContext('2d')!
        .getImageData(Math.floor(u! * c.width), Math.floor(v! * c.height), 1, 1)
        .data.slice(0, 3),
    ],
    [x, y],
  );

test('content is made up by mouse: words written, a box added, dragged and scaled, taken back, and seen in the shot', async ({
  page,
  world,
}) => {
  const { shot, screen } = await filled(world);
  const id = await madeUp(page, world, shot);
  expect((await fillOf(world, screen)).media).toBeUndefined();
  await page.getByTestId('layer-0').getByRole('button').first().click();
  await page.getByTestId('layer-text').fill('Ebb');
  await page.getByTestId('layer-text').blur();
  await page.getByTestId('add-layer').getByRole('button').click();
  await page.getByTestId('add-box').click();
  await expect.poll(() => colourAt(page, 0.5, 0.5)).toEqual([217, 120, 51]);
  // It is dragged by its middle to the lower left.
  await drag(page, await placeOf(page, 0.5, 0.5), await placeOf(page, 0.3, 0.7));
  await kept(page);
  const [, moved] = (await content(world, id)).document.layers;
  expect(moved!.x as number).toBeCloseTo(0.3, 1);
  expect(moved!.y).toBeCloseTo(0.7, 1);
  await expect.poll(() => colourAt(page, 0.3, 0.7)).toEqual([217, 120, 51]);
  // A corner of its frame is dragged outwards: it grows, and what is opposite stays.
  const corner = (await page.getByTestId('layer-scale-4').boundingBox())!;
  const at = { x: corner.x + corner.width / 2, y: corner.y + corner.height / 2 };
  await drag(page, at, { x: at.x + 60, y: at.y + 40 });
  await kept(page);
  expect((await content(world, id)).document.layers[1]!.scale!).toBeGreaterThan(1.1);
  await page.getByTestId('content-undo').click();
  await page.getByTestId('content-undo').click();
  await kept(page);
  expect((await content(world, id)).document.layers[1]).toMatchObject({ x: 0.5, y: 0.5 });
  await page.getByTestId('content-ground').fill('#0a141e');
  await kept(page);
  await page.getByTestId('content-back').click();
  await settled(page, 0);
  const { made } = await fillOf(world, screen);
  expect(made!.layers.map((l) => l.text ?? l.kind)).toEqual(['Ebb', 'shape']);
  // The box lies in the middle of the Screen, in its own colour.
  await expect.poll(() => shown(page, 310, 190)).toEqual([217, 120, 51]);
});

test('by keyboard: a layer is nudged, keyed over its frames, deleted and brought back', async ({ page, world }) => {
  const { shot } = await filled(world);
  const id = await madeUp(page, world, shot);
  await page.getByTestId('layer-0').getByRole('button').first().press('Enter');
  await page.getByTestId('layer-x-key').press('Enter');
  await page
    .getByTestId('content-view')
    .focus()
    .catch(() => {});
  await page.keyboard.press('Escape');
  for (let i = 0; i < 10; i++) await page.keyboard.press('ArrowRight');
  await drawnOn(page, 10);
  await page.getByTestId('layer-0').getByRole('button').first().press('Enter');
  for (let i = 0; i < 3; i++) await page.keyboard.press('Control+ArrowRight');
  await kept(page);
  const [{ x }] = (await content(world, id)).document.layers as [Layer];
  expect((x as readonly { frame: number }[]).map((k) => k.frame)).toEqual([0, 10]);
  await page.getByTestId('content-key-10').press('Enter');
  await page.getByTestId('content-ease').selectOption('hold');
  // By mouse: the second key is dragged later.
  const mark = (await page.getByTestId('content-key-10').boundingBox())!;
  const from = { x: mark.x + mark.width / 2, y: mark.y + mark.height / 2 };
  await drag(page, from, { x: from.x + 60, y: from.y });
  await kept(page);
  const [later] = (await content(world, id)).document.layers as [Layer];
  const keys = later.x as readonly { readonly frame: number; readonly ease?: string }[];
  expect(keys[1]!.frame).toBeGreaterThan(18);
  expect(keys[1]!.ease).toBe('hold');
  await page.getByTestId('content-undo').click();
  await page.getByTestId('content-key-0').press('Enter');
  await drawnOn(page, 0);
  await page.getByTestId('content-play').focus();
  await page.keyboard.press('Delete');
  await kept(page);
  expect((await content(world, id)).document.layers).toEqual([]);
  await page.keyboard.press('Control+z');
  await kept(page);
  expect((await content(world, id)).document.layers).toHaveLength(1);
});

test('a piece is filled in, a picture is keyed by a colour taken from it, and both play', async ({ page, world }) => {
  const { shot, fill } = await filled(world);
  const id = await madeUp(page, world, shot);
  await page.getByTestId('add-layer').getByRole('button').click();
  await page.getByTestId('add-call').click();
  await page.getByTestId('field-who').fill('Odile Brack');
  await page.getByTestId('field-who').blur();
  await page.getByTestId('add-layer').getByRole('button').click();
  await page.getByTestId('add-picture').click();
  await page.getByTestId('layer-media').selectOption(fill);
  await expect.poll(() => colourAt(page, 0.5, 0.85)).toEqual([230, 200, 60]);
  await page.getByTestId('layer-keyed').check();
  await page.getByTestId('pick-key').click();
  const there = await placeOf(page, 0.5, 0.85);
  await page.mouse.click(there.x, there.y);
  // It is taken when the picture without the key has been made.
  const keyed = async () => {
    const { layers } = (await content(world, id)).document;
    return layers[2]?.key?.colour.map((v) => Math.round(255 * v));
  };
  await expect.poll(keyed).toEqual([230, 200, 60]);
  await kept(page);
  const { layers } = (await content(world, id)).document;
  expect(layers[1]!.fields).toEqual({ who: 'Odile Brack' });
  // The gold is gone: the ground shows.
  await expect.poll(() => colourAt(page, 0.5, 0.95)).toEqual([18, 43, 51]);
  await page.getByTestId('content-play').click();
  await expect.poll(async () => Number(await page.getByTestId('content-now').textContent())).toBeGreaterThan(3);
  await page.getByTestId('content-play').click();
});

test('another Screen shows the same content, and both follow when it is changed', async ({ page, world }) => {
  const { shot, screen } = await filled(world);
  const { body } = await world.server.request<{ recipe: object }>('GET', `/screens/${screen}`);
  const other = (
    await world.server.request<{ id: number }>('POST', `/shots/${shot}/screens`, { ...body.recipe, name: 'beside' })
  ).body.id;
  const id = await madeUp(page, world, shot);
  const { name } = await content(world, id);
  await page.getByTestId('content-back').click();
  await settled(page, 0);
  await page
    .getByTestId(`screen-${other}`)
    .or(page.getByText('beside', { exact: true }))
    .first()
    .click();
  await page.getByTestId(`content-${name}`).click();
  await isSaved(page);
  await page.getByTestId('edit-content').click();
  await expect(page.getByTestId('content-shown')).toContainText('On 2 Screens');
  await page.getByTestId('layer-0').getByRole('button').first().click();
  await page.getByTestId('layer-text').fill('Flood');
  await page.getByTestId('layer-text').blur();
  await kept(page);
  await expect(page.getByTestId('content-shown')).toContainText('as it stood before');
  await page.getByTestId('content-show').click();
  await expect(page.getByTestId('content-shown')).not.toContainText('as it stood before');
  for (const s of [screen, other])
    expect((await fillOf(world, s)).made!.layers[0]).toMatchObject({ kind: 'words', text: 'Flood' });
});

test('content that was saved elsewhere meanwhile is never overwritten: both ways out are offered', async ({
  page,
  world,
}) => {
  const { shot } = await filled(world);
  const id = await madeUp(page, world, shot);
  const now = await content(world, id);
  const theirs = { ...now.document, ground: [1, 0, 0] };
  await world.server.request('PUT', `/contents/${id}`, { revision: now.revision, document: theirs });
  await page.getByTestId('content-ground').fill('#0000ff');
  await expect(page.getByTestId('content-state')).toHaveText('Saved elsewhere');
  expect((await content(world, id)).document.ground).toEqual([1, 0, 0]);
  await page.getByRole('button', { name: 'Keep mine' }).click();
  await kept(page);
  expect((await content(world, id)).document.ground).toEqual([0, 0, 1]);
});

test('the library lists content: it is copied, deleted and brought back, and Screens keep what they show', async ({
  page,
  world,
}) => {
  const { shot, screen } = await filled(world);
  const id = await madeUp(page, world, shot);
  const { name, productionId } = (await content(world, id)) as Content & { readonly productionId: number };
  await page.goto(`${world.server.url}/productions/${productionId}/library`);
  const row = page.getByTestId(`listed-content-${id}`);
  await expect(row).toContainText('on 1 Screen');
  await row.getByRole('button', { name: 'Copy' }).click();
  await expect(page.getByTestId('contents-list')).toContainText(`Copy of ${name}`);
  await row.getByRole('button', { name: 'Delete' }).click();
  await expect(row).toHaveCount(0);
  expect((await fillOf(world, screen)).made!.layers).toHaveLength(1);
  await page.getByTestId('content-bring-back').click();
  await expect(page.getByTestId('contents-list').getByRole('link', { name, exact: true })).toBeVisible();
  // What the Screen shows is no document any more: it is opened as a new one.
  await page.goto(`${world.server.url}/shots/${shot}/dress`);
  await settled(page, 0);
  await page.getByTestId('make-up').click();
  await page.waitForURL(/\/contents\/\d+/);
  await drawnOn(page, 0);
  await expect(page.getByTestId('layer-0')).toContainText('Gale warning');
});
