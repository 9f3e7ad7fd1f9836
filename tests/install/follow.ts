// npm run follow-install [-- --keep]: follows the page *Install and run* on a fresh Debian, block by block, then takes its first steps in a browser. Needs root and debootstrap.
import { execFileSync, spawn, spawnSync, type ChildProcess } from 'node:child_process';
import { chmodSync, copyFileSync, existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { expect } from 'chai';
import type { Page } from 'playwright-core';
import { serveStandIns } from '../../stand-ins/serve';
import { freePort } from '../support/app';
import { openBrowser } from '../support/chromium';
import { until } from '../support/until';
import { applicationArguments, applicationEnvironment } from '../../scripts/application.mjs';
import { blocksOf } from './page';

const { values } = parseArgs({
  options: {
    /** A root folder that debootstrap made before, to be used again. */
    root: { type: 'string' },
    keep: { type: 'boolean', default: false },
    /** Only starts what an earlier run installed in the root, on new data, and takes the first steps. */
    again: { type: 'boolean', default: false }
  }
});
const root = values.root ?? mkdtempSync(join(tmpdir(), 'bussola-root-'));
const password = 'four ferries cross at dusk';
const said = (text: string): void => void process.stdout.write(`— ${text}\n`);
const mounts = ['proc', 'dev'];
const others: ChildProcess[] = [];

const standIns = await serveStandIns({ port: 0, smtpPort: 0, seed: 1 });
const browser = await openBrowser();
try {
  makeRoot();
  followPage(`http://localhost:3000`, `smtp://127.0.0.1:${standIns.smtpPort}`);
  await firstSteps();
  said('Everything on the page was done, and its first steps were taken.');
} finally {
  await browser.close();
  await standIns.close();
  others.forEach((other) => other.kill('SIGTERM'));
  endWithin();
  if (!values.keep && values.root === undefined) rmSync(root, { recursive: true, force: true });
}
process.exit(0);

/** A fresh Debian, with what this machine needs to reach its registries, and a stand-in for the service manager. */
function makeRoot(): void {
  if (!existsSync(join(root, 'etc', 'debian_version'))) {
    said('making a fresh Debian');
    execFileSync('debootstrap', ['--variant=minbase', 'trixie', root], { stdio: 'inherit' });
  }
  // A folder for one's own alone would be a root in which nobody else finds anything.
  chmodSync(root, 0o755);
  for (const name of mounts) execFileSync('mount', ['--rbind', `/${name}`, join(root, name)]);
  copyFileSync('/etc/resolv.conf', join(root, 'etc/resolv.conf'));
  // The registries of this machine may be behind an authority of their own.
  copyFileSync('/etc/ssl/certs/ca-certificates.crt', join(root, 'etc/registry-authorities.pem'));
  writeFileSync(join(root, 'root/.npmrc'), 'cafile=/etc/registry-authorities.pem\n');
  copyFileSync('tests/install/systemctl.sh', join(root, 'usr/bin/systemctl'));
  execFileSync('git', ['archive', '--format=tar.gz', `--output=${join(root, 'root/bussola.tar.gz')}`, 'HEAD']);
}

/** Runs each block in one shell, as somebody who types them would. */
function followPage(address: string, mail: string): void {
  const script = (values.again ? blocksOf().slice(-3) : blocksOf())
    .map(({ commands, isYours }) => (isYours ? `ADDRESS=${address}\nMAIL_SERVER=${mail}\n` : commands))
    .map((commands) => `cat <<'SHOWN'\n${commands}SHOWN\n${commands}`)
    .join('\n');
  // Its only own setting besides: the page that is connected is on this machine.
  const own = script.replaceAll('BUSSOLA_FIRST_LINK=file\n', 'BUSSOLA_FIRST_LINK=file\nBUSSOLA_REACH=127.0.0.1\n');
  if (values.again) startAnew(mail);
  writeFileSync(join(root, 'root/follow.sh'), `set -e\ncd /root\nexport DEBIAN_FRONTEND=noninteractive\n${own}`);
  // As whoever signs in there has it: settings of this machine, such as where its authorities are, lead nowhere in that root.
  const environment = {
    PATH: '/usr/local/sbin:/usr/local/bin:/usr/sbin:/usr/bin:/sbin:/bin',
    HOME: '/root',
    LANG: 'C.UTF-8'
  };
  const { status } = spawnSync('chroot', [root, '/bin/sh', '/root/follow.sh'], {
    env: environment,
    stdio: 'inherit',
    timeout: 1_200_000
  });
  if (status !== 0) throw new Error(`The page could not be followed (code ${status}).\n${logOf()}`);
}

/** Empties the data of an earlier run, and lets its settings name this run's mail server. */
function startAnew(mail: string): void {
  execFileSync('sh', ['-c', `rm -rf ${join(root, 'var/lib/bussola')}/*`]);
  const file = join(root, 'etc/bussola/bussola.conf');
  const settings = readFileSync(file, 'utf8').replaceAll(/^BUSSOLA_(SMTP|REACH)=.*\n/gm, '');
  writeFileSync(file, `${settings}BUSSOLA_SMTP=${mail}\nBUSSOLA_REACH=127.0.0.1\n`);
}

/** What the page calls first steps: an administrator, a page of metrics, a board, an alarm, and the mail that it sends. */
async function firstSteps(): Promise<void> {
  const origin = 'http://localhost:3000';
  const page = await (await browser.newContext()).newPage();
  await page.goto(readFileSync(join(root, 'var/lib/bussola/first-administrator'), 'utf8').trim());
  for (const [label, text] of Object.entries({
    'Your name': 'Kaja Tamm',
    'Sign-in name': 'kaja',
    'Mail address': 'kaja@example.test',
    Password: password
  }))
    await page.getByLabel(label, { exact: true }).fill(text);
  await page.getByRole('button', { name: 'Begin' }).click();
  await page.getByRole('heading', { name: 'Nothing is watched yet.' }).waitFor();
  said('the first administrator came by the link of the file');

  const other = await startSecond();
  await page.goto(`${origin}/accounts/new/pages`);
  await page.getByLabel('Name in Bussola').fill('second-bussola');
  await page.getByLabel('Pages', { exact: true }).fill(`${other.url}/metrics second`);
  await page.getByLabel('How Bussola signs in').selectOption('bearer');
  await page.getByLabel('Secret').fill(other.key);
  await page.getByRole('button', { name: 'Read a page' }).click();
  await page.getByText(/answered in \d+ ms/).waitFor();
  await page.getByRole('button', { name: 'Connect', exact: true }).click();
  await page.getByRole('heading', { name: 'All 1 page can be read' }).waitFor({ timeout: 60_000 });
  said('the page of a second Bussola is read');

  await page.goto(`${origin}/services/targets/board`);
  await page.getByRole('button', { name: 'Copy to my boards' }).click();
  await page.waitForURL(/\/boards\/\d+/);
  said('a board was made of the ready one');

  await confirmMail(page);
  const zone = 'UTC';
  const channels = await api<{ channels: { id: number; kind: string }[] }>(page, 'GET', '/channels');
  const channelId = channels.channels.find(({ kind }) => kind === 'email')?.id ?? 0;
  await api(page, 'POST', '/routes', {
    place: 'last',
    route: {
      ...{ name: 'Everything else', when: {}, steps: [{ after: 0, notify: [{ kind: 'channel', channelId }] }] },
      ...{ group: { by: 'incident', wait: 0, atMostEvery: 0 }, zone }
    }
  });
  await api(page, 'POST', '/alarms', {
    ...{ name: 'A page cannot be read', enabled: true, labels: {}, owner: '', about: '', runbook: '', route: null },
    signal: { version: 2, step: 'PT1M', rows: [{ name: 'a', metric: 'target.up', where: [], statistic: 'max' }] },
    rule: {
      levels: [{ severity: 'major', condition: { kind: 'threshold', is: 'below', limit: 1 } }],
      ...{ window: { needs: 1, of: 1 }, whenMissing: 'indeterminate', zone }
    }
  });
  other.process.kill('SIGTERM');
  const mail = await until(
    'the mail of the alarm',
    () => standIns.mailbox.mails.find(({ text }) => text.includes('/incidents/')) ?? false,
    300_000
  );
  said(`the mail came: ${mail.subject}`);
  const log = logOf();
  expect(log, 'the log').to.contain('"msg":"starting"');
  for (const secret of [password, other.key]) expect(log).not.to.contain(secret);
}

/** A Bussola of this folder, with a key that reads its metrics. */
async function startSecond(): Promise<{ url: string; key: string; process: ChildProcess }> {
  const port = await freePort();
  const url = `http://127.0.0.1:${port}`;
  const data = mkdtempSync(join(tmpdir(), 'bussola-second-'));
  const child = spawn(process.execPath, applicationArguments, {
    env: {
      ...process.env,
      ...applicationEnvironment,
      ...{ PORT: String(port), HOST: '127.0.0.1', ORIGIN: url, BUSSOLA_DATA: data, BUSSOLA_FIRST_LINK: 'file' }
    },
    stdio: 'inherit'
  });
  others.push(child);
  const link = await until(
    'the second Bussola',
    () => {
      const file = join(data, 'first-administrator');
      return existsSync(file) && readFileSync(file, 'utf8').trim();
    },
    60_000
  );
  const page = await (await browser.newContext()).newPage();
  await until(
    'its page',
    () =>
      page.goto(link).then(
        () => true,
        () => false
      ),
    30_000
  );
  for (const [label, text] of Object.entries({
    'Your name': 'Ivo Brandt',
    'Sign-in name': 'ivo',
    'Mail address': 'ivo@example.test',
    Password: password
  }))
    await page.getByLabel(label, { exact: true }).fill(text);
  await page.getByRole('button', { name: 'Begin' }).click();
  await page.getByRole('heading', { name: 'Nothing is watched yet.' }).waitFor();
  await page.goto(`${url}/receive`);
  await page.getByLabel('Name of the key and its account').fill('first-bussola');
  for (const box of await page.getByRole('checkbox').all())
    await box.setChecked((await box.getAttribute('value')) === 'read');
  await page.getByRole('button', { name: 'Make key' }).click();
  const key = await page.getByTestId('made-key').innerText();
  return { url, key, process: child };
}

async function confirmMail(page: Page): Promise<void> {
  await page.goto('http://localhost:3000/channels');
  await page.getByRole('button', { name: 'Send again' }).click();
  const mail = await until(
    'the mail that confirms',
    () => standIns.mailbox.mails.find(({ text }) => text.includes('/confirm/')) ?? false,
    30_000
  );
  await page.goto(/http\S+\/confirm\/\S+/.exec(mail.text)?.[0] ?? '');
  await page.getByRole('button').first().click();
  await page.waitForLoadState();
  said('the mail address is confirmed');
}

async function api<Answer = unknown>(page: Page, method: string, path: string, data?: object): Promise<Answer> {
  const response = await page.request.fetch(`http://localhost:3000/api/v1${path}`, { method, ...(data && { data }) });
  if (!response.ok()) throw new Error(`${method} ${path}: ${response.status()} ${await response.text()}`);
  return (response.status() === 204 ? undefined : await response.json()) as Answer;
}

function logOf(): string {
  const file = join(root, 'var/log/bussola.log');
  return existsSync(file) ? readFileSync(file, 'utf8') : '';
}

/** Ends what runs within the root, and lets go of what was mounted there. */
function endWithin(): void {
  const found = spawnSync(
    'sh',
    ['-c', `for p in /proc/[0-9]*; do [ "$(readlink $p/root)" = "${root}" ] && echo "\${p#/proc/}"; done`],
    { encoding: 'utf8' }
  );
  for (const pid of found.stdout.split('\n').filter((line) => line !== '')) process.kill(Number(pid), 'SIGTERM');
  spawnSync('sleep', ['3']);
  for (const name of mounts) spawnSync('umount', ['--recursive', '--lazy', join(root, name)]);
}
