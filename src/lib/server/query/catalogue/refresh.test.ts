import { expect } from 'chai';
import type { CatalogueEntry } from '$lib/core/catalogue';
import { instant, type Instant } from '$lib/core/time';
import { Changes } from '../../base/changes';
import { Catalogue } from './catalogue';

describe('the catalogue, read again', () => {
  let now: Instant;
  /** Readings that wait to be answered, by what answers them. */
  let waiting: ((names: readonly string[] | Error) => void)[];
  let changes: Changes;
  let catalogueOf: (patienceMs: number) => Catalogue;
  let catalogue: Catalogue;

  beforeEach(() => {
    now = instant(1_000_000);
    waiting = [];
    changes = new Changes();
    const read = () =>
      new Promise<Uint8Array>((resolve, reject) =>
        waiting.push((names) => {
          if (names instanceof Error) return reject(names);
          const entries = names.map((name): Partial<CatalogueEntry> => ({
            name,
            title: name,
            providers: [],
            labels: {}
          }));
          resolve(new TextEncoder().encode(JSON.stringify(entries)));
        })
      );
    const evaluator = { catalogue: read };
    catalogueOf = (patienceMs) => new Catalogue({ evaluator, clock: { now: () => now }, changes, patienceMs });
    catalogue = catalogueOf(250);
  });
  const names = async () => (await catalogue.search()).entries.map(({ name }) => name);
  const answered = (told: readonly string[] | Error) => waiting.shift()?.(told);

  it('is read once for all who ask meanwhile, and serves until it is old or an account changed', async () => {
    const both = Promise.all([names(), names()]);
    expect(waiting).to.have.length(1);
    answered(['a']);
    expect(await both).to.deep.equal([['a'], ['a']]);
    now = instant(now + 29_000);
    expect(await names()).to.deep.equal(['a']);
    expect(waiting).to.have.length(0);
    changes.tell('account', { accountId: 1 });
    const changed = names();
    answered(['a', 'b']);
    expect(await changed).to.deep.equal(['a', 'b']);
    now = instant(now + 31_000);
    const later = names();
    answered(['c']);
    expect(await later).to.deep.equal(['c']);
  });

  it('whose reading fails tells who asked, and is read again by the next', async () => {
    const first = names();
    answered(new Error('gone'));
    expect(String(await first.catch((error: unknown) => error))).to.contain('gone');
    const second = names();
    answered(['a']);
    expect(await second).to.deep.equal(['a']);
  });

  it('that takes long to read serves as it was, but for whoever would find nothing', async () => {
    catalogue = catalogueOf(-1); // any reading takes longer
    const first = names();
    answered(['a']);
    expect(await first).to.deep.equal(['a']);
    changes.tell('definition', { alarmId: null });
    expect(await names(), 'as it was').to.deep.equal(['a']);
    const newest = catalogue.newest();
    expect(waiting, 'read once').to.have.length(1);
    answered(['a', 'made a moment ago']);
    expect((await newest).entries.map(({ name }) => name)).to.deep.equal(['a', 'made a moment ago']);
    expect((await catalogue.newest()).entries).to.have.length(2);
  });
});
