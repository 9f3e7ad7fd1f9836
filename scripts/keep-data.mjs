// node scripts/keep-data.mjs [--at COMMIT]: makes data as the Bussola of a commit does, the demo's after some minutes, and stores a backup of them for the test of upgrading (tests/upgrade/data).
import { spawn, spawnSync } from 'node:child_process';
import { once } from 'node:events';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { gunzipSync } from 'node:zlib';
import { ensureBuilt, root } from './prepare.mjs';

const { values } = parseArgs({ options: { at: { type: 'string', default: 'HEAD' } } });
const target = join(root, 'tests', 'upgrade', 'data');
const work = mkdtempSync(join(tmpdir(), 'bussola-keep-'));
const tree = join(work, 'tree');
const data = join(work, 'data');

/** Runs in that commit’s tree: a whole Bussola on a clock of its own, the demo’s seed, and some minutes. */
const runner = `
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { writeFileSync } from 'node:fs';
import { serveStandIns } from './stand-ins/serve';
// Where they were in the first versions, and where they are.
const { configFrom } = await import('./src/lib/server/base/config').catch(() => import('./src/lib/server/config'));
const { startBussola } = await import('./src/lib/server/process/start').catch(() => import('./src/lib/server/start'));
const [data, clock] = process.argv.slice(2);
let now = Date.parse('2026-05-05T14:00:00Z');
const pass = (minutes) => writeFileSync(clock, String((now += minutes * 60_000)));
pass(0);
const standIns = await serveStandIns({ port: 0, smtpPort: 0, securePort: 0, namePort: 0, seed: 7, clockFile: clock });
const bussola = await startBussola(
  configFrom({ BUSSOLA_DATA: data, BUSSOLA_CLOCK_FILE: clock, BUSSOLA_LOG: 'error', BUSSOLA_FIRST_LINK: 'none', BUSSOLA_HISTORY_DAYS: '0', BUSSOLA_REACH: '127.0.0.1', BUSSOLA_ALLOW_PRIVATE: '1', BUSSOLA_SMTP: 'smtp://127.0.0.1:' + standIns.smtpPort, ORIGIN: 'http://localhost:3000' }),
  (error) => { throw error; }
);
await bussola.store.ready;
const seeding = spawn(process.execPath, ['--import', 'tsx', 'demo/seed.ts', '--data=' + data, '--stand-ins=' + standIns.url, '--days=0', '--clock-file=' + clock], { stdio: 'inherit' });
const [code] = await once(seeding, 'exit');
if (code !== 0) throw new Error('seeding ended with ' + code);
// Minutes as they pass; how far each is taken is not waited for.
for (let minute = 0; minute < 25; minute++) {
  pass(1);
  await new Promise((next) => setTimeout(next, 700));
}
await bussola.close();
await standIns.close();
process.exit(0);
`;

try {
  await ensureBuilt();
  git('worktree', 'add', '--detach', tree, values.at);
  symlinkSync(join(root, 'node_modules'), join(tree, 'node_modules'));
  await run(['node_modules/@sveltejs/kit/svelte-kit.js', 'sync']);
  writeFileSync(join(tree, 'x-keep.ts'), runner);
  await run(['--import', 'tsx', 'x-keep.ts', data, join(work, 'clock')]);
  const made = join(work, 'made.tar.gz');
  await run([join(root, 'build', 'workers', 'data.js'), 'backup', '--data', data, '--to', made]);
  const { migration } = JSON.parse(/\{[^]*?\n\}/.exec(gunzipSync(readFileSync(made)).toString('latin1'))[0]);
  if (!existsSync(target)) mkdirSync(target, { recursive: true });
  const file = join(target, `${String(migration).padStart(3, '0')}.tar.gz`);
  writeFileSync(file, readFileSync(made));
  console.log(`${file}: ${Math.round(readFileSync(made).length / 1000)} kB`);
} finally {
  if (existsSync(tree)) git('worktree', 'remove', '--force', tree);
  rmSync(work, { recursive: true, force: true });
}

function git(...args) {
  const { status, stderr } = spawnSync('git', args, { cwd: root, encoding: 'utf8' });
  if (status !== 0) throw new Error(`git ${args[0]}: ${stderr}`);
}

async function run(args) {
  const child = spawn(process.execPath, args, { cwd: tree, stdio: 'inherit' });
  const [code] = await once(child, 'exit');
  if (code !== 0) throw new Error(`${args[0]} ended with ${code}`);
}
