// npm run bussola: boards, alarms, and routes with rotas and channels as files, and every operation of the API, from a shell, through the API of a running Bussola.
import { readFileSync, writeFileSync } from 'node:fs';
import { parseArgs } from 'node:util';
import { descriptionOf, operationNamed, operationsOf, requestOf, withWord } from './operations.mjs';

const usage = `Usage:
  npm run bussola -- boards export BOARD [--format yaml|json] [--to FILE]
  npm run bussola -- boards plan FILE [--map LABEL:NAME=NAME …] [--map metric:NAME=NAME …]
  npm run bussola -- boards apply FILE [--map …]
  npm run bussola -- alarms export [ALARM …] [--format yaml|json] [--to FILE]
  npm run bussola -- alarms plan FILE
  npm run bussola -- alarms apply FILE
  npm run bussola -- on-call export [--format yaml|json] [--to FILE]
  npm run bussola -- on-call plan FILE
  npm run bussola -- on-call apply FILE
  npm run bussola -- operations [WORD]
  npm run bussola -- describe OPERATION
  npm run bussola -- call OPERATION [NAME=VALUE …] [--body FILE] [--to FILE]

BOARD is a title or an id; ALARM a name or an id, all alarms when none is named. A file changes the board of its title and the alarms of its names, or makes them; what it
does not name stays. OPERATION is a name such as getBoards, or "GET /boards"; --body - reads from here. Where Bussola is, and who asks, say BUSSOLA_URL
(http://localhost:4300 by default) and BUSSOLA_PROGRAM_KEY, or BUSSOLA_NAME and BUSSOLA_PASSWORD.`;

/** Something that a person can fix: told without a trace. */
class Told extends Error {}

const url = process.env.BUSSOLA_URL ?? 'http://localhost:4300';

try {
  await main();
} catch (error) {
  if (!(error instanceof Told)) throw error;
  console.error(error.message);
  process.exitCode = 1;
}

async function main() {
  const { values, positionals } = readArguments();
  const [things, verb, what, ...others] = positionals;
  if (things === 'operations' && what === undefined) return listOperations(verb);
  if (things === 'describe' && verb !== undefined && what === undefined) return describe(verb);
  if (things === 'call' && verb !== undefined) return callOperation(verb, positionals.slice(2), values);
  const isKnown =
    ['boards', 'alarms', 'on-call'].includes(things ?? '') && ['export', 'plan', 'apply'].includes(verb ?? '');
  const isAllAlarms = things === 'alarms' && verb === 'export';
  const isOnCall = things === 'on-call' && verb === 'export' && !what;
  if (!isKnown || (!isAllAlarms && !isOnCall && (!what || others.length > 0))) throw new Told(usage);
  const authority = await signIn();
  if (isAllAlarms) await exportAlarms(authority, [what, ...others].filter(Boolean), values);
  else if (isOnCall) await exportOnCall(authority, values);
  else if (things === 'alarms') await sendAlarms(authority, verb, what);
  else if (things === 'on-call' && verb !== 'export') await sendOnCall(authority, verb, what);
  else if (verb === 'export') await exportBoard(authority, what, values);
  else await sendFile(authority, verb, what, mappingOf(values.map ?? []));
}

function readArguments() {
  try {
    return parseArgs({
      allowPositionals: true,
      options: {
        format: { type: 'string', default: 'yaml' },
        to: { type: 'string' },
        body: { type: 'string' },
        map: { type: 'string', multiple: true }
      }
    });
  } catch (error) {
    throw new Told(`${error.message}\n\n${usage}`);
  }
}

/** @returns headers that say who asks: a key, or the cookie of a session */
async function signIn() {
  const { BUSSOLA_NAME: name, BUSSOLA_PASSWORD: password, BUSSOLA_PROGRAM_KEY: key } = process.env;
  if (key) return { authorization: `Bearer ${key}` };
  if (!name || !password) throw new Told(`Set BUSSOLA_PROGRAM_KEY, or BUSSOLA_NAME and BUSSOLA_PASSWORD.\n\n${usage}`);
  const response = await call('/sign-in', {
    method: 'POST',
    redirect: 'manual',
    headers: { 'content-type': 'application/x-www-form-urlencoded', origin: url, accept: 'text/html' },
    body: new URLSearchParams({ name, password })
  });
  const cookie = response.headers.getSetCookie().map((one) => one.split(';')[0])[0];
  if (response.status !== 303 || !cookie)
    throw new Told(`${url} did not let ${name} in: the name and password do not belong together.`);
  return { cookie, origin: url };
}

