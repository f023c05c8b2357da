/** The picture alone in a second window, in step with the first. */
import { expect, settled, test } from './fixture';

test('a second window shows the picture alone, frame by frame and playing as the first one does', async ({
  page,
  world,
}) => {
  const { server, ids } = world;
  await page.goto(`${server.url}/shots/${ids.shot}/plate`);
  await settled(page, 0);
  await page.keyboard.press('ArrowRight');
  const opens = page.waitForEvent('popup');
  await page.keyboard.press('Shift+H');
  const second = await opens;
  await settled(second, 1);
  // Nothing but the picture; what the first one goes to and looks at it with is seen here too.
  await expect(second.getByRole('navigation')).toHaveCount(0);
  await expect(second.getByTestId('lane')).toHaveCount(0);
  await expect(second.getByRole('button').filter({ visible: true })).toHaveCount(0);
  await page.keyboard.press('End');
  await settled(second, 23);
  await page.keyboard.press('Alt+3');
  await expect(second).toHaveURL(/\/pin\?second/);
  await page.keyboard.press('Home');
  await settled(second, 0);
  await page.keyboard.press('Space');
  const frame = async (): Promise<number> => Number(await second.getByTestId('picture').getAttribute('data-frame'));
  await expect.poll(frame).toBeGreaterThan(3);
  await page.keyboard.press('Space');
  await settled(page, Number(await page.getByTestId('lane').getAttribute('aria-valuenow')));
  const stopped = Number(await page.getByTestId('lane').getAttribute('aria-valuenow'));
  await settled(second, stopped);
  // By the mouse it is the same window, which comes to the front as it is.
  await second.evaluate(() => document.body.setAttribute('data-still', 'here'));
  await page.getByTestId('second-window').click();
  await page.keyboard.press('Home');
  await settled(second, 0);
  await expect(second.locator('body')).toHaveAttribute('data-still', 'here');
  expect(page.context().pages()).toHaveLength(2);
  // A person closes it; another one opens after that.
  await second.close();
  const again = page.waitForEvent('popup');
  await page.getByTestId('second-window').click();
  const third = await again;
  await settled(third, 0);
  await third.close();
});
