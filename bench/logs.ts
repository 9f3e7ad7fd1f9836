import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Shapes } from '../src/lib/core/logs';
import { groupBy } from '../src/lib/core/lists/group-by';
import { instant } from '../src/lib/core/time';
import { oneRow } from '../src/lib/server/db/pool';
import { arriving, begin, day, rawLine, worldLines } from './lines';
import { onEachHome } from './homes';
import { sealNow, withLogs } from './logs-home';
import { middleOf, type Measurement } from './measurement';

/**
 * Durable lines a second through the journal, against a row a line with a text index in the same database. Both get their lines as they come out of the threads that read what arrives: ours as batches, theirs as columns. What each
 * leaves for later counts as well: theirs merges what its index put off, ours seals.
 */
export async function logsIntake(): Promise<Measurement[]> {
  const perBatch = 10_000;
  const batches = 8;
  const all = worldLines(begin, begin + 2 * day).flatMap(({ stream, lines }) =>
    lines.map((line) => ({ stream, line }))
  );
  const some = Array.from({ length: batches }, (_, batch) => all.slice(batch * perBatch, (batch + 1) * perBatch));
  const lines = perBatch * batches;
  return onEachHome((home) =>
    withLogs(home, async ({ logs }, accountId): Promise<Measurement> => {
      const { db } = home;
      await db.rows('create table plain_lines (stream text, at bigint, severity integer, text text, fields jsonb)');
      await db.rows(`create index plain_text on plain_lines using gin (to_tsvector('simple', text))`);
      const encoding = performance.now();
      const encoded = some.map((batch) =>
        [...groupBy(batch, ({ stream }) => stream)].map(([stream, own]) =>
          arriving(
            accountId,
            stream,
            own.map(({ line }) => line)
          )
        )
      );
      const encodedIn = performance.now() - encoding;
      const columns = some.map((batch) => [
        batch.map(({ stream }) => stream),
        batch.map(({ line }) => line.at),
        batch.map(({ line }) => line.severity),
        batch.map(({ line }) => line.text),
        batch.map(({ line }) => JSON.stringify(line.fields))
      ]);
      const spent = { ours: 0, theirs: 0, behind: 0 };
      const timed = async (whose: keyof typeof spent, work: () => Promise<unknown>): Promise<void> => {
        const began = performance.now();
        await work();
        spent[whose] += performance.now() - began;
      };
      for (let batch = 0; batch < batches; batch++) {
        await timed('ours', () => logs.append(instant(begin), encoded[batch] ?? []));
        await timed('behind', () => logs.streams()); // what is done behind the acknowledgement takes nothing from theirs
        await timed('theirs', () =>
          db.rows(
            `insert into plain_lines
             select * from unnest($1::text[], $2::bigint[], $3::integer[], $4::text[], $5::jsonb[])`,
            columns[batch] ?? []
          )
        );
      }
      const acknowledged = { ...spent };
      await timed('behind', () => logs.seal(instant(begin), sealNow));
      await timed('theirs', () => db.rows(`select gin_clean_pending_list('plain_text')`));
      return {
        name: 'logs.intake',
        unit: 'durable lines/s',
        better: 'higher',
        ours: (1000 * lines) / acknowledged.ours,
        theirs: (1000 * lines) / acknowledged.theirs,
        alternative: `one row a line with a text index (gin of to_tsvector), insert … select from unnest, in the same ${home.name}, as many lines a transaction`,
        more: {
          'lines/s with taking and sealing': (1000 * lines) / (spent.ours + spent.behind),
          'of theirs with its index merged': (1000 * lines) / spent.theirs,
          'encoded lines/s': (1000 * lines) / encodedIn
        },
        note: `${batches} batches of ${perBatch} lines of the demo, all of them together`
      };
    })
  );
}

