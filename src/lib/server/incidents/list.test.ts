import { expect } from 'chai';
import { withHouse } from '../../../../tests/support/bussola';
import { instant } from '../../core/time';
import { listClosed, listOpen, type IncidentFilter } from './list';

describe('the list of incidents', () => {
  const house = withHouse();
  const any: IncidentFilter = { severity: null, service: null, account: null, attention: null, text: null };
  const made = (
    key: string,
    more: { service?: string; severity?: string; closed?: number; by?: string; later?: number } = {}
  ) =>
    house.bussola.db.rows(
      `insert into incidents (alarm_id, alarm_name, key, labels, severity, gravest, opened_at, closed_at, acknowledged_at, acknowledged_by)
       values (null, $1, $1, jsonb_build_object('service', $2::text, 'resource', $1::text, 'account', 'corallo-prod'), $3, $3, $7, $4, $5, $6)`,
      [
        key,
        more.service ?? 'queues',
        more.severity ?? 'minor',
        more.closed === undefined ? null : begin + more.closed,
        more.by ? begin : null,
        more.by ?? null,
        begin + (more.later ?? 0) * 60_000
      ]
    );
  const openOf = async (filter: Partial<IncidentFilter>, most = 100, after = 0) => {
    const { groups, count } = await listOpen(house.bussola, { ...any, ...filter }, most, after);
    return [count, ...groups.flatMap(({ incidents }) => incidents.map(({ resource }) => resource))];
  };

  let begin = 0;

  before(async () => {
    begin = house.clock.now() - 3_600_000;
    await made('gate-scan', { severity: 'major' });
    await made('fares 100%_done', { by: 'Ivo Brandt', severity: 'critical', later: 1 });
    await made('old-gate', { service: 'databases', later: 2 });
    await made('was-busy', { closed: 5000 });
    await made('long-ago', { closed: 1500 });
  });

  it('has what nobody looks after first, of this the gravest', async () => {
    expect(await openOf({})).to.deep.equal([3, 'gate-scan', 'old-gate', 'fares 100%_done']);
    expect(await openOf({}, 1, 1), 'a page of it').to.deep.equal([3, 'old-gate']);
  });

  it('is filtered by severity, service, account, whether somebody looks after it, and text as it stands', async () => {
    expect(await openOf({ severity: 'major' })).to.deep.equal([1, 'gate-scan']);
    expect(await openOf({ service: 'databases' })).to.deep.equal([1, 'old-gate']);
    expect(await openOf({ account: 'perla-data' })).to.deep.equal([0]);
    expect(await openOf({ attention: 'somebody' })).to.deep.equal([1, 'fares 100%_done']);
    expect(await openOf({ attention: 'nobody', text: 'GATE' })).to.deep.equal([2, 'gate-scan', 'old-gate']);
    expect(await openOf({ attention: 'shelved' })).to.deep.equal([0]);
    for (const text of ['100%_', '%', "'; drop table incidents; --"]) {
      const [count] = await openOf({ text });
      expect(count, text).to.equal(text.startsWith("'") ? 0 : 1);
    }
  });

  it('of what is clear has what was open in the range', async () => {
    const closed = await listClosed(
      house.bussola.db,
      any,
      { from: instant(begin + 2000), to: instant(begin + 9000) },
      10
    );
    expect(closed.map(({ resource }) => resource)).to.deep.equal(['was-busy']);
  });
});
