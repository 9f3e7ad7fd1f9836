// npm test: everything that must hold, from nothing. Ends with one line: N passed, N failed.
import { spawn, spawnSync } from 'node:child_process';
import { existsSync, readdirSync } from 'node:fs';
import { withPostgres } from './postgres.mjs';
import { ensureBuilt, ensureInstalled, root, run } from './prepare.mjs';

let passed = 0;
let failed = 0;
/** What failed, said again at the end: a long output is often cut in its middle. */
const failures = [];

/** A step that passes or fails as a whole. */
async function step(name, work) {
  console.log(`\n== ${name}`);
  const began = performance.now();
  let problem = null;
  try {
    await work();
  } catch (error) {
    problem = error;
  }
  if (problem === null) passed++;
  else {
    failed++;
    failures.push(`${name}: ${problem.message ?? problem}`);
    console.error(problem.message ?? problem);
  }
  console.log(
    `== ${name}: ${problem === null ? 'passed' : 'FAILED'} in ${Math.round((performance.now() - began) / 1000)} s`
  );
  return problem === null;
}

const tool =
  (name, ...args) =>
  async () => {
    const code = await run(process.execPath, [`node_modules/${name}`, ...args]);
    if (code !== 0) throw new Error(`${name} ended with ${code}`);
  };

/** Failures that are looked at once more, alone; where more fail, something is wrong with more than their moment. */
const mostAgain = 4;

/**
 * Runs Mocha and adds what it counted. A run that counts nothing has failed.
 *
 * @param again arguments with which files are run once more, alone, in which few tests failed: whoever reads it learns whether they fail beside others only. They have failed all the same. Null where it is not looked
 */
async function mocha(name, args, environment = {}, again = null) {
  console.log(`\n== ${name}`);
  const began = performance.now();
  const first = await counted(args, environment);
  passed += first.passing;
  failed += first.failing;
  if (first.failing > 0) {
    const files = again === null || first.failing > mostAgain ? [] : filesOf(first);
    failures.push(`${name}:${await aloneWords(name, again, files, environment)}${first.report}`);
  } else if (first.code !== 0 || first.passing === 0) {
    failed++;
    failures.push(`${name}: ended with ${first.code}, ${first.passing} passed`);
  }
  console.log(`== ${name}: ${Math.round((performance.now() - began) / 1000)} s`);
}

/** Whether files fail alone as well, in words. */
async function aloneWords(name, again, files, environment) {
  if (files.length === 0) return '';
  console.log(`\n== ${name}, once more and alone: ${files.join(', ')}`);
  const { code, failing } = await counted([...again, ...files], environment);
  return code === 0 && failing === 0 ? ' alone, they pass' : ' alone, they fail as well';
}

/** A run of Mocha, with what it counted and what it says of failures. */
async function counted(args, environment) {
  const child = spawn(process.execPath, ['node_modules/mocha/bin/mocha.js', '--no-color', ...args], {
    cwd: root,
    env: { ...process.env, ...environment },
    stdio: ['ignore', 'pipe', 'inherit']
  });
  let output = '';
  child.stdout.on('data', (part) => {
    output += part;
    process.stdout.write(part);
  });
  const code = await new Promise((done) => child.once('close', done));
  const count = (word) => Number(new RegExp(`^\\s*(\\d+) ${word}\\b`, 'm').exec(output)?.[1] ?? 0);
  const failing = count('failing');
  const report = failing > 0 ? output.slice(output.search(/^\s*\d+ failing\b/m)).slice(0, 8000) : '';
  return { code, passing: count('passing'), failing, report };
}

/** The files of tests that failed, where each failure names its own; none where one does not. */
function filesOf({ report, failing }) {
  const each = report.split(/^ {2}\d+\) /m).slice(1);
  const files = each.map((one) => /(?:src|tests|stand-ins)\/[\w./-]+\.test\.ts/.exec(one)?.[0]);
  return files.length !== failing || files.includes(undefined) ? [] : [...new Set(files)];
}

/** Debian's Chromium, installed from its packages when it is missing and that may be done here. */
function ensureChromium() {
  if (existsSync(process.env.CHROMIUM ?? '/usr/bin/chromium')) return;
  console.log('Installing Debian’s Chromium …');
  for (const args of [
    ['update', '-qq'],
    ['install', '-y', '-qq', '--no-install-recommends', 'chromium']
  ]) {
    const { status } = spawnSync('apt-get', args, {
      stdio: ['ignore', 'ignore', 'inherit'],
      env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' }
    });
    if (status !== 0)
      throw new Error(
        'Chromium is missing and could not be installed. Install the package "chromium", or name a Chromium with CHROMIUM=/path.'
      );
  }
}

/** Test files below some folders, each once: one that is named twice would run as often as it meets another worker. Those named first come first. */
function testFiles(folders, ...first) {
  const all = folders.flatMap((folder) =>
    readdirSync(folder, { recursive: true })
      .filter((name) => name.endsWith('.test.ts'))
      .map((name) => `${folder}/${name}`)
      .sort()
  );
  return [...new Set([...first.map(existing), ...all])];
}

/** A file that is to be run: a name that leads nowhere would only be a warning of the runner. */
function existing(file) {
  if (!existsSync(file)) throw new Error(`There is no test ${file}: it was moved or renamed.`);
  return file;
}

