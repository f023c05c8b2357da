import { join } from 'node:path';
import sharp from 'sharp';
import { expect, settled, test } from './fixture';

test('the tour leads a newcomer from the plate to a delivery of their own, and does not come back', async ({
  page,
  world,
}) => {
  const { server, ids } = world;
  await server.request('POST', `/screens/${ids.screen}/follow`, { from: 0, to: 23 });
  await page.goto(`${server.url}/shots/${ids.shot}/plate`);
  await settled(page, 0);
  const tour = page.getByTestId('tour');
  await page.getByTestId('tour-start').click();
  await expect(tour).toContainText('1/6 Look at the plate');
  await page.getByTestId('play').click();
  await expect(tour).toContainText('Set the pin to the pixel', { timeout: 20_000 });
  await page.getByTestId('tour-go').click();
  await page.getByTestId('arm-TL').click();
  await expect(tour).toContainText('Prove that it holds');
  await page.getByTestId('tour-go').click();
  await page.getByTestId('measure-slip').click();
  await expect(tour).toContainText('Put the content in', { timeout: 30_000 });
  await page.getByTestId('tour-go').click();
  await page.getByRole('button', { name: 'Bring in', exact: true }).click();
  const fill = join(world.folder, 'tide.png');
  const chooser = page.waitForEvent('filechooser');
  await sharp({ create: { width: 64, height: 40, channels: 3, background: { r: 20, g: 90, b: 120 } } })
    .png()
    .toFile(fill);
  await page.getByTestId('choose-files').click();
  await (await chooser).setFiles(fill);
  await expect(tour).toContainText('Hand it over', { timeout: 15_000 });
  await page.reload();
  await page.getByTestId('tour-go').click();
  await page.getByTestId('deliver-data').click();
  await expect(tour).toContainText('Delivered', { timeout: 15_000 });
  await page.getByTestId('tour-end').click();
  await page.reload();
  await settled(page, 0);
  await expect(tour).toHaveCount(0);
});
