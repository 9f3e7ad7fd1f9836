import { chromium, type Browser } from 'playwright-core';

/** How long what is waited for may take: a machine that does much else is slow, and that is no failure. */
const patienceMs = 90_000;

/** Debian's Chromium, headless, without a word to any network but ours. */
export async function openBrowser(): Promise<Browser> {
  const browser = await chromium.launch({
    executablePath: process.env['CHROMIUM'] ?? '/usr/bin/chromium',
    args: [
      '--headless',
      '--no-sandbox',
      '--disable-gpu',
      '--disable-quic',
      '--no-first-run',
      '--disable-background-networking',
      '--disable-component-update',
      '--disable-sync'
    ]
  });
  const newContext = browser.newContext.bind(browser);
  browser.newContext = async (options) => {
    const context = await newContext(options);
    context.setDefaultTimeout(patienceMs);
    return context;
  };
  return browser;
}
