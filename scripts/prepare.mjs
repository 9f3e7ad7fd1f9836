// What the scripts need before they can run: packages, and a build that is as new as its sources.
import { spawn, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = dirname(dirname(fileURLToPath(import.meta.url)));
const npm = process.platform === 'win32' ? 'npm.cmd' : 'npm';
const installedStamp = join(root, 'node_modules', '.bussola-lock');
const builtStamp = join(root, 'build', '.bussola-sources');

/** Runs a program to its end, its output passed on. @returns its exit code */
export function run(command, args, options = {}) {
  return new Promise((resolve, reject) => {
    const child = spawn(command, args, { cwd: root, stdio: 'inherit', ...options });
    child.once('error', reject);
    child.once('exit', (code, signal) => resolve(code ?? (signal ? 1 : 0)));
  });
}

async function need(what, command, args) {
  const code = await run(command, args);
  if (code !== 0) throw new Error(`${what} failed: ${command} ${args.join(' ')} ended with ${code}`);
}

/** Installs the locked packages when they are missing or the lockfile has changed since. */
export async function ensureInstalled() {
  const lock = digestOf([join(root, 'package-lock.json')]);
  if (existsSync(installedStamp) && readFileSync(installedStamp, 'utf8') === lock) return;
  console.log('Installing packages (once, one to three minutes) …');
  await need('Installing', npm, ['ci', '--no-audit', '--no-fund', '--loglevel=error']);
  writeFileSync(installedStamp, lock);
}

/** Builds when a source has changed since the last build. */
export async function ensureBuilt() {
  const files = ['src', 'static']
    .flatMap((folder) => filesIn(join(root, folder)))
    .filter((file) => !file.endsWith('.test.ts'));
  const settings = [
    'package-lock.json',
    'svelte.config.js',
    'vite.config.ts',
    'vite.workers.config.ts',
    'scripts/empty-database.mjs'
  ].map((name) => join(root, name));
  const sources = digestOf([...files, ...settings]);
  if (existsSync(builtStamp) && readFileSync(builtStamp, 'utf8') === sources) return;
  console.log('Building (about half a minute) …');
  const built = spawnSync(npm, ['run', 'build', '--silent'], { cwd: root, encoding: 'utf8' });
  if (built.status !== 0) throw new Error(`The build failed.\n${built.stdout}\n${built.stderr}`);
  writeFileSync(builtStamp, sources);
}

function filesIn(folder) {
  return readdirSync(folder, { withFileTypes: true, recursive: true })
    .filter((entry) => entry.isFile())
    .map((entry) => join(entry.parentPath, entry.name))
    .sort();
}

function digestOf(files) {
  const hash = createHash('sha256');
  for (const file of files) hash.update(file.slice(root.length)).update('\0').update(readFileSync(file)).update('\0');
  return hash.digest('hex');
}
