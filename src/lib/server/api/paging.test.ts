import { expect } from 'chai';
import fc from 'fast-check';
import { instant, range } from '$lib/core/time';
import { linePage } from './line-page';
import { nextLink, pagedAnswer, pageOf, placeOf, readList, wholeList } from './paging';

interface Item {
  readonly id: number;
}
const refusalCode = (work: () => unknown): string => {
  try {
    work();
  } catch (error) {
    return (error as { code: string }).code;
  }
  return 'none';
};

describe('a list in pages', () => {
  const list = wholeList('items');
  /** Follows a list to its end, which changes between pages. */
  const walked = (limit: number, at: (page: number, last: number | undefined) => readonly Item[]): number[] => {
    const seen: number[] = [];
    let cursor: string | null = '';
    for (let page = 0; cursor !== null && page < 200; page++) {
      const { answer, next } = pagedAnswer(
        list,
        { items: at(page, seen.at(-1)) },
        pageOf(list, { limit, ...(cursor !== '' && { cursor }) })
      );
      seen.push(...(answer as { items: Item[] }).items.map(({ id }) => id));
      cursor = next;
    }
    return seen;
  };
  const items = fc.uniqueArray(fc.integer({ min: 1, max: 99 }), { maxLength: 30 });

  it('is all of it once, in its order, whatever the length of a page', () => {
    fc.assert(
      fc.property(items, fc.integer({ min: 1, max: 12 }), (ids, limit) => {
        expect(walked(limit, () => ids.map((id) => ({ id })))).to.deep.equal(ids);
      })
    );
  });

  it('has what stays once, whatever goes and comes meanwhile, but for the item that a page ended with', () => {
    fc.assert(
      fc.property(items, fc.array(items, { maxLength: 8 }), fc.integer({ min: 1, max: 6 }), (ids, leaving, limit) => {
        const gone = new Set<number>();
        const seen = walked(limit, (page, last) => {
          for (const id of page === 0 ? [] : (leaving[page - 1] ?? [])) if (id !== last) gone.add(id);
          const come = Array.from({ length: page }, (_, index) => 1000 + index);
          return [...come.slice(0, 1), ...ids.filter((id) => !gone.has(id)), ...come.slice(1)].map((id) => ({ id }));
        });
        expect(new Set(seen).size, 'none twice').to.equal(seen.length);
        const stay = ids.filter((id) => !gone.has(id));
        expect(seen.filter((id) => stay.includes(id))).to.deep.equal(stay);
      })
    );
  });

  it('ends, whatever stands in it more than once', () => {
    const same = wholeList('items', ({ id }: Item) => [id % 2]);
    const items = Array.from({ length: 9 }, (_, id) => ({ id }));
    let [seen, cursor]: [Item[], string | null] = [[], ''];
    while (cursor !== null && seen.length <= items.length) {
      const { answer, next }: ReturnType<typeof pagedAnswer> = pagedAnswer(
        same,
        { items },
        pageOf(same, { limit: 2, ...(cursor !== '' && { cursor }) })
      );
      seen = [...seen, ...(answer as { items: Item[] }).items];
      cursor = next;
    }
    expect(seen).to.deep.equal(items);
  });

  it('goes on behind an item that is gone with the one that followed it', () => {
    const after = [3, 4, 5, 6].map((id) => ({ id }));
    const seen = walked(2, (page) => (page === 0 ? [1, 2, 3, 4, 5, 6].map((id) => ({ id })) : [{ id: 1 }, ...after]));
    expect(seen).to.deep.equal([1, 2, 3, 4, 5, 6]);
  });

  it('is read on from where the last item stands, while pages are full', () => {
    const events = readList('events', {
      usual: 2,
      most: 10,
      place: ({ at, id }: { at: number; id: number }) => [at, id]
    });
    const first = pagedAnswer(
      events,
      {
        events: [
          { at: 9, id: 1 },
          { at: 8, id: 7 }
        ]
      },
      pageOf(events, {})
    );
    const page = pageOf(events, { cursor: first.next });
    expect([page.limit, placeOf(page, 2)]).to.deep.equal([2, [8, 7]]);
    expect(pagedAnswer(events, { events: [{ at: 8, id: 3 }] }, page).next).to.equal(null);
    expect(refusalCode(() => placeOf(page, 1))).to.equal('invalid');
  });

  it('takes no cursor that none of its pages gave', () => {
    for (const cursor of [
      '',
      'x',
      'bnVsbA',
      Buffer.from('[[1],2]').toString('base64url'),
      Buffer.from('{"a":1}').toString('base64url')
    ])
      expect(
        refusalCode(() => pageOf(list, { cursor })),
        cursor
      ).to.equal('invalid');
    const far = Buffer.from('["gone",1e300]').toString('base64url');
    expect(walked(2, () => [])).to.deep.equal([]);
    const behind = (cursor: string) => pagedAnswer(list, { items: [{ id: 1 }] }, pageOf(list, { cursor }));
    expect(refusalCode(() => behind(far))).to.equal('invalid');
    for (const place of ['["gone",-5]', '["gone","x"]', '["gone",0.5]'])
      expect(
        refusalCode(() => behind(Buffer.from(place).toString('base64url'))),
        place
      ).to.equal('invalid');
    expect(behind(Buffer.from('["gone",7]').toString('base64url'))).to.deep.equal({
      answer: { items: [] },
      next: null
    });
    const url = new URL('https://b.example.test/api/v1/items?limit=2&cursor=old');
    expect(nextLink(url, 'new')).to.equal('<https://b.example.test/api/v1/items?limit=2&cursor=new>; rel="next"');
  });

  it('of lines leaves out those of the same moment that were shown', () => {
    const whole = range(instant(0), instant(100));
    const line = (key: string, at: number) => ({ key, at: instant(at) });
    const lines = [line('a', 50), line('b', 50), line('c', 50), line('d', 40)];
    const { within, most, shownOf } = linePage(whole, { limit: 2, after: [50, 'b', 0] });
    expect([within.to, most]).to.deep.equal([51, 1002]);
    expect(shownOf(lines).map(({ key }) => key)).to.deep.equal(['c', 'd']);
    expect(
      shownOf([line('a', 50), line('d', 40)]).map(({ key }) => key),
      'removed meanwhile'
    ).to.deep.equal(['d']);
    expect(refusalCode(() => shownOf(Array.from({ length: 1002 }, (_, index) => line(`x${index}`, 50))))).to.equal(
      'invalid'
    );
    for (const after of [
      [50, 1, 0],
      ['50', 'b', 0],
      [100, 'b', 0],
      [-1, 'b', 0]
    ])
      expect(refusalCode(() => linePage(whole, { limit: 2, after }))).to.equal('invalid');
  });
});