/** Tests of the database that run on both of its homes. */
const databaseTests = [
  'src/lib/server/query/query.test.ts',
  'src/lib/server/query/line-rows.test.ts',
  'src/lib/server/store/retention.test.ts',
  'src/lib/server/store/store.test.ts',
  'src/lib/server/incidents/history-retention.test.ts',
  'src/lib/server/intake/pull/intake.test.ts',
  'src/lib/server/notify/channels.test.ts',
  'src/lib/server/people/people.test.ts',
  'src/lib/server/engine/engine.test.ts',
  'src/lib/server/respond/respond.test.ts',
  'src/lib/server/respond/remind.test.ts',
  'src/lib/server/respond/related-thread.test.ts',
  'src/lib/server/respond/threads.test.ts',
  'src/lib/server/incidents/events.test.ts',
  'src/lib/server/logs/log-counts.test.ts',
  'src/lib/server/logs/log-search.test.ts',
  'src/lib/server/logs/log-store.test.ts',
  'src/lib/server/logs/feeds/follow-lines.test.ts',
  'src/lib/server/cost/bills.test.ts',
  'src/lib/server/cost/budgets.test.ts',
  'src/lib/server/objective/objectives.test.ts',
  'src/lib/server/responses/responses.test.ts',
  'src/lib/server/responses/act-now.test.ts',
  'src/lib/server/summary/summary.test.ts',
  'src/lib/server/summary/send-plans.test.ts',
  'src/lib/server/agreements/agreement-files.test.ts',
  'src/lib/server/tidy/made.test.ts',
  'src/lib/server/db/one-transaction.test.ts',
  'src/lib/server/db/deadlocks.test.ts',
  'src/lib/server/duties/duties.test.ts',
  'src/lib/server/duties/spread-news.test.ts',
  'src/lib/server/process/several.test.ts',
  'src/lib/server/followers/followers.test.ts',
  'src/lib/server/alarms/alarmed-forms.test.ts',
  'src/lib/server/intake/pull/remove-account.test.ts',
  'src/lib/server/incidents/overlapping.test.ts',
  'src/lib/server/responses/take-up.test.ts',
  'src/lib/server/removals/resting.test.ts',
  'src/lib/server/backup/under-load.test.ts',
  'src/lib/server/process/data.test.ts'
];

const installed = await step('install', ensureInstalled);
if (installed) {
  const browser = await step('Chromium', async () => ensureChromium());
  await step('generate types', tool('@sveltejs/kit/svelte-kit.js', 'sync'));
  await step('empty database', async () => {
    if ((await run(process.execPath, ['scripts/empty-database.mjs'])) !== 0) throw new Error('It could not be made.');
  });
  const lint = (...files) => tool('eslint/bin/eslint.js', '--no-error-on-unmatched-pattern', ...files);
  // Alone: building writes the generated types anew, and a check that reads them meanwhile finds half of them.
  const built = await step('build', ensureBuilt);
  // Two cores: the checks take about as long as the inputs of chance and the planted troubles, which do not mind how much else the machine does. Components are linted apart: beside other files, the
  // checker would begin anew with each change between them.
  await Promise.all([
    (async () => {
      await step('lint components', async () => {
        process.env.BUSSOLA_LINT = 'plain';
        await lint('**/*.svelte')().finally(() => delete process.env.BUSSOLA_LINT);
      });
      await step('lint', lint('**/*.{ts,js,mjs}'));
      await step('types', tool('svelte-check/bin/svelte-check', '--threshold', 'warning'));
      await step('format', tool('prettier/bin/prettier.cjs', '--check', '--log-level=warn', '.'));
      await step(
        'import direction',
        tool(
          'dependency-cruiser/bin/dependency-cruise.mjs',
          'src',
          'stand-ins',
          'demo',
          '--config',
          '.dependency-cruiser.cjs'
        )
      );
      await step(
        'rooms of the server',
        tool('dependency-cruiser/bin/dependency-cruise.mjs', 'src', '--config', '.dependency-cruiser.rooms.cjs')
      );
    })(),
    (async () => {
      if (built) await mocha('inputs of chance', ['tests/soak/fuzz.test.ts']);
      if (built) await mocha('a process that is killed', ['tests/soak/kills.test.ts', 'tests/soak/act-kills.test.ts']);
      await mocha('the planted troubles', ['demo/troubles.test.ts']);
    })()
  ]);
  // What was built just now is what the sources are; threads start sooner from it.
  const threads = built ? { BUSSOLA_TEST_THREADS: 'built' } : {};
  // Many of these wait for clocks and for one another, so there is room for those on PostgreSQL beside them.
  await Promise.all([
    mocha(
      'unit tests, the database embedded',
      [
        '--parallel',
        '--jobs=3',
        // The longest first, so that the other core has enough to do meanwhile.
        ...testFiles(['src', 'stand-ins', 'tests/unit'], 'src/lib/server/store/kill.test.ts')
      ],
      threads,
      []
    ),
    step('PostgreSQL', () =>
      withPostgres((address) =>
        mocha('database tests on PostgreSQL', databaseTests.map(existing), {
          ...threads,
          BUSSOLA_TEST_POSTGRES: address
        })
      )
    )
  ]);
  // Each file has an application of its own.
  if (built && browser)
    await mocha(
      'browser tests',
      [
        '--parallel',
        '--jobs=2',
        '--timeout',
        '180000',
        ...testFiles(['tests/browser'], 'tests/browser/boards-read.test.ts') // the longest first
      ],
      {},
      ['--timeout', '180000']
    );
}
if (failures.length > 0) console.log(`\n== what failed\n\n${failures.join('\n\n')}`);
console.log(`\n${passed} passed, ${failed} failed`);
process.exit(failed === 0 ? 0 : 1);
