/** A Screen of its own in the follow stage, what is saved of it, and dragging on the picture. */
import type { Page } from '@playwright/test';
import { recipe } from '../../server/test/builders/plate';
import type { World } from './fixture';
import { expect, onPicture, settled } from './fixture';

interface SavedPatch {
  kind: string;
  points: number[][];
  smooth?: boolean;
  keys?: { frame: number; points: number[][] }[];
}
export interface Saved {
  recipe: {
    pin?: number[][];
    hand?: { frame: number; corners: number[][] }[];
    spots?: { at: number[]; keys?: { frame: number; at: number[] }[]; path?: number[][]; corner?: number }[];
    patches?: SavedPatch[];
    sections?: { from: number; to: number; patches?: SavedPatch[]; motion?: string; over?: object }[];
    presence?: object[];
    evidence?: unknown;
    lens?: unknown;
    reading?: string;
    ignores?: string[];
    levels?: string;
  };
}
export const saved = async ({ server }: World, id: number): Promise<Saved['recipe']> =>
  (await server.request<Saved>('GET', `/screens/${id}`)).body.recipe;

/** Goes to a frame by keys, wherever the playhead is. */
export async function goTo(page: Page, frame: number): Promise<void> {
  await page.keyboard.press('Home');
  for (let i = 0; i < frame; i++) await page.keyboard.press('ArrowRight');
  await settled(page, frame);
}

export async function drag(page: Page, from: readonly [number, number], dx: number, dy: number): Promise<void> {
  await page.mouse.move(...from);
  await page.mouse.down();
  await page.mouse.move(from[0] + dx, from[1] + dy, { steps: 4 });
  await page.mouse.up();
}

/** A Screen of its own in the follow stage, on its reference frame. */
export async function open(page: Page, world: World, name: string): Promise<number> {
  const { server, ids } = world;
  const { body } = await server.request<{ id: number }>('POST', `/shots/${ids.shot}/screens`, { ...recipe, name });
  await page.goto(`${server.url}/shots/${ids.shot}/follow`);
  await page.getByTestId(`chip-${body.id}`).click();
  await page.getByRole('button', { name: 'Go there' }).click();
  await settled(page, 8);
  return body.id;
}

/** ms within which the small plate is followed, on a machine that does other things too. */
const FOLLOWED_MS = 40_000;

/** Every frame of the small plate is followed, and nothing is outdated. */
export async function isFollowed(page: Page): Promise<void> {
  await expect(page.getByTestId('summary')).toHaveText('24 of 24 followed', { timeout: FOLLOWED_MS });
}

/** Follows both ways, to the end. */
export async function followAll(page: Page): Promise<void> {
  await page.getByTestId('follow-both').click();
  await isFollowed(page);
}

/** Draws an ignore patch in the middle of the Screen, point by point. */
export async function drawIgnored(page: Page): Promise<void> {
  await page.getByTestId('draw-ignore').click();
  const points = [[240, 150], [300, 150], [300, 200], [240, 200]] as const; // prettier-ignore
  for (const [x, y] of points) await page.mouse.click(...(await onPicture(page, x, y)));
  await page.keyboard.press('Enter');
}
