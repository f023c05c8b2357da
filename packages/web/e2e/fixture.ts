/** Every browser test works on a server of its own that ends with the file. */
import { test as base, expect } from '@playwright/test';
import type { BrowserContext, Page } from '@playwright/test';
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { plateBytes, recipe } from '../../server/test/builders/plate';
import { TestServer } from '../../server/test/builders/server';

export interface World {
  readonly server: TestServer;
  readonly folder: string;
  /** a shot that is read in, with a Screen whose pin is the truth */
  readonly ids: { production: number; shot: number; hash: string; screen: number };
}

/** Parts of the bench in Dress that are folded to a line until somebody opens them. */
const FOLDED = [
  'Levels',
  'Softness and motion',
  'Edge',
  'Bend',
  'Light on the glass',
  'Added light',
  'Holdouts',
  'Retouching',
  'Light of the old screen',
  'Grain and display',
  'Blend',
  'Scopes',
];

/** A browser that was never here before, as far as the application can tell. */
async function forgetVisit(page: Page, origin: string): Promise<void> {
  const session = await page.context().newCDPSession(page);
  await session.send('Storage.clearDataForOrigin', { origin, storageTypes: 'all' });
  await session.detach();
}

interface OfWorker {
  readonly world: World;
  /** one for all tests: what the server sends of the application itself is fetched once, and the rest is forgotten */
  readonly visitor: BrowserContext;
}

export const test = base.extend<{ partsOpen: boolean }, OfWorker>({
  /** as somebody has it who opened every part of the bench once; false as it comes */
  partsOpen: [true, { option: true }],
  visitor: [
    async ({ browser }, use) => {
      const visitor = await browser.newContext({ viewport: { width: 1280, height: 720 } });
      await use(visitor);
      await visitor.close();
    },
    { scope: 'worker' },
  ],
  context: async ({ visitor }, use) => use(visitor),
  page: async ({ visitor, world, partsOpen }, use) => {
    const page = await visitor.newPage();
    await forgetVisit(page, world.server.url);
    const open = JSON.stringify(Object.fromEntries(FOLDED.map((title) => [title, true])));
    const keep = (all: string): void => void (localStorage['yarlop.parts'] ??= all);
    if (partsOpen) await page.addInitScript(keep, open);
    await use(page);
    await visitor.clearPermissions();
    await Promise.all(visitor.pages().map((p) => p.close()));
  },
  world: [
    async ({}, use) => {
      const server = await TestServer.create();
      const folder = await mkdtemp(join(tmpdir(), 'yarlop-e2e-'));
      const bytes = await plateBytes();
      await writeFile(join(folder, 'quay.mp4'), bytes);
      const made = await server.shot(bytes);
      const screen = await server.request<{ id: number }>('POST', `/shots/${made.shot}/screens`, recipe);
      await use({ server, folder, ids: { ...made, screen: screen.body.id } });
      await server.dispose();
      await rm(folder, { recursive: true, force: true });
    },
    { scope: 'worker', timeout: 90_000 },
  ],
});
export { expect } from '@playwright/test';

/** What was changed has reached the server. */
export async function isSaved(page: Page): Promise<void> {
  await expect(page.getByTestId('save-state')).toHaveText('Saved');
}

/**
 * For polls of a picture that blinks. Polls slow down to one a second by themselves, which is the time of two blinks:
 * every one of them would see the same picture of the two.
 */
export const WHILE_IT_BLINKS = { intervals: [170] };

/** CSS position of a plate position in the picture. */
export async function onPicture(page: Page, x: number, y: number): Promise<[number, number]> {
  const picture = page.getByTestId('picture');
  const box = (await picture.boundingBox())!;
  const [zoom, left, top] = await Promise.all(
    ['data-zoom', 'data-left', 'data-top'].map(async (a) => Number(await picture.getAttribute(a))),
  );
  return [box.x + left! + x * zoom!, box.y + top! + y * zoom!];
}

/** What was changed is on the page: the frame after the next was drawn. */
export async function painted(page: Page): Promise<void> {
  await page.evaluate(() => new Promise((drawn) => requestAnimationFrame(() => requestAnimationFrame(drawn))));
}

export async function settled(page: Page, frame: number): Promise<void> {
  await page.locator(`[data-test="picture"][data-frame="${frame}"][data-lossless="true"]`).waitFor();
}

/** Where a handle is on the page. */
export async function middleOf(page: Page, name: string): Promise<[number, number]> {
  const box = (await page.getByTestId(name).boundingBox())!;
  return [box.x + box.width / 2, box.y + box.height / 2];
}

/** Drags from a place of the page by CSS px, in steps as a hand does. */
export async function drag(
  page: Page,
  [x, y]: readonly [number, number],
  dx: number,
  dy: number,
  key?: string,
): Promise<void> {
  await page.mouse.move(x, y);
  await page.mouse.down();
  if (key) await page.keyboard.down(key);
  for (const share of [0.3, 0.7, 1]) {
    await page.mouse.move(x + share * dx, y + share * dy);
    // What is drawn once a frame hears one place a frame.
    await painted(page);
  }
  await page.mouse.up();
  if (key) await page.keyboard.up(key);
}

/** What the footer tells of a pixel of the picture as it is shown. */
export async function shown(page: Page, x: number, y: number): Promise<number[]> {
  const at = await onPicture(page, x, y);
  await page.mouse.move(at[0] + 3, at[1]);
  await page.mouse.move(...at);
  return /R (\d+) G (\d+) B (\d+)/
    .exec((await page.getByTestId('readout').textContent())!)!
    .slice(1)
    .map(Number);
}
