import { expect } from 'chai';
import fc from 'fast-check';
import { differs, mostShapeWords, Shapes, shapeWords } from './shapes';

describe('the words of a line, as shapes compare them', () => {
  it('have kinds where they are variable by their looks', () => {
    const read = (text: string) => shapeWords(text).join(' ');
    expect(read('memory cgroup out of memory: killed process 4127 (seatmap)')).to.equal(
      'memory cgroup out of memory : killed process ‹number› ( seatmap )'
    );
    expect(read('cannot allocate 64 MiB for vessel=12')).to.equal('cannot allocate ‹size› for vessel = ‹number›');
    expect(read('served in 18ms, 3.5 s, 1204 bytes')).to.equal('served in ‹duration› , ‹duration› , ‹size›');
    expect(read('2026-05-04T14:05:07.123Z 10.4.0.17:8080 kaja@example.test')).to.equal('‹time› ‹address› ‹address›');
    expect(read('trace 4bf92f3577b34da6a3ce929d0e0e4736 0x1f 9b2c4a6e-1d3f-4b5a-8c7d-0e1f2a3b4c5d')).to.equal(
      'trace ‹id› ‹id› ‹id›'
    );
    expect(read('deadbeef decade 12:30'), 'a word in the letters of numbers is a word').to.equal(
      'deadbeef decade ‹time›'
    );
  });

  it('are bounded, whatever the line is', () => {
    expect(shapeWords('a '.repeat(1000))).to.have.length(mostShapeWords);
    expect(shapeWords('x'.repeat(1_000_000))).to.have.length(1);
    for (const hostile of [`a@${'.'.repeat(3900)}@`, `${':'.repeat(3900)}x`, `${'1,'.repeat(1900)}x`, '9'.repeat(3900)])
      expect(shapeWords(hostile).join('').length).to.be.at.most(4000);
    fc.assert(
      fc.property(fc.string({ unit: 'binary', maxLength: 300 }), (text) => {
        expect(shapeWords(text).length).to.be.at.most(mostShapeWords);
      })
    );
  });
});

describe('shapes of lines', () => {
  it('leave out what differs, and say what is alike', () => {
    const shapes = new Shapes();
    const ids = ['seatmap-2', 'quote-1', 'checkout-7'].map((name) => shapes.add(`container ${name} ended with 137`).id);
    const other = shapes.add('retry 1 of 3: seatmap did not answer');
    expect(new Set(ids).size).to.equal(1);
    expect(other).to.deep.equal({ id: 2, isNew: true });
    expect(shapes.all.map(({ words, count }) => [words.join(' '), count])).to.deep.equal([
      [`container ${differs} ended with ‹number›`, 3],
      ['retry ‹number› of ‹number› : seatmap did not answer', 1]
    ]);
  });

  it('are the same for the same lines, and count each once', () => {
    const word = fc.constantFrom('ferry', 'left', 'berth', '4', '18ms', 'late', 'by');
    fc.assert(
      fc.property(fc.array(fc.array(word, { maxLength: 6 }), { maxLength: 60 }), (lines) => {
        const [one, two] = [new Shapes(), new Shapes()];
        const ids = lines.map((words) => one.add(words.join(' ')).id);
        expect(lines.map((words) => two.add(words.join(' ')).id)).to.deep.equal(ids);
        expect(one.all.reduce((sum, { count }) => sum + count, 0)).to.equal(lines.length);
        for (const [index, words] of lines.entries()) {
          const shape = one.all.find(({ id }) => id === ids[index]);
          const own = shapeWords(words.join(' '));
          expect(shape?.words.length).to.equal(own.length);
          shape?.words.forEach((said, at) => expect([differs, own[at]]).to.include(said));
        }
      })
    );
  });

  it('that are too many go together by their number of words', () => {
    const shapes = new Shapes({ most: 5 });
    const letters = 'abcdefghijklmnopqrstuvwxyz';
    for (const first of letters) for (const second of letters) shapes.add(`${first}${first}x ${second}${second}y`);
    expect(shapes.all).to.have.length(6);
    expect(shapes.all.at(-1)).to.deep.include({ words: [differs, differs] });
    expect(shapes.all.reduce((sum, { count }) => sum + count, 0)).to.equal(26 * 26);
    expect(shapes.add('three words here').isNew, 'one for each length').to.equal(true);
  });

  it('of lines from known templates are those templates, for at least 95 of 100 lines', () => {
    const names = ['seatmap', 'quote', 'checkout', 'booking-web', 'gate-api', 'tariff-worker', 'freight-desk'];
    const templates: readonly ((n: number) => string)[] = [
      (n) => `served fare ${names[n % 7]?.toUpperCase()} in ${n % 90} ms`,
      (n) => `cannot allocate ${n % 512} MiB for the deck plan of vessel ${n % 40}`,
      (n) => `cache above its limit: ${n % 600} of 512 MiB`,
      (n) => `container ${names[n % 7]}-${n % 9} ended with ${n % 200}`,
      (n) => `starting, ${n % 1024} MiB`,
      (n) => `order ${10_000 + n} paid`,
      (n) => `order ${10_000 + n} refused: card ${names[n % 7]} is over its limit`,
      (n) => `retry ${n % 3} of 3: ${names[n % 7]} did not answer`,
      (n) => `memory cgroup out of memory: killed process ${n} (${names[n % 7]})`,
      (n) => `connection from 10.4.${n % 8}.${n % 250}:${40_000 + (n % 20_000)} closed after ${n % 60}s`,
      (n) => `connection from 10.4.${n % 8}.${n % 250}:${40_000 + (n % 20_000)} refused: too many connections`,
      (n) => `GET /api/fares/${n} 200 ${n % 90}ms`,
      (n) => `replication of ${names[n % 7]}-standby is ${n % 900} MiB behind`,
      (n) => `checkpoint complete: wrote ${n % 4000} buffers in ${(n % 80) / 10} s`,
      (n) => `user ${names[n % 7]}@example.test signed in from 10.9.0.${n % 250}`
    ];
    let state = 7;
    const next = () => (state = (state * 1_103_515_245 + 12_345) % 2_147_483_648);
    const shapes = new Shapes();
    const lines = Array.from({ length: 6000 }, () => {
      // Templates come as often as in real logs: few of them most of the time.
      const template = Math.floor((next() / 2_147_483_648) ** 2 * templates.length);
      return { template, id: shapes.add(templates[template]?.(next() >> 8) ?? '').id };
    });
    // A line counts where its shape has exactly the lines of its template.
    const pure = new Set(
      templates.flatMap((_, template) => {
        const ids = new Set(lines.filter((line) => line.template === template).map(({ id }) => id));
        const [id] = ids;
        return ids.size === 1 && lines.every((line) => line.id !== id || line.template === template) ? [template] : [];
      })
    );
    const right = lines.filter(({ template }) => pure.has(template)).length / lines.length;
    expect(right).to.be.at.least(0.95);
  });
});