/** Bytes of the demo's lines once they are sealed, against `xz -6` of the same as text. */
export async function logsBytes(): Promise<Measurement> {
  const [measured] = await onEachHome((home) =>
    withLogs(home, async ({ logs }, accountId): Promise<Measurement> => {
      const folder = mkdtempSync(join(tmpdir(), 'bussola-bench-'));
      let [count, raw, packed] = [0, 0, 0];
      const began = performance.now();
      let sealing = 0;
      for (const { stream, lines } of worldLines(begin, begin + 14 * day)) {
        const file = join(folder, 'lines');
        writeFileSync(file, lines.map((line) => `${rawLine(line)}\n`).join(''));
        raw += statSync(file).size;
        execFileSync('xz', ['-6', file]);
        packed += statSync(`${file}.xz`).size;
        rmSync(`${file}.xz`);
        count += lines.length;
        for (let from = 0; from < lines.length; from += 4000)
          await logs.append(instant(begin), [arriving(accountId, stream, lines.slice(from, from + 4000))]);
        const before = performance.now();
        await logs.seal(instant(begin + 30 * day), sealNow);
        sealing += performance.now() - before;
      }
      const { ours } = oneRow(
        await home.db.rows<{ ours: number }>(
          'select sum(length(summary) + length(parts) + 4 * cardinality(ends) + 40)::bigint as ours from log_segments'
        )
      );
      rmSync(folder, { recursive: true });
      return {
        name: 'logs.bytes',
        unit: 'bytes',
        better: 'lower',
        ours,
        theirs: packed,
        alternative: 'xz -6 of the same lines as text, one file a stream',
        more: { 'share of the text': ours / raw, 'sealed lines/s': count / (sealing / 1000) },
        note: `${count} lines of the demo in 14 days, ${(raw / 1e6).toFixed(0)} MB as text; ${((performance.now() - began) / 1000).toFixed(0)} s in all`
      };
    })
  );
  if (measured === undefined) throw new Error('logs.bytes was not measured.');
  return measured;
}

/** Lines a second whose shapes are found, and how many lines are grouped as the templates say that they were made of. */
export function logsShapes(): Measurement {
  const streams = worldLines(begin, begin + day / 2);
  const lines = streams.flatMap(({ stream, lines: own }) => own.map(({ text }) => ({ stream, text })));
  const goal = 50_000;
  const rates: number[] = [];
  for (let round = 0; round < 5; round++) {
    const shapes = new Map<string, Shapes>();
    const began = performance.now();
    for (const { stream, text } of lines) {
      let own = shapes.get(stream);
      if (own === undefined) shapes.set(stream, (own = new Shapes()));
      own.add(text);
    }
    rates.push(lines.length / ((performance.now() - began) / 1000));
  }
  return {
    name: 'logs.shapes',
    unit: 'lines/s',
    better: 'higher',
    ours: middleOf(rates),
    theirs: goal,
    alternative: `the goal of ${goal} lines/s`,
    more: { 'grouping accuracy': accuracy() },
    note: `${lines.length} lines of the demo; accuracy: lines in a group that is exactly that of their template, of 20,000 lines of known templates`
  };
}

/** The share of lines whose group is exactly that of their template. */
function accuracy(): number {
  const templates: ((n: number) => string)[] = [
    (n) => `order ${n} paid`,
    (n) => `payment of order ${n} was declined`,
    (n) => `served fare ${['PER-SEL', 'SEL-PER', 'AMB-ROC'][n % 3]} in ${n % 90} ms`,
    (n) => `drew the deck plan of ${['capra', 'medusa', 'orata'][n % 3]} in ${n % 90} ms`,
    (n) => `cache holds ${n % 512} of 512 MiB`,
    (n) => `ticket ${n * 7919} accepted at gate ${n % 12}`,
    (n) => `ticket ${n * 7919} refused at gate ${n % 12}: already used`,
    (n) => `connection from 10.0.${n % 8}.${n % 250} closed after ${n % 600} s`,
    (n) => `warden[${700 + (n % 20)}]: container ${(n * 2654435761).toString(16)} is ready`,
    (n) => `memory cgroup out of memory: killed process ${n % 32768} (seatmap)`,
    (n) => `retry ${1 + (n % 3)} of 3: seatmap did not answer`,
    (n) => `wrote ${n % 4000} pages in ${(n % 300) / 10} s, 0.${n % 10} s of it waiting for the disk`
  ];
  const shapes = new Shapes();
  const groups = new Map<number, number[]>();
  const made: number[] = [];
  for (let n = 0; n < 20_000; n++) {
    const template = (n * 7) % templates.length;
    made.push(template);
    const { id } = shapes.add(templates[template]?.(n) ?? '');
    const group = groups.get(id);
    if (group === undefined) groups.set(id, [n]);
    else group.push(n);
  }
  const sizes = templates.map((_, template) => made.filter((one) => one === template).length);
  let right = 0;
  for (const lines of groups.values()) {
    const [first = 0] = lines;
    const template = made[first] ?? 0;
    if (lines.length === sizes[template] && lines.every((line) => made[line] === template)) right += lines.length;
  }
  return right / made.length;
}
