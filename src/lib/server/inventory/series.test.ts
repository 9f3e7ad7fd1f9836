import { expect } from 'chai';
import fc from 'fast-check';
import { withDatabase } from '../../../../tests/support/database';
import { makeSeries, seriesOfMetrics, type Series, type SeriesIdentity } from './series';

/** A series with all that it is of, as one join gives it: slow, and obviously right. */
const joined = `
  select series.id, series.account_id as "accountId", series.resource_id as "resourceId", series.metric, series.labels as own, accounts.name as account,
    accounts.provider, resources.region, resources.name as resource, resources.service, resources.type, resources.tags, resources.ended_at as "endedAt",
    metrics.kind, metrics.shape, metrics.unit, metrics.sampling_ms as "samplingMs", metrics.delay_ms as "delayMs"
  from series
  join resources on resources.account_id = series.account_id and resources.id = series.resource_id
  join accounts on accounts.id = series.account_id
  join metrics on metrics.provider = accounts.provider and metrics.name = series.metric
  order by resources.name, series.id`;

type Joined = Pick<Series, 'id' | 'accountId' | 'resourceId' | 'metric' | 'endedAt' | 'kind' | 'shape' | 'unit'> &
  Pick<Series, 'samplingMs' | 'delayMs'> &
  Record<'account' | 'provider' | 'region' | 'resource' | 'service' | 'type', string> &
  Record<'own' | 'tags', Record<string, string>>;

const names = ['queue.depth', 'queue.age', 'queue.depth_max', 'disk.use', 'disk%use', 'disk\\use'];

describe('series of metrics, with all that they are of', () => {
  const fixture = withDatabase();
  let all: Joined[];

  before(async () => {
    await fixture.db.rows(
      `insert into accounts (name, provider, endpoint, key_id, secret_sealed, created_at, created_by, history_from)
       select name, provider, 'x', 'x', '', 0, 'x', 0
       from (values ('one', 'levante'), ('two', 'levante'), ('three', 'ostro')) as them (name, provider)`
    );
    // The metrics of two providers share names and differ in all else; one provider lacks some.
    await fixture.db.rows(
      `insert into metrics (provider, name, title, description, unit, kind, shape, resource_type, service, sampling_ms, delay_ms)
       select provider, name, '', '', unit, kind, 'single', 'queue', 'queues', sampling, 0
       from unnest($1::text[]) as name,
         (values ('levante', '1', 'gauge', 60000), ('ostro', 'By', 'delta', 15000)) as of (provider, unit, kind, sampling)
       where provider = 'levante' or name not like 'disk%'`,
      [names]
    );
    // Resources of one name lie in several accounts.
    await fixture.db.rows(
      `insert into resources (account_id, provider_id, name, type, service, region, tags, first_seen_at, last_seen_at, ended_at)
       select account, 'id-' || i, 'resource-' || i % 4, 'queue', 'queues', 'perla-' || i % 3,
         case when i % 2 = 0 then '{}' else jsonb_build_object('team', 'web', 'resource', 'odd') end, 1, 1, case when i = 5 then 9 end
       from generate_series(1, 3) as account, generate_series(1, 6) as i`
    );
    for (const account of [1, 2, 3])
      await makeSeries(
        fixture.db,
        account,
        names.flatMap((metric) =>
          [1, 2, 3, 4, 5, 6].flatMap((i): SeriesIdentity[] => [
            { resource: `id-${i}`, metric, labels: {} },
            ...(i % 3 === 0 ? [{ resource: `id-${i}`, metric, labels: { class: 'a', region: 'its own' } }] : [])
          ])
        )
      );
    all = await fixture.db.rows<Joined>(joined);
  });

  /** What is looked up, one by one. */
  const asked = (metrics: readonly string[]) =>
    all.filter(({ metric }) =>
      metrics.some((wanted) => (wanted.endsWith('*') ? metric.startsWith(wanted.slice(0, -1)) : metric === wanted))
    );

  it('are what a join of everything gives, in its order, whatever is asked for', async () => {
    expect(all.length).to.equal(3 * 8 * 6 - 8 * 3);
    const wanted = fc.constantFrom(...names, 'queue.*', 'disk*', 'disk%*', 'none', '*');
    await fc.assert(
      fc.asyncProperty(fc.array(wanted, { maxLength: 4 }), async (metrics) => {
        const found = await seriesOfMetrics(fixture.db, metrics);
        expect(found.map(({ id }) => id)).to.deep.equal(asked(metrics).map(({ id }) => id));
        for (const [index, one] of found.entries()) {
          const { own, tags, account, provider, region, resource, service, type, ...rest } = asked(metrics)[
            index
          ] as Joined;
          const place = { account, provider, region, resource, service, type };
          expect(one).to.deep.include({ ...rest, service });
          expect(one.labels).to.deep.equal({
            ...place,
            ...('class' in own ? { class: own['class'], 'own.region': own['region'] } : {})
          });
          expect(one.ofResource).to.deep.equal({
            ...place,
            ...('team' in tags ? { 'tag.team': 'web', 'tag.resource': 'odd' } : {})
          });
          expect(one.conditionLabels).to.deep.equal({ ...one.ofResource, ...one.labels });
        }
      }),
      { numRuns: 60 }
    );
  });

  it('are none of a resource that is gone', async () => {
    await fixture.db.rows(`delete from resources where account_id = 2 and provider_id = 'id-1'`);
    const found = await seriesOfMetrics(fixture.db, ['queue.depth']);
    expect(found.filter(({ accountId }) => accountId === 2)).to.have.length(7);
  });
});
