import { expect } from 'chai';
import { usualSummary } from '../../../../tests/support/summaries';
import { summaryColumns, summaryRows } from './rows';
import { summarySchema, type Summary } from './summary';
import { comparedWords, isMet, summarySentences } from './words';

const quiet: Summary = {
  ...usualSummary,
  incidents: {
    ...{ total: 0, earlier: 0, open: 0, days: usualSummary.incidents.days },
    bySeverity: usualSummary.incidents.bySeverity.map((one) => ({ ...one, count: 0, earlier: 0 }))
  },
  ...{ services: [], longest: [], promises: [], cost: null, changed: [], moreChanged: 0, sizes: [] }
};

describe('sentences of a summary', () => {
  it('say what was raised, where, how long, what was promised, what it cost and what was changed', () => {
    expect(summarySentences(usualSummary)).to.deep.equal([
      '12 incidents were raised, 3 fewer than the week before. They were 1 critical, 4 major and 7 minor. 2 incidents are still open.',
      'Machines had the most: 8, the gravest critical.',
      'The longest lasted 6 h 10 min: Processor nearly exhausted on booking-web-2.',
      '1 of 2 promises is broken: Gate answers (99.1 % of 99.5 %).',
      'It cost €12,341, 4 % more than the week before.',
      'May is expected to cost about €52,000, between €50,000 and €54,000.',
      'ferry-archive (storage) costs €174 a day since 29 Apr; before, it was €88.00. Near it: Archive policy changed.',
      '3 changes were marked.'
    ]);
  });

  it('say that nothing was raised, and nothing of what nobody knows', () => {
    expect(summarySentences(quiet)).to.deep.equal(['Nothing was raised, as in the week before.']);
  });

  it('count one as one', () => {
    const { bySeverity } = usualSummary.incidents;
    const one: Summary = {
      ...quiet,
      kind: 'month',
      incidents: {
        ...{ ...quiet.incidents, total: 1, earlier: 3, open: 1 },
        bySeverity: bySeverity.map((each) => ({ ...each, count: each.severity === 'major' ? 1 : 0 }))
      },
      promises: [{ ...(usualSummary.promises[0] as Summary['promises'][number]), left: 0.4 }],
      changed: usualSummary.changed.slice(0, 1)
    };
    expect(summarySentences(one)).to.deep.equal([
      '1 incident was raised, 2 fewer than the month before. It was major. 1 incident is still open.',
      'The promise Booking answers is met.',
      '1 change was marked.'
    ]);
  });

  it('say that all were alike, and no name twice', () => {
    const { bySeverity } = usualSummary.incidents;
    const alike: Summary = {
      ...quiet,
      incidents: {
        ...{ ...quiet.incidents, total: 3, earlier: 3 },
        bySeverity: bySeverity.map((each) => ({ ...each, count: each.severity === 'minor' ? 3 : 0 }))
      },
      longest: usualSummary.longest.map((one) => ({ ...one, alarm: 'Budget: All accounts', subject: 'All accounts' }))
    };
    expect(summarySentences(alike)).to.deep.equal([
      '3 incidents were raised, as many as the week before. All were minor.',
      'The longest lasted 6 h 10 min: Budget: All accounts.'
    ]);
  });

  it('say until when is billed, and what is open longest', () => {
    const part: Summary = {
      ...quiet,
      longest: usualSummary.longest.map((one) => ({ ...one, closedAt: null })),
      cost: {
        ...(usualSummary.cost as NonNullable<Summary['cost']>),
        unbilledFrom: '2026-05-02',
        expected: null,
        changes: []
      }
    };
    const said = summarySentences(part);
    expect(said).to.include('The longest has been open for 6 h 10 min: Processor nearly exhausted on booking-web-2.');
    expect(said).to.include(
      'It cost €12,341, 4 % more than the same days of the week before. What is after 1 May is not billed yet.'
    );
  });

  it('compare counts, and know a promise that is met from one that nobody knows of', () => {
    expect(comparedWords(5, 5, 'week', false)).to.equal('as many as the week before');
    expect(comparedWords(1204, 4, 'month', false)).to.equal('1,200 more than the month before');
    expect(comparedWords(1, 4, 'month', true)).to.equal('3 fewer than by then in the month before');
    expect([0.2, 0, -3, null].map((left) => isMet({ left }))).to.deep.equal([true, false, false, null]);
  });

  it('are of a summary that is read strictly', () => {
    expect(summarySchema.safeParse(JSON.parse(JSON.stringify(usualSummary))).success).to.equal(true);
    expect(summarySchema.safeParse({ ...usualSummary, more: 1 }).success).to.equal(false);
  });
});

describe('numbers of a summary', () => {
  it('stand one a row, with what is unknown left empty, and as many columns as the heading has', () => {
    const rows = summaryRows(usualSummary);
    for (const row of rows) expect(row).to.have.length(summaryColumns.length);
    const found = (part: string, what: string) => rows.find((row) => row[0] === part && row[1] === what)?.slice(2);
    expect(found('incidents', 'critical')).to.deep.equal(['1', 1, 0]);
    expect(found('incidents', 'all')).to.deep.equal(['1', 12, 15]);
    expect(found('cost', 'all')).to.deep.equal(['EUR', 12_340.5, 11_865.4]);
    expect(found('cost of a day', '2026-05-03')).to.deep.equal(['EUR', '', '']);
    expect(found('promises, good', 'Gate answers')).to.deep.equal(['1', 0.991, '']);
    expect(found('longest incidents', 'Processor nearly exhausted, booking-web-2, 2026-04-28')).to.deep.equal([
      's',
      22_200,
      ''
    ]);
    const days = rows.filter(([part]) => part === 'cost of a day');
    expect(days.reduce((sum, [, , , amount]) => sum + Number(amount), 0)).to.be.closeTo(12_340.5, 1e-6);
  });
});
