/** Pages beside the shots: what was delivered in a production, and what is set for the browser. */
import { expect, settled, test } from './fixture';
import { plateBytes, recipe } from '../../server/test/builders/plate';

test('deliveries of all shots are listed, searched, made again where they are outdated, and put in the bin', async ({
  page,
  world,
}) => {
  const { server } = world;
  const { production, shot } = await server.shot(await plateBytes(12));
  const own = { ...recipe, evidence: ['texture'] };
  const screen = (await server.request<{ id: number }>('POST', `/shots/${shot}/screens`, own)).body.id;
  await server.request('POST', `/screens/${screen}/follow`, { from: 6, to: 10 });
  await server.until(
    async () =>
      (await server.request<{ frames: unknown[] }>('GET', `/screens/${screen}/track`)).body.frames.length === 5,
  );
  await page.goto(`${server.url}/productions/${production}`);
  await page.getByTestId('all-deliveries').click();
  await expect(page.getByText('Nothing was delivered yet.')).toBeVisible();
  for (const as of ['json', 'csv'])
    expect(await server.request('POST', `/shots/${shot}/deliveries`, { as })).toMatchObject({ status: 201 });
  const rows = page.getByTestId('all-of-production').locator('tbody tr');
  await expect(rows).toHaveCount(2);
  await expect(rows.filter({ hasText: 'up to date' })).toHaveCount(2);
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    rows.getByRole('link', { name: /\.json/ }).click(),
  ]);
  expect(download.suggestedFilename()).toMatch(/\.json$/);

  // A change of the Screen outdates both; one of them is made again from here.
  const { revision } = (await server.request<{ revision: number }>('GET', `/screens/${screen}`)).body;
  await server.request('PUT', `/screens/${screen}`, { revision, recipe: { ...own, name: 'pier phone' } });
  await page.reload();
  await expect(rows.filter({ hasText: 'outdated' })).toHaveCount(2);
  await page.getByTestId('search-deliveries').fill('CSV table');
  await expect(rows).toHaveCount(1);
  await page.getByTestId('search-deliveries').fill('lighthouse');
  await expect(page.getByText('No delivery is like that.')).toBeVisible();
  await page.getByTestId('search-deliveries').fill('');
  await page.getByTestId('all-again').click();
  await expect(rows.filter({ hasText: 'up to date' })).toHaveCount(2);
  await expect(rows).toHaveCount(4);
  await page.getByTestId('outdated-alone').check();
  await expect(rows).toHaveCount(2);
  await rows.first().getByTestId('to-bin').click();
  await expect(rows).toHaveCount(1);
  await page.getByTestId('take-back').click();
  await expect(rows).toHaveCount(2);
  // The headings sort.
  await page.getByTestId('outdated-alone').uncheck();
  await page.getByRole('columnheader', { name: 'What' }).click();
  await expect(rows.first()).toContainText('Corners: CSV');
  await rows.first().getByRole('link', { name: 'Quay', exact: true }).click();
  await expect(page).toHaveURL(new RegExp(`/shots/${shot}/hand-over`));
});

test('theme, surround and code values are set for every shot, and the keys are listed', async ({ page, world }) => {
  await page.goto(world.server.url);
  await page.getByTestId('settings').click();
  await expect(page.getByTestId('installation')).toContainText(world.server.data);
  await expect(page.getByRole('row', { name: /Zoom to fit/ })).toContainText('Z');
  await page.getByTestId('theme').getByText('Light').click();
  await expect(page.locator('html')).toHaveAttribute('data-bs-theme', 'light');
  await page.getByTestId('surround').getByText('18 % grey').click();
  await page.getByTestId('white').getByText('0 to 1023').click();
  await page.goto(`${world.server.url}/shots/${world.ids.shot}/plate`);
  await settled(page, 0);
  await expect(page.getByRole('button', { name: '18 %' })).toHaveAttribute('aria-pressed', 'true');
  const box = (await page.getByTestId('picture').boundingBox())!;
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  const read = async (): Promise<string> => (await page.getByTestId('readout').textContent())!;
  const value = async (): Promise<number> => Number(/R ([\d.]+)/.exec(await read())![1]);
  const of1023 = await value();
  await page.evaluate(() => localStorage.setItem('yarlop.white', '1'));
  await page.reload();
  await settled(page, 0);
  await page.mouse.move(box.x + box.width / 2 + 0.2, box.y + box.height / 2);
  await expect.poll(read).toMatch(/R 0\.\d{3} G/);
  expect(Math.abs(of1023 / 1023 - (await value()))).toBeLessThan(0.004);
});

test('what the installation does at present is told in numbers and drawn', async ({ page, world }) => {
  await page.goto(`${world.server.url}/settings`);
  await page.getByTestId('what-runs').click();
  await expect(page.getByTestId('running-now')).toContainText('answers');
  const routes = page.getByTestId('running-routes');
  await expect(routes).toContainText('GET /disk');
  await expect
    .poll(async () => Number(await page.getByTestId('running-jobs').getAttribute('data-looks')))
    .toBeGreaterThan(1);
  const chart = page.getByTestId('running-memory').locator('canvas');
  const first = await chart.screenshot();
  await expect.poll(async () => (await chart.screenshot()).equals(first)).toBe(false);
});

test('what programs can ask is shown from the document that they read', async ({ page, world }) => {
  await page.goto(`${world.server.url}/api/docs`);
  await expect(page).toHaveURL(/\/settings\/api$/);
  await page.getByTestId('api-search').fill('reviewnote');
  const route = page.getByTestId('api-postShotsIdReview');
  await route.locator('summary').click();
  await expect(route).toContainText('takes reviewNote');
  await expect(route).toContainText('"maximum": 3');
  await page.getByTestId('api-search').fill('no such thing');
  await expect(page.getByText('No route is like that.')).toBeVisible();
});
