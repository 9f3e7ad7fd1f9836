import { expect } from 'chai';
import { chanceOf } from '../../../../tests/support/chance';
import { withDatabase } from '../../../../tests/support/database';
import { storeIncident } from '../../../../tests/support/incidents';
import { severities, type Severity } from '../../core/alarm';
import { after, hour, instant, minute, range, times, type Instant, type Range } from '../../core/time';
import { countOfOpen, incidentCounts, longestIncidents } from './counted';
import { incidentsIn } from './overlapping';

describe('incidents within a span', () => {
  const at = withDatabase();
  const start = instant(1_777_800_000_000);
  interface Stored {
    readonly id: number;
    readonly from: Instant;
    readonly to: Instant | null;
    readonly severity: Severity;
    readonly service: string;
  }
  const stored: Stored[] = [];

  before(async () => {
    const { unit } = chanceOf(8);
    for (let index = 0; index < 80; index++) {
      const from = after(start, times(Math.floor(unit() * 48 * 60), minute));
      const to = index % 6 === 0 ? null : after(from, times(1 + Math.floor(unit() * 300), minute));
      const severity = severities[Math.floor(unit() * 4)] as Severity;
      const service = index % 2 === 0 ? 'machines' : 'queues';
      const labels = { service, resource: `thing-${index}` };
      const id = await storeIncident(at.db, from, { severity, labels, closedAt: to });
      stored.push({ id, from, to, severity, service });
    }
  });
  const touching = ({ from, to }: Range) => stored.filter((one) => one.from < to && (one.to === null || one.to > from));
  const spans = [0, 7, 20, 47].map((hours) =>
    range(after(start, times(hours, hour)), after(start, times(hours + 5, hour)))
  );

  it('are those that were open in it, the gravest first, then those that began nearest to its begin', async () => {
    for (const span of spans) {
      const expected = touching(span)
        .filter(({ service }) => service === 'machines')
        .sort(
          (a, b) =>
            severities.indexOf(b.severity) - severities.indexOf(a.severity) ||
            Math.abs(a.from - span.from) - Math.abs(b.from - span.from) ||
            a.id - b.id
        );
      const found = await incidentsIn(at.db, span, ['machines'], 100);
      expect(found.map(({ id }) => id)).to.deep.equal(expected.map(({ id }) => id));
      expect((await incidentsIn(at.db, span, ['machines'], 2)).map(({ id }) => id)).to.deep.equal(
        expected.slice(0, 2).map(({ id }) => id)
      );
      expect(await incidentsIn(at.db, span, [], 100), 'of no service').to.deep.equal([]);
    }
  });

  it('are counted by the hour in which they were raised, each once', async () => {
    const edges = Array.from({ length: 50 }, (_, index) => after(start, times(index, hour)));
    const counts = await incidentCounts(at.db, edges);
    expect(counts.reduce((sum, { count }) => sum + count, 0)).to.equal(stored.length);
    for (const { service, severity, day, count } of counts)
      expect(count).to.equal(
        stored.filter(
          (one) => one.service === service && one.severity === severity && Math.floor((one.from - start) / hour) === day
        ).length
      );
    for (const edge of [edges[0], edges[20], edges[49]] as Instant[])
      expect(await countOfOpen(at.db, edge)).to.equal(
        stored.filter(({ from, to }) => to === null && from < edge).length
      );
  });

  it('lasted as long as they were open within it, the longest first', async () => {
    for (const span of spans) {
      const lengthOf = ({ from, to }: Stored) => Math.min(to ?? Infinity, span.to) - Math.max(from, span.from);
      const expected = touching(span)
        .map(lengthOf)
        .sort((a, b) => b - a)
        .slice(0, 7);
      const found = await longestIncidents(at.db, span, 7);
      expect(found.map(({ length }) => length)).to.deep.equal(expected);
      for (const { id, length, closedAt } of found) {
        const one = stored.find((each) => each.id === id) as Stored;
        expect([length, closedAt]).to.deep.equal([lengthOf(one), one.to]);
      }
    }
  });
});