async function call(path, init) {
  try {
    return await fetch(url + path, init);
  } catch (error) {
    throw new Told(
      `Bussola was not reached at ${url}: ${error.cause?.message ?? error.message}. Set BUSSOLA_URL, or start it.`
    );
  }
}

async function ask(authority, path, method = 'GET', body = undefined, type = 'application/json') {
  const response = await call(path, {
    method,
    headers: { ...authority, ...(body === undefined ? {} : { 'content-type': type }) },
    ...(body === undefined ? {} : { body: Buffer.isBuffer(body) ? body : JSON.stringify(body) })
  });
  if (response.ok) return response;
  const told = await response.json().catch(() => ({}));
  if (told.problems)
    throw new Told(
      [
        'It cannot be read. Nothing was changed.',
        ...told.problems.map(
          ({ line, path: at, message }) => `  ${line == null ? '' : `line ${line}: `}${at ? `${at}: ` : ''}${message}`
        )
      ].join('\n')
    );
  throw new Told([told.message ?? `Bussola answered ${response.status}.`, told.remedy].filter(Boolean).join(' '));
}

async function exportBoard(authority, what, { format, to }) {
  if (!['yaml', 'json'].includes(format)) throw new Told(`--format must be yaml or json, got ${format}.`);
  const { boards } = await (await ask(authority, '/api/v1/boards')).json();
  const board = boards.find(({ title }) => title === what) ?? boards.find(({ id }) => String(id) === what);
  if (!board)
    throw new Told(`There is no board ${what}. There are: ${boards.map(({ title }) => title).join(', ') || 'none'}.`);
  const text = await (await ask(authority, `/api/v1/boards/${board.id}/file?format=${format}`)).text();
  if (to === undefined) process.stdout.write(text);
  else {
    writeFileSync(to, text);
    console.log(`${board.title} was written to ${to}.`);
  }
}

async function exportAlarms(authority, wanted, { format, to }) {
  if (!['yaml', 'json'].includes(format)) throw new Told(`--format must be yaml or json, got ${format}.`);
  const { alarms } = await (await ask(authority, '/api/v1/alarms')).json();
  const ids = wanted.map((name) => {
    const alarm =
      alarms.find(({ definition }) => definition.name === name) ?? alarms.find(({ id }) => String(id) === name);
    if (alarm) return alarm.id;
    const names = alarms.map(({ definition }) => definition.name).join(', ') || 'none';
    throw new Told(`There is no alarm ${name}. There are: ${names}.`);
  });
  const query = ids.length > 0 ? `&ids=${ids.join(',')}` : '';
  const text = await (await ask(authority, `/api/v1/alarms/file?format=${format}${query}`)).text();
  if (to === undefined) process.stdout.write(text);
  else {
    writeFileSync(to, text);
    const count = ids.length || alarms.length;
    console.log(`${count} ${count === 1 ? 'alarm was' : 'alarms were'} written to ${to}.`);
  }
}

async function sendAlarms(authority, verb, file) {
  const { alarms, applied } = await (
    await ask(authority, `/api/v1/alarms/${verb}`, 'POST', { text: textOf(file, 'alarms have') })
  ).json();
  for (const { name, id, sentence, differences, problems } of alarms) {
    if (id !== null && differences.length === 0 && problems.length === 0) continue;
    console.log(id === null ? `A new alarm, ${name}:` : `Changes of ${name}:`);
    for (const line of id === null ? [sentence] : differences) console.log(`  ${line}`);
    for (const problem of problems) console.log(`  It cannot be applied: ${problem}`);
  }
  const same = alarms.filter(({ id, differences }) => id !== null && differences.length === 0).length;
  if (same > 0) console.log(`${same} of ${alarms.length} match the file already.`);
  if (applied) console.log(`Applied: ${applied.length} stored. ${url}/alarms`);
  if (!applied && alarms.some(({ problems }) => problems.length > 0)) process.exitCode = 1;
}

async function exportOnCall(authority, { format, to }) {
  if (!['yaml', 'json'].includes(format)) throw new Told(`--format must be yaml or json, got ${format}.`);
  const text = await (await ask(authority, `/api/v1/on-call/file?format=${format}`)).text();
  if (to === undefined) process.stdout.write(text);
  else {
    writeFileSync(to, text);
    console.log(`Channels, rotas and routes were written to ${to}.`);
  }
}

