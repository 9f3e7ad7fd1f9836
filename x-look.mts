import { chromium } from 'playwright-core';
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox','--disable-gpu'] });
const [,, night, ...paths] = process.argv;
const ctx = await browser.newContext({ viewport: { width: 1280, height: 800 }, colorScheme: night === 'night' ? 'dark' : 'light' });
const page = await ctx.newPage();
page.on('pageerror', (e) => console.log('ERR', e.message));
await page.goto('http://localhost:4400/sign-in');
await page.screenshot({ path: '/tmp/looks/sign-in.png' });
await page.getByLabel('Name').fill('kaja'); await page.getByLabel('Password').fill('corallo-demo');
await page.getByRole('button', { name: 'Sign in', exact: true }).click();
await page.waitForURL('http://localhost:4400/');
for (const p of paths) { await page.goto('http://localhost:4400' + p); await page.waitForTimeout(1500); await page.screenshot({ path: `/tmp/looks/${p.replaceAll('/', '_')}-${night}.png` }); }
await browser.close();
