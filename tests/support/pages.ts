import type { Browser, Page } from 'playwright-core';
import type { RunningApp } from './app';

/** A page of a person who has signed in through the form. Anything the browser complains of is collected. */
export async function signedIn(
  browser: Browser,
  { origin }: RunningApp,
  name: string,
  password = 'corallo-demo'
): Promise<{ page: Page; complaints: string[] }> {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
  const page = await context.newPage();
  const complaints: string[] = [];
  page.on('pageerror', (error) => complaints.push(error.message));
  page.on('console', (message) => message.type() === 'error' && complaints.push(message.text()));
  await page.goto(`${origin}/sign-in`);
  await page.getByLabel('Name').fill(name);
  await page.getByLabel('Password').fill(password);
  await page.getByRole('button', { name: 'Sign in' }).click();
  await page.waitForURL(`${origin}/`);
  return { page, complaints };
}