async function sendOnCall(authority, verb, file) {
  const { things, reorders, applied } = await (
    await ask(authority, `/api/v1/on-call/${verb}`, 'POST', { text: textOf(file, 'such a file has') })
  ).json();
  for (const { kind, name, id, differences, problems } of things) {
    if (id !== null && differences.length === 0 && problems.length === 0) continue;
    console.log(id === null ? `A new ${kind}, ${name}` : `Changes of the ${kind} ${name}:`);
    for (const line of differences) console.log(`  ${line}`);
    for (const problem of problems) console.log(`  It cannot be applied: ${problem}`);
  }
  if (reorders) console.log('The routes of the list come into the order of the file.');
  const same = things.filter(({ id, differences }) => id !== null && differences.length === 0).length;
  if (same > 0) console.log(`${same} of ${things.length} match the file already.`);
  if (applied !== undefined) console.log(`Applied: ${applied} stored. ${url}/routes`);
  else if (things.some(({ problems }) => problems.length > 0)) process.exitCode = 1;
}

async function allOperations() {
  return operationsOf(await (await ask({}, '/api/v1/openapi.json')).json());
}

async function listOperations(word) {
  const found = withWord(await allOperations(), word);
  if (found.length === 0) throw new Told(`No operation has ${word} in its name, path or summary.`);
  const width = Math.max(...found.map(({ name }) => name.length));
  for (const { name, summary } of found) console.log(`${name.padEnd(width)}  ${summary}`);
}

async function describe(wanted) {
  const operation = orTold(operationNamed, await allOperations(), wanted);
  for (const line of descriptionOf(operation)) console.log(line);
}

async function callOperation(wanted, given, { body: file, to }) {
  const operation = orTold(operationNamed, await allOperations(), wanted);
  const sent = file === undefined ? undefined : bytesOf(file === '-' ? 0 : file, 'a body has');
  const { method, address, type, body } = orTold(requestOf, operation, given, sent);
  const authority = operation.security.length === 0 ? {} : await signIn();
  const response = await ask(authority, `/api/v1${address}`, method, body, type ?? undefined);
  const bytes = Buffer.from(await response.arrayBuffer());
  const isJson = response.headers.get('content-type')?.startsWith('application/json') ?? false;
  const answer = isJson ? `${JSON.stringify(JSON.parse(bytes.toString()), null, 2)}\n` : bytes;
  if (to !== undefined) writeFileSync(to, answer);
  else process.stdout.write(answer);
}

/** Does something that says what is wrong as an error. */
function orTold(work, ...things) {
  try {
    return work(...things);
  } catch (error) {
    throw new Told(error.message);
  }
}

/** The text of a file. @param what is said of its size: 'a board has' */
function textOf(file, what) {
  return bytesOf(file, what, 2_000_000).toString('utf8');
}

/** What is in a file, or comes in where it is 0. */
function bytesOf(file, what, most = 100_000_000) {
  let bytes;
  try {
    bytes = readFileSync(file);
  } catch (error) {
    throw new Told(`${file} cannot be read: ${error.code ?? error.message}.`);
  }
  if (bytes.length > most)
    throw new Told(
      `${file} has ${Math.round(bytes.length / 1e6)} MB; ${what} at most ${most / 1e6}. It is probably something else.`
    );
  return bytes;
}

async function sendFile(authority, verb, file, mapping) {
  const text = textOf(file, 'a board has');
  const plan = await (await ask(authority, `/api/v1/boards/${verb}`, 'POST', { text, mapping, match: true })).json();
  console.log(plan.into ? `Changes of ${plan.into.title}:` : `A new board, ${plan.board.title}:`);
  for (const difference of plan.differences) console.log(`  ${difference}`);
  if (plan.differences.length === 0) console.log('  The board already matches the file.');
  if (plan.unknown.length > 0) console.log('Not here, so that its panels would be empty:');
  for (const { of, label, name } of plan.unknown)
    console.log(
      `  ${of === 'metric' ? 'metric' : label} ${name}   (--map ${of === 'metric' ? 'metric' : label}:${name}=…)`
    );
  if (verb === 'apply') console.log(`Applied: ${url}/boards/${plan.kept.id}`);
}

/** `account:corallo-prod=perla-prod` for a value, `metric:a=b` for a metric, `label:a=b` for the name of a label. */
function mappingOf(maps) {
  const mapping = { labels: {}, values: {}, metrics: {} };
  for (const text of maps) {
    const [, of, from, to] = /^([^:]+):(.+)=(.+)$/.exec(text) ?? [];
    if (of === undefined) throw new Told(`--map must be LABEL:NAME=NAME, got ${text}.`);
    if (of === 'metric') mapping.metrics[from] = to;
    else if (of === 'label') mapping.labels[from] = to;
    else mapping.values[of] = { ...mapping.values[of], [from]: to };
  }
  return mapping;
}
