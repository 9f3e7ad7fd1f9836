import type { Browser, Page } from 'playwright-core';
import { startApp } from '../tests/support/app';
import { openBrowser } from '../tests/support/chromium';
import { signedIn } from '../tests/support/pages';
import { middleOf, refuseErrors, type Measurement } from './measurement';

const rounds = 9;
const goal = 300;

/**
 * Choosing in a picker of the demo's board of machines, with a day of samples, in the real browser and the built application: from the press on a value until every panel
 * has its new answer and is painted.
 */
export async function uiPicker(): Promise<Measurement> {
  const app = await startApp({ accounts: true, days: 1 });
  let browser: Browser | null = null;
  try {
    await app.live(2);
    browser = await openBrowser();
    const { page, complaints } = await signedIn(browser, app, 'nerea');
    await page.addInitScript(countAnswers);
    const address = `${app.origin}/services/machines/board`;
    await page.goto(address);
    await settled(page);
    const chosen: number[] = [];
    const reread: number[] = [];
    for (let round = 0; round < rounds; round++) {
      await page.getByRole('button', { name: /^Region: / }).click();
      const values = page.getByLabel('Find a value of Region').locator('xpath=..').locator('li input');
      await values.first().waitFor();
      await values.nth(round % (await values.count())).evaluate((value: HTMLElement) => {
        Object.assign(globalThis, { answered: 0, began: performance.now() });
        value.click();
      });
      chosen.push(await settled(page));
      await page.keyboard.press('Escape');
      const picked = page.url();
      await page.goto('about:blank');
      await page.goto(picked);
      reread.push(await settled(page));
    }
    refuseErrors(complaints);
    return {
      name: 'ui.picker',
      unit: 'ms until all is painted',
      better: 'lower',
      ours: middleOf(chosen),
      theirs: middleOf(reread),
      alternative: 'the same board read anew with the choice in its address',
      note: `the ready board of machines of the demo, ${rounds} choices of a region; goal ${goal} ms`
    };
  } finally {
    await browser?.close();
    await app.stop();
  }
}

/** Runs in the page: counts what is asked of the API and what is answered. */
const countAnswers = `
  globalThis.began = 0;
  globalThis.answered = globalThis.pending = 0;
  const ask = globalThis.fetch;
  globalThis.fetch = async (...of) => {
    if (!String(of[0]).includes('/api/v1/queries')) return ask(...of);
    pending++;
    try {
      const response = await ask(...of);
      const json = response.json.bind(response);
      response.json = () => json().finally(() => { pending--; answered++; });
      return response;
    } catch (error) {
      pending--;
      throw error;
    }
  };`;

/** Milliseconds from when it began until all that was asked is answered and a frame with it was painted. */
async function settled(page: Page): Promise<number> {
  const handle = await page.waitForFunction(
    () => {
      const { answered, pending, began } = globalThis as never as Record<'answered' | 'pending' | 'began', number>;
      return answered > 0 && pending === 0 && document.querySelector('section.panel canvas') !== null
        ? new Promise((painted) => requestAnimationFrame(() => setTimeout(() => painted(performance.now() - began))))
        : null;
    },
    undefined,
    { polling: 'raf', timeout: 60_000 }
  );
  return Number(await handle.jsonValue());
}
