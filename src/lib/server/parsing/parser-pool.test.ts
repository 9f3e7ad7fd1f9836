import { expect } from 'chai';
import { readFileSync } from 'node:fs';
import { gzipSync } from 'node:zlib';
import { linesOfBytes } from './lines-of-bytes';
import { parserPool, type ParserPool } from './parser-pool';
import type { ReceiveTask } from './tasks';

const now = 1_777_881_700_000;
const task = (format: ReceiveTask['format'], body: string | Buffer, isGzip = false): ReceiveTask => ({
  format,
  body: Buffer.from(body),
  isGzip,
  now
});
const failure = (work: Promise<unknown>): Promise<Error & { status?: number }> =>
  work.then(
    () => new Error('it was read'),
    (error: Error) => error
  );

describe('the parser pool', function () {
  this.timeout(180_000);
  let room: ParserPool;
  before(() => (room = parserPool()));
  after(() => room.close());

  /** Processor time of this thread, ms: however much else the machine does. */
  function threadTime(): number {
    // What follows the name, which may have blanks: state, and from the twelfth on, ticks of 10 ms in user mode and in the kernel.
    const [, after = ''] = readFileSync(`/proc/self/task/${process.pid}/stat`, 'utf8').split(/\) (?=\S )/);
    const fields = after.split(' ');
    return (Number(fields[11]) + Number(fields[12])) * 10;
  }

  it('gives back what was read, whatever crosses the border', async () => {
    const line = (i: number) => `{"metric":"m${i % 3}","at":${now - i},"value":${i / 7},"labels":{"lane":"é"}}`;
    const received = await room.receive(task('ndjson', Array.from({ length: 9 }, (_, i) => line(i)).join('\n')));
    expect(received.series.map(({ metric, points }) => [metric.name, points.length])).to.deep.equal([
      ['m0', 3],
      ['m1', 3],
      ['m2', 3]
    ]);
    expect(received.series[1]!.points[0]).to.deep.equal([now - 1, 1 / 7, 1, 1 / 7, 1 / 7]);
    expect(received.series[1]!.starts).to.deep.equal([null, null, null]);
  });

  it('lines that are no UTF-8 are refused alone, with their numbers', async () => {
    expect(linesOfBytes(Buffer.from('a\né\n'))).to.deep.equal({ text: 'a\né\n', broken: [] });
    const body = Buffer.concat([Buffer.from('up{a="'), Buffer.of(0xff), Buffer.from('"} 1\nup 2\n# EOF\n')]);
    const { series, refused, faults } = await room.receive(task('openmetrics', body));
    expect(series).to.have.length(1);
    expect(refused).to.deep.include({ reason: 'cannot be read', count: 1, example: 'Line 1 is no UTF-8.' });
    expect(faults[0]).to.equal('Line 1 is no UTF-8.');
  });

  it('a body that unpacks to a flood, a table of too many columns, millions of faulty lines: refused, and this thread goes on', async () => {
    await room.receive(task('ndjson', ''));
    const columns = Array.from({ length: 200_000 }, (_, i) => `label.l${i}`).join();
    const wide = `metric,at,value,${columns}\n${`m,${now},1${',x'.repeat(200_000)}\n`.repeat(10)}`;
    const cases: readonly (readonly [ReceiveTask, RegExp, number])[] = [
      [task('ndjson', gzipSync('{}\n'.repeat(10_000_000)), true), /More than 1000 parts cannot be read/, 400],
      [task('ndjson', gzipSync(Buffer.alloc(40_000_000)), true), /more than 32 MiB/, 413],
      [task('ndjson', 'x', true), /not gzip/, 400],
      [task('csv', wide), /columns, more than 200|record size|exceeds/i, 400],
      [task('openmetrics', 'bad line\n'.repeat(1_000_000)), /More than 1000 lines/, 400],
      [task('otlp-json', '['.repeat(1_000_000)), /no OTLP JSON/, 400],
      [task('otlp-protobuf', Buffer.of(255, 255)), /no OTLP protobuf/, 400]
    ];
    for (const [one, message, status] of cases) {
      const before = threadTime();
      const error = await failure(room.receive(one));
      const worked = threadTime() - before;
      expect(error.message).to.match(message);
      expect(error.status, error.message).to.equal(status);
      expect(worked, `${one.format} ${message}: ms of this thread`).to.be.below(400);
    }
  });

  it('what takes too long or too much memory is given up, and the next is read', async () => {
    const hasty = parserPool({ patienceMs: 50 });
    const small = parserPool({ memoryMb: 40, patienceMs: 25_000 });
    try {
      const late = await failure(hasty.receive(task('ndjson', '')));
      expect(late.message).to.equal('Reading it took longer than 0.05 s.');
      const many = Array.from({ length: 400_000 }, (_, i) => `{"metric":"m","at":${now - i},"value":1}`).join('\n');
      const error = await failure(small.receive(task('ndjson', many)));
      expect(error.message).to.equal('Reading it took more memory than there is for it.');
      expect(error.status).to.equal(413);
      const again = await small.receive(task('csv', `metric,at,value\nm,${now},1\n`));
      expect(again.series).to.have.length(1);
    } finally {
      await hasty.close();
      await small.close();
    }
  });

  it('when too much waits, the rest is refused for the moment', async () => {
    const small = parserPool({ mostWaiting: 1 });
    try {
      const all = await Promise.all(Array.from({ length: 8 }, () => failure(small.receive(task('ndjson', '')))));
      const refused = all.filter(({ status }) => status === 503);
      expect(refused.length).to.equal(5);
      expect(refused[0]!.message).to.equal('Too much is waiting to be read.');
    } finally {
      await small.close();
    }
  });

  it('a board file of nested brackets or of thousands of keys is told what is wrong, at once', async () => {
    for (const brackets of [1300, 1310, 100_000]) {
      const read = await room.boardFile('['.repeat(brackets));
      expect(read).to.deep.equal({
        kind: 'unreadable',
        problems: [{ path: '', line: 1, message: 'It is nested too deeply to be a board.' }]
      });
    }
    const keys = Array.from({ length: 20_000 }, (_, i) => `key${i}: ${i}\n`).join('');
    const read = await room.boardFile(`kind: board\nversion: 1\ntitle: a\npanels: []\n${keys}`);
    expect(read.kind).to.equal('unreadable');
    const twice = await room.boardFile('kind: board\nversion: 1\ntitle: a\npanels: []\ntitle: b\n');
    expect(twice).to.deep.equal({
      kind: 'unreadable',
      problems: [{ path: '', line: 5, message: 'The key title is there twice.' }]
    });
  });
});
