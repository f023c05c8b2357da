/** What somebody who looks at a shot says of it, on frames and on the picture, and what becomes of that. */
import type { Page } from '@playwright/test';
import { plateBytes, recipe } from '../../server/test/builders/plate';
import { drag, expect, onPicture, settled, test } from './fixture';
import type { World } from './fixture';

interface Review {
  readonly standing: string;
  readonly notes: readonly {
    id: number;
    from: number;
    to: number;
    words: string;
    strokes: number[][];
    state: string;
  }[];
}
/** The world with a shot that no other test has changed. */
async function untouched(world: World): Promise<World> {
  const { server } = world;
  const made = await server.shot(await plateBytes());
  const screen = await server.request<{ id: number }>('POST', `/shots/${made.shot}/screens`, recipe);
  return { ...world, ids: { ...made, screen: screen.body.id } };
}
const told = async ({ server, ids }: World): Promise<Review> =>
  (await server.request<Review>('GET', `/shots/${ids.shot}/review`)).body;

async function open(page: Page, { server, ids }: World): Promise<void> {
  await page.goto(`${server.url}/shots/${ids.shot}/prove`);
  await settled(page, 0);
  await page.getByTestId('picture').focus();
}

test('a note is written on frames and drawn on the picture, worked off, and told wherever the shot is', async ({
  page,
  world: shared,
}) => {
  const world = await untouched(shared);
  await open(page, world);
  for (let i = 0; i < 4; i++) await page.keyboard.press('ArrowRight');
  await page.keyboard.press('9');
  const words = page.getByTestId('draft-words');
  await expect(words).toBeFocused();
  await page.keyboard.type('The lower left corner swims.');
  await page.getByTestId('note-to').fill('7');
  await page.getByTestId('note-to').press('Enter');
  await page.getByTestId('note-about').selectOption({ label: 'quay phone' });
  await page.getByTestId('note-about').selectOption({ label: 'quay phone, BL' });
  await page.getByTestId('note-draw').click();
  const from = await onPicture(page, 160, 230);
  await drag(page, from, 50, 30);
  await expect(page.getByTestId('note-strokes')).toHaveText('1 stroke');
  await drag(page, from, -20, 40);
  await page.getByTestId('note-unstroke').click();
  await expect(page.getByTestId('note-draw')).toHaveAttribute('aria-pressed', 'true');
  await page.keyboard.press('Escape');
  await expect(page.getByTestId('note-draw')).toHaveAttribute('aria-pressed', 'false');
  // What is not sent yet outlives the page.
  await page.reload();
  await settled(page, 0);
  await page.getByTestId('notes-open').click();
  await expect(words).toHaveValue('The lower left corner swims.');
  await expect(page.getByTestId('note-send')).toBeDisabled();
  await page.getByTestId('note-author').fill('Ada Quill');
  await words.press('Control+Enter');
  await expect(page.getByTestId('note-draft')).toHaveCount(0);
  const [note] = (await told(world)).notes;
  expect(note).toMatchObject({ from: 4, to: 7, words: 'The lower left corner swims.', state: 'open' });
  expect(note!.strokes).toHaveLength(1);
  expect(note!.strokes[0]!.slice(0, 2).map(Math.round)).toEqual([160, 230]);

  // Its strokes are seen on its frames alone, and the card leads to what it is about.
  const strokes = page.getByTestId('note-strokes-shown');
  await expect(strokes).toHaveAttribute('data-count', '0');
  await expect(page.getByTestId('notes-open')).toContainText('1');
  await page.getByTestId('note-go').click();
  await settled(page, 4);
  await expect(strokes).toHaveAttribute('data-count', '1');
  await page.getByTestId('standing').selectOption('once more');
  await expect.poll(async () => (await told(world)).standing).toBe('once more');

  await page.goto(`${world.server.url}/productions/${world.ids.production}`);
  await expect(page.getByTestId(`said-${world.ids.shot}`)).toHaveText(/once more\s*,\s*1 open note/);
  await page.goto(world.server.url);
  await expect(page.getByText('looked at: once more, 1 open note')).toBeVisible();
  await page.goto(`${world.server.url}/shots/${world.ids.shot}/report`);
  await expect(page.getByTestId('report-notes')).toContainText('quay phone, BL');
  await page.goto(`${world.server.url}/productions/${world.ids.production}/notes`);
  await page.getByTestId('notes-search').fill('nobody');
  await expect(page.getByTestId('notes-count')).toHaveText('0 notes');
  await page.getByTestId('notes-search').fill('ada');
  await page.getByTestId('line-state').selectOption('done');
  await expect(page.getByTestId('notes-count')).toHaveText('0 notes');
  await page.getByTestId('notes-state').selectOption('all');
  await page.getByTestId(`line-${note!.id}`).getByRole('link').click();
  await settled(page, 4);
  await expect(page.getByText('No note is open.')).toBeVisible();
});

test('a note of another window appears by itself; one is changed, deleted and taken back', async ({
  page,
  world: shared,
}) => {
  const world = await untouched(shared);
  const { server, ids } = world;
  await open(page, world);
  await page.keyboard.press('8');
  await expect(page.getByTestId('notes')).toBeVisible();
  const said = { from: 2, to: 2, words: '<b>Softer</b> here.', author: 'Bo Reed' };
  const { body } = await server.request<{ id: number }>('POST', `/shots/${ids.shot}/review`, said);
  const card = page.getByTestId(`note-${body.id}`);
  await expect(card).toContainText('<b>Softer</b> here.');
  await expect(page.getByTestId(`note-mark-${body.id}`)).toBeVisible();
  await card.getByTestId('note-change').click();
  await card.getByTestId('note-words').fill('Softer on the left.');
  await card.getByTestId('note-words').press('Control+Enter');
  await expect(card).toContainText('Softer on the left.');
  await card.getByTestId('note-delete').click();
  await expect(card).toHaveCount(0);
  await page.getByTestId('note-take-back').click();
  await expect(page.getByText('Softer on the left.')).toBeVisible();
  const left = (await told(world)).notes.find((n) => n.words === 'Softer on the left.')!;
  await page.getByTestId(`note-${left.id}`).getByTestId('note-state').selectOption('approved');
  await expect(page.getByTestId(`note-${left.id}`)).toHaveCount(0);
  await page.getByTestId('notes-all').check();
  await expect(page.getByTestId(`note-${left.id}`)).toBeVisible();
  await page.getByTestId('notes-close').click();
  await expect(page.getByTestId('notes')).toHaveCount(0);
});
