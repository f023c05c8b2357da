/** What assistive programs would stumble over on a page as it stands, in both themes, by axe. */
import AxeBuilder from '@axe-core/playwright';
import type { Page } from '@playwright/test';
import { expect, painted } from './fixture';

/** @param name of the page, in what a fault is told by */
export async function isSound(page: Page, name: string): Promise<void> {
  for (const theme of ['dark', 'light']) {
    // As another tab would change it.
    await page.evaluate((newValue) => {
      localStorage.setItem('yarlop.theme', newValue);
      const { localStorage: storageArea } = window;
      window.dispatchEvent(new StorageEvent('storage', { key: 'yarlop.theme', newValue, storageArea }));
    }, theme);
    await expect(page.locator('html')).toHaveAttribute('data-bs-theme', theme);
    await painted(page);
    // The themes differ in colours alone.
    const axe = new AxeBuilder({ page });
    const { violations } = await (theme === 'dark' ? axe : axe.withRules(['color-contrast'])).analyze();
    expect(
      violations
        .filter((v) => v.impact === 'serious' || v.impact === 'critical')
        .map((v) => `${name} ${theme}: ${v.id} ${v.nodes.map((n) => n.html.slice(0, 90)).join(' | ')}`),
    ).toEqual([]);
  }
}
