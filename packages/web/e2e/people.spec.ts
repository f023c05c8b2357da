/** An installation with accounts, from the first administrator to somebody who is shut out while they work. */
import type { Page } from '@playwright/test';
import { plateBytes, recipe } from '../../server/test/builders/plate';
import { TestServer } from '../../server/test/builders/server';
import { isSound } from './sound';
import { expect, isSaved, settled, test } from './fixture';

type Quad = readonly (readonly [number, number])[];
const ADA = { name: 'Ada Quill', password: 'barnacle-lantern-9' };
const ODILE = { name: 'Odile Brack', password: 'slack-water-at-ten' };

/** A password, typed twice where one is chosen. */
async function choose(page: Page, password: string): Promise<void> {
  await page.getByLabel('Password', { exact: true }).fill(password);
  await page.getByLabel('once more').fill(password);
}

async function signIn(page: Page, { name, password }: typeof ADA): Promise<void> {
  await page.getByLabel('Name').fill(name);
  await page.getByLabel('Password').fill(password);
  await page.keyboard.press('Enter');
}

test('the first one comes in by the link of the terminal, invites another, and shuts them out', async ({ browser }) => {
  const server = await TestServer.create({ YARLOP_STUDIO: '1' });
  const [hers, theirs] = [await browser.newContext(), await browser.newContext()];
  const page = await hers.newPage();
  const other = await theirs.newPage();
  try {
    // A stranger is asked for a name, wherever they go.
    await page.goto(`${server.url}/space`);
    await expect(page.getByRole('heading', { name: 'Sign in' })).toBeVisible();
    await expect(page.getByTestId('server-gone')).toBeHidden();
    await isSound(page, 'sign in');
    const token = server.firstLink!;
    await page.goto(`${server.url}/join#${token}`);
    await page.getByLabel('Your name').fill(ADA.name);
    await isSound(page, 'join');
    await choose(page, 'short');
    await expect(page.getByRole('button', { name: 'Begin' })).toBeDisabled();
    await choose(page, ADA.password);
    await page.getByRole('button', { name: 'Begin' }).click();
    await expect(page.getByTestId('who')).toHaveText(ADA.name);

    await page.getByTestId('settings').click();
    await page.getByTestId('people-link').click();
    await page.getByLabel('Invite somebody').fill('Odile');
    await page.getByRole('button', { name: 'Make a link' }).click();
    await isSound(page, 'people');
    const address = (await page.getByTestId('link-address').textContent())!;
    await other.goto(address);
    await expect(other.getByLabel('Your name')).toHaveValue('Odile');
    await other.getByLabel('Your name').fill(ODILE.name);
    await choose(other, ODILE.password);
    await other.keyboard.press('Enter');
    await expect(other.getByTestId('who')).toHaveText(ODILE.name);
    // The link has served.
    await other.goto(address);
    await other.reload();
    await expect(other.getByTestId('join-problem')).toContainText('This link was used');

    // By keyboard, to where they wanted to go; a wrong password is told.
    await other.goto(`${server.url}/settings`);
    await other.getByTestId('sign-out').press('Enter');
    await other.goto(`${server.url}/space`);
    await expect(other.getByLabel('Name')).toBeFocused();
    await other.keyboard.type(ODILE.name);
    await other.keyboard.press('Tab');
    await other.keyboard.type('not that one');
    await other.keyboard.press('Enter');
    await expect(other.getByTestId('sign-in-problem')).toContainText('wrong');
    await other.getByLabel('Password').fill(ODILE.password);
    await other.keyboard.press('Enter');
    await expect(other).toHaveURL(`${server.url}/space`);
    // Not an administrator.
    await other.goto(`${server.url}/settings/people`);
    await expect(other.getByTestId('people-problem')).toContainText('Only an administrator');

    await page.reload();
    await page.getByTestId(`person-${ODILE.name}`).getByRole('button', { name: 'Shut out' }).click();
    await expect(page.getByTestId(`person-${ODILE.name}`)).toContainText('shut out');
    await other.goto(`${server.url}/`);
    await expect(other.getByRole('heading', { name: 'Sign in' })).toBeVisible();
  } finally {
    await Promise.all([hers.close(), theirs.close()]);
    await server.dispose();
  }
});

test('an edit of somebody who was signed out meanwhile is saved once they have signed in again', async ({
  browser,
}) => {
  const server = await TestServer.create();
  const made = await server.shot(await plateBytes());
  const { body } = await server.request<{ id: number }>('POST', `/shots/${made.shot}/screens`, recipe);
  // The same data, now with accounts.
  await server.kill('SIGTERM');
  await server.start({ YARLOP_STUDIO: '1' });
  const token = server.firstLink!;
  const cookie = await server.signedIn('/invitations', { token, ...ADA });
  const visitor = await browser.newContext();
  const page = await visitor.newPage();
  try {
    await page.goto(`${server.url}/shots/${made.shot}/pin`);
    await signIn(page, ADA);
    await page.getByTestId(`chip-${body.id}`).click();
    await settled(page, 0);
    await server.request('POST', '/sign-out/everywhere', undefined, cookie);
    await page.getByTestId('TR-y').fill('121');
    await page.getByTestId('TR-y').press('Tab');
    await expect(page.getByTestId('signed-out')).toBeVisible();
    await page.getByRole('link', { name: 'sign in again' }).click();
    await signIn(page, ADA);
    await settled(page, 0);
    await isSaved(page);
    const again = await server.signedIn('/sign-in', ADA);
    const saved = await server.request<{ recipe: { pin: Quad } }>('GET', `/screens/${body.id}`, undefined, again);
    expect(saved.body.recipe.pin[1]![1]).toBe(121);
  } finally {
    await visitor.close();
    await server.dispose();
  }
});
