import { expect } from 'chai';
import { serviceByKey, services } from '../../services';
import { picksOf } from '../../signal';
import { boardSchema, signalsOf } from '../index';
import { groupBoard, resourceBoard, starterBoard, starterKeys, type StarterMetric } from './index';

const metric = (name: string, more: Partial<StarterMetric> = {}): StarterMetric => ({
  name,
  title: name,
  kind: 'gauge',
  recommended: true,
  samplingMs: 60_000,
  delayMs: 60_000,
  isCollected: true,
  ...more
});
/** Every metric that the starter of a service would show. */
const wanted = (service: string) => starterBoard(service, []).lacks;

describe('the ready board of a service', () => {
  it('opens panels of slow metrics with days, and others with what is usual', () => {
    const rangesOf = (service: string, samplingMs: number) => {
      const metrics = wanted(service).map((name) => metric(name, { samplingMs }));
      const panels = starterBoard(service, metrics).board.panels.filter((panel) => signalsOf(panel).length > 0);
      return [...new Set(panels.map(({ range }) => range))];
    };
    expect(rangesOf('objects', 3_600_000)).to.deep.equal(['P3D']);
    expect(rangesOf('objects', 60_000), 'cells of an hour, however often samples come').to.deep.equal(['P3D']);
    expect(rangesOf('queues', 3_600_000)).to.deep.equal(['P3D']);
    expect(rangesOf('queues', 60_000)).to.deep.equal([undefined]);
  });

  it('is there for every kind of the scenario that providers have and is a sound board when all is collected', () => {
    const kinds = services.filter(({ key }) => !['accounts', 'pushed', 'derived'].includes(key)).map(({ key }) => key);
    expect([...starterKeys].sort()).to.deep.equal([...kinds, 'watch'].sort());
    for (const key of starterKeys) {
      const { board, lacks } = starterBoard(
        key,
        wanted(key).map((name) => metric(name))
      );
      expect(boardSchema.safeParse(board).success, key).to.equal(true);
      expect(lacks, key).to.deep.equal([]);
      expect(board.panels.length, key).to.be.at.least(5);
      expect(board.about, key).to.not.equal('');
    }
  });

  it('shows few series as a chart, which pickers narrow, and many as a list of what they are now', () => {
    const metrics = (series?: number) =>
      wanted('watch').map((name) => metric(name, series === undefined ? {} : { series }));
    const pictureOf = (of: StarterMetric[]) =>
      starterBoard('watch', of).board.panels.find(({ title }) => title === 'Stored, by store')?.picture;
    expect(pictureOf(metrics())).to.equal('lines');
    expect(pictureOf(metrics(8))).to.equal('lines');
    expect(pictureOf(metrics(9))).to.equal('snapshot');
    const { board } = starterBoard('watch', metrics(9));
    expect(boardSchema.safeParse(board).success).to.equal(true);
    expect(board.pickers.map(({ label }) => label)).to.deep.equal(['account', 'region']);
  });

  it('leaves out what is not collected, keeps the columns that are, and says what it lacks', () => {
    const all = wanted('databases');
    const some = all.filter((name) => name !== 'database.replica.lag').map((name) => metric(name));
    const { board, lacks } = starterBoard('databases', some);
    expect(lacks).to.deep.equal(['database.replica.lag']);
    expect(board.panels.map(({ title }) => title))
      .to.include('Connections in use')
      .and.not.include('Replica lag');
    const list = board.panels.find((panel) => panel.picture === 'snapshot');
    expect(list?.columns.map(({ title }) => title))
      .to.include('Storage')
      .and.not.include('Replica lag');
    const used = board.panels
      .flatMap(signalsOf)
      .flatMap(picksOf)
      .map((pick) => pick.metric);
    expect(used.every((name) => some.some((one) => one.name === name))).to.equal(true);
  });

  it('of a service that has none of its own draws what is recommended, a running total as its rate', () => {
    const { board } = starterBoard('pushed', [
      metric('jobs.done', { kind: 'cumulative' }),
      metric('late', { delayMs: 3_600_000 }),
      metric('gone', { isCollected: false }),
      metric('rare', { recommended: false })
    ]);
    const [signal, ...others] = board.panels.flatMap(signalsOf);
    expect(signal?.rows[0]).to.include({ metric: 'jobs.done', statistic: 'rate' });
    expect(others).to.deep.equal([]);
    expect(starterBoard('constructor', []).board.title).to.equal('Constructor');
  });

  it('of a group has a section for each service, narrowed to the group', () => {
    const all = ['databases', 'queues'].map((service) => ({
      service,
      metrics: wanted(service).map((name) => metric(name))
    }));
    const board = groupBoard('tickets', all);
    expect(boardSchema.safeParse(board).success).to.equal(true);
    expect(board.sections.map(({ title }) => title)).to.deep.equal(['Databases', 'Queues']);
    const picks = board.panels.flatMap(signalsOf).flatMap(picksOf);
    expect(
      picks.every(({ where }) => where.some((one) => one.label === 'group' && 'is' in one && one.is[0] === 'tickets'))
    ).to.equal(true);
  });

  it('of one resource has a panel for each of its metrics, in cells no shorter than its samples come', () => {
    const board = resourceBoard({ name: 'ticket-orders', account: 'corallo-prod', service: 'databases' }, [
      { ...metric('b', { recommended: false }), samplingMs: 3_600_000 },
      { ...metric('a'), samplingMs: 15_000 }
    ]);
    expect(boardSchema.safeParse(board).success).to.equal(true);
    expect(board.panels.map(({ title }) => title)).to.deep.equal(['a', 'b', 'Marks and events']);
    expect(board.panels.flatMap(signalsOf).map(({ step }) => step)).to.deep.equal(['PT1M', 'PT1H']);
    expect(serviceByKey('databases').one).to.equal('database');
  });
});
