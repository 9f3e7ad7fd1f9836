import type { Instant } from '../time';
import { expect } from 'chai';
import { CatalogueSearch, type CatalogueEntry } from './index';

const entry = (name: string, title: string, more: Partial<CatalogueEntry> = {}): CatalogueEntry => ({
  name,
  title,
  description: '',
  unit: '1',
  kind: 'gauge',
  shape: 'single',
  service: 'queues',
  resourceType: 'queue',
  samplingMs: 60_000,
  delayMs: 0,
  series: 1,
  accounts: ['corallo-prod'],
  providers: ['ostro'],
  regions: ['perla-1'],
  labels: {},
  newest: 0 as Instant,
  state: 'collected',
  ...more
});

describe('the catalogue', () => {
  const entries = [
    entry('queue.depth', 'Queue depth', { description: 'Messages that wait.' }),
    entry('queue.oldest.age', 'Age of the oldest message', { state: 'stale' }),
    entry('balancer.responses', 'Responses by class', {
      service: 'balancers',
      resourceType: 'balancer',
      labels: { class: ['2xx', '5xx'] }
    }),
    entry('orders', 'Orders', { service: 'pushed', providers: ['pushed'] }),
    entry('cache.hits', 'Hits', { service: 'caches', state: 'not collected' })
  ];
  let catalogue: CatalogueSearch;
  before(async () => (catalogue = await CatalogueSearch.of(entries)));
  const names = (text: string, more: object = {}) => catalogue.find({ text, ...more }).map(({ name }) => name);

  it('finds by words of any text, by beginnings, in spite of typing errors; all words must be there', () => {
    expect(names('depth')).to.deep.equal(['queue.depth']);
    expect(names('quue dep')).to.deep.equal(['queue.depth']);
    expect(names('5xx')).to.deep.equal(['balancer.responses']);
    expect(names('class')).to.deep.equal(['balancer.responses']);
    expect(names('ostro queue')).to.include.members(['queue.depth', 'queue.oldest.age']);
    expect(names('queue responses')).to.deep.equal([]);
  });

  it('ranks the title before the description', () => {
    expect(names('message')[0]).to.equal('queue.oldest.age');
  });

  it('ranks metrics that fit alike by how many series they have', async () => {
    const alike = [2, 7, 23].map((series) => ({
      ...entries[0]!,
      name: `processor.use.${series}`,
      title: 'Processor use',
      series
    }));
    const found = (await CatalogueSearch.of(alike)).find({ text: 'processor' });
    expect(found.map(({ series }) => series)).to.deep.equal([23, 7, 2]);
  });

  it('without words lists all, collected ones first; filters by state and service', () => {
    expect(names(' ').at(-1)).to.equal('cache.hits');
    expect(names('', { state: 'stale' })).to.deep.equal(['queue.oldest.age']);
    expect(names('', { state: 'pushed' })).to.deep.equal(['orders']);
    expect(names('', { service: 'balancers' })).to.deep.equal(['balancer.responses']);
  });

  it('takes whatever is typed', () => {
    for (const text of ['(', '*', '"', '\\', '\u0000', 'a'.repeat(200), '__proto__', '💧']) names(text);
  });
});
