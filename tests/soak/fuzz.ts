// A campaign of inputs changed by chance: node --import tsx tests/soak/fuzz.ts [--inputs 100000] [--seed N]. In CI a test runs its short form.
import { createServer } from 'node:http';
import { once } from 'node:events';
import { readFileSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import { pathToFileURL } from 'node:url';
import { parseArgs } from 'node:util';
import { gunzipSync } from 'node:zlib';
import { OTLPMetricExporter } from '@opentelemetry/exporter-metrics-otlp-proto';
import { resourceFromAttributes } from '@opentelemetry/resources';
import { MeterProvider, PeriodicExportingMetricReader } from '@opentelemetry/sdk-metrics';
import { Agent, request } from 'undici';
import { makeKey } from '../../src/lib/server/intake/receive/keys';
import { startApp, type RunningApp } from '../support/app';
import { formats, fuzzInput, setProtobufSamples, type FuzzInput } from './fuzz-inputs';

/** How often it is asked whether the web process answers, ms. */
const askEvery = 50;
/** Nobody may wait longer than 250 ms for the web process because of what somebody else sent; a stall can begin up to {@link askEvery} before it is asked. */
const longestStall = 250 - askEvery;
/** Requests under way at the same time. */
const atOnce = 8;

/** What a format's inputs came to. */
export interface FuzzResult {
  readonly format: string;
  readonly inputs: number;
  /** Answers by status. */
  readonly statuses: Readonly<Record<number, number>>;
  /** Inputs that were answered with 5xx, or not at all, by their seed. */
  readonly broke: readonly { readonly seed: number; readonly status: number | string }[];
  /** Inputs that hold the web process longer than {@link longestStall} each time they are sent. */
  readonly stalls: readonly { readonly seeds: readonly number[]; readonly ms: number }[];
  /** The longest that the web process worked before it answered something else, ms. */
  readonly longest: number;
}

/** A running application that inputs are sent to. */
export interface FuzzTarget {
  readonly app: RunningApp;
  readonly key: string;
  readonly cookie: string;
}

/** Starts an application with a key and a session for the campaign. */
export async function fuzzTarget(): Promise<FuzzTarget> {
  setProtobufSamples([await protobufSample()]);
  const app = await startApp({ env: { BUSSOLA_LOG: 'error' } });
  const { text } = await makeKey(app.db, {
    name: 'fuzz',
    scopes: ['metrics', 'marks', 'events'],
    expiresAt: null,
    mostSeries: 500,
    mostBytesADay: 1e12,
    createdAt: app.clock.now(),
    createdBy: 'fuzz',
    ownerId: null
  });
  const form = new URLSearchParams({ name: 'nerea', password: 'corallo-demo' });
  const signedIn = await fetch(`${app.origin}/sign-in`, {
    method: 'POST',
    body: form,
    headers: { origin: app.origin },
    redirect: 'manual'
  });
  const cookie = signedIn.headers.getSetCookie().map((one) => one.split(';')[0] ?? '')[0] ?? '';
  if (cookie === '') throw new Error(`fuzzTarget: signing in answered ${signedIn.status}`);
  return { app, key: text, cookie };
}

/** A message as a real client sends it. */
async function protobufSample(): Promise<Buffer> {
  const parts: Buffer[] = [];
  const server = createServer((incoming, response) => {
    incoming.on('data', (part: Buffer) => parts.push(part));
    incoming.on('end', () => response.end());
  }).listen(0, '127.0.0.1');
  await once(server, 'listening');
  const exporter = new OTLPMetricExporter({ url: `http://127.0.0.1:${(server.address() as AddressInfo).port}/` });
  const provider = new MeterProvider({
    resource: resourceFromAttributes({ 'service.name': 'gate' }),
    readers: [new PeriodicExportingMetricReader({ exporter, exportIntervalMillis: 3_600_000 })]
  });
  const meter = provider.getMeter('fuzz');
  meter.createCounter('gate.scans', { unit: '{scan}' }).add(17, { lane: '1' });
  meter.createHistogram('gate.wait', { unit: 'ms' }).record(4, { lane: '1' });
  meter.createGauge('gate.temperature', { unit: 'Cel' }).record(-2.5);
  await provider.forceFlush();
  await provider.shutdown();
  server.close();
  const bytes = Buffer.concat(parts);
  return bytes[0] === 0x1f && bytes[1] === 0x8b ? gunzipSync(bytes) : bytes;
}

const agent = new Agent({ connections: atOnce, pipelining: 1 });
/** Its own connection, so that it never waits behind an input. */
const askingAgent = new Agent({ connections: 1, pipelining: 1 });

async function send({ app, key, cookie }: FuzzTarget, input: FuzzInput): Promise<number | string> {
  try {
    const { statusCode, body } = await request(app.origin + input.path, {
      dispatcher: agent,
      method: input.method,
      headers: {
        ...input.headers,
        ...(input.asPerson ? { cookie, origin: app.origin } : { authorization: `Bearer ${key}` })
      },
      body: input.body
    });
    await body.dump();
    return statusCode;
  } catch (error) {
    return error instanceof Error ? error.message : String(error);
  }
}

/**
 * For how long the event loop of a process has had a processor so far, ms: its main thread's time, as Linux counts it. An answer that is late because others had the
 * processors is no stall. Null where it is not counted.
 */
function timeOnProcessor(pid: number): number | null {
  try {
    return Number(readFileSync(`/proc/${pid}/task/${pid}/schedstat`, 'utf8').split(' ')[0]) / 1e6;
  } catch {
    return null; // another system: all the time that passes counts
  }
}

/** Asks the web process again and again whether it answers. @returns what ends it and gives the longest that it worked on something else before it did */
function watchAnswers({ app }: FuzzTarget): () => Promise<number> {
  const pid = app.process.pid ?? 0;
  let longest = 0;
  let watching = true;
  const done = (async () => {
    while (watching) {
      const [began, before] = [performance.now(), timeOnProcessor(pid)];
      const { body } = await request(`${app.origin}/healthz`, { dispatcher: askingAgent });
      await body.dump();
      const after = timeOnProcessor(pid);
      const worked = before === null || after === null ? Infinity : after - before;
      longest = Math.max(longest, Math.min(worked, performance.now() - began));
      await new Promise((next) => setTimeout(next, askEvery));
    }
  })();
  return async () => {
    watching = false;
    await done;
    return longest;
  };
}

/** Sends some inputs, several at a time. @returns the longest stall, and how each was answered */
async function sendAll(target: FuzzTarget, format: string, seeds: readonly number[], now: number) {
  const statuses = new Map<number, number | string>();
  const left = [...seeds];
  const end = watchAnswers(target);
  await Promise.all(
    Array.from({ length: atOnce }, async () => {
      for (let seed = left.pop(); seed !== undefined; seed = left.pop())
        statuses.set(seed, await send(target, fuzzInput(format, seed, now)));
    })
  );
  return { longest: await end(), statuses };
}

/** Inputs that are sent together before it is looked whether they held the web process. */
const batch = 100;

/**
 * Sends inputs of a format. A stall counts when the same inputs hold the web process each of three times: anything else on this machine can do so once.
 *
 * @param seed the first input's; the others follow
 */
export async function fuzzFormat(
  target: FuzzTarget,
  format: string,
  inputs: number,
  seed: number
): Promise<FuzzResult> {
  const now = target.app.clock.now();
  const counts: Record<number, number> = {};
  const broke: { seed: number; status: number | string }[] = [];
  const stalls: { seeds: number[]; ms: number }[] = [];
  let longest = 0;
  for (let from = 0; from < inputs; from += batch) {
    const seeds = Array.from({ length: Math.min(batch, inputs - from) }, (_, i) => seed + from + i);
    const sent = await sendAll(target, format, seeds, now);
    for (const [one, status] of sent.statuses)
      if (typeof status === 'number' && status < 500) counts[status] = (counts[status] ?? 0) + 1;
      else broke.push({ seed: one, status });
    longest = Math.max(longest, sent.longest);
    let again = sent.longest;
    for (let i = 0; i < 2 && again > longestStall; i++)
      again = Math.min(again, (await sendAll(target, format, seeds, now)).longest);
    if (again > longestStall) stalls.push({ seeds, ms: Math.round(again) });
  }
  return { format, inputs, statuses: counts, broke, stalls, longest: Math.round(longest) };
}

if (import.meta.url === pathToFileURL(process.argv[1] ?? '').href) {
  const { values } = parseArgs({
    options: { inputs: { type: 'string', default: '100000' }, seed: { type: 'string' }, format: { type: 'string' } }
  });
  const seed = Number(values.seed ?? Math.floor(Math.random() * 1e9));
  const target = await fuzzTarget();
  let isWell = true;
  for (const format of values.format === undefined ? Object.keys(formats) : [values.format]) {
    const began = performance.now();
    const result = await fuzzFormat(target, format, Number(values.inputs), seed);
    isWell &&= result.broke.length === 0 && result.stalls.length === 0;
    console.log(JSON.stringify({ seed, ...result, seconds: Math.round((performance.now() - began) / 1000) }));
  }
  for (const text of [target.app.said, target.app.logged]) if (text !== '') console.log(text.slice(0, 5_000));
  await target.app.stop();
  process.exitCode = isWell ? 0 : 1;
}
