import { chromium } from 'playwright-core';
const [, , path = '/', out = '/tmp/shot.png', theme = 'day', width = '1280', wait = ''] = process.argv;
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--disable-gpu'] });
const page = await browser.newPage({ viewport: { width: Number(width), height: 800 } });
const origin = 'http://127.0.0.1:4400';
await page.goto(origin + '/sign-in');
await page.fill('input[name=name]', 'kaja'); await page.fill('input[type=password]', 'corallo-demo');
await page.keyboard.press('Enter'); await page.waitForURL((u) => !u.pathname.startsWith('/sign-in'));
await page.goto(origin + path); await page.waitForLoadState('networkidle').catch(() => {});
if (theme === 'night') { await page.getByRole('button', { name: /^Switch to the/ }).click(); }
if (wait) await page.waitForSelector(wait, { timeout: 20000 }).catch((e) => console.log(String(e).slice(0, 200)));
await page.waitForTimeout(700);
await page.screenshot({ path: out });
console.log(await page.locator('h1').allTextContents());
await browser.close();
