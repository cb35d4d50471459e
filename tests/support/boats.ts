// Boats of the demo, called at the board's buttons.
import type { Page } from 'playwright-core';
import { expect } from 'vitest';

/** Sends boats up and down until something holds, or for so many of them. */
export async function boats(page: Page, count: number, until: () => Promise<boolean>): Promise<boolean> {
  for (let i = 0; i < count; i++) {
    const boat = i % 2 === 0 ? 'Button B0, upper boat' : 'Button B1, lower boat';
    await page.getByRole('button', { name: boat }).click({ delay: 40 });
    // A boat takes its time on the board's own clock.
    const came = await expect
      .poll(until, { timeout: 250 })
      .toBe(true)
      .then(
        () => true,
        () => false,
      );
    if (came) return true;
  }
  return false;
}
