import { chromium, type Browser } from 'playwright-core';

/** Debian's Chromium, headless, without a word to any network but ours. */
export const openBrowser = (): Promise<Browser> =>
  chromium.launch({
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
