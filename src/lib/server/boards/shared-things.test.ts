import { expect } from 'chai';
import type { Board, Choices } from '$lib/core/board';
import { plainSignal } from '$lib/core/signal';
import { instant } from '$lib/core/time';
import type { Resource } from '../inventory/resources';
import { sharedThings, type AllThings } from './shared-things';

const now = instant(1_777_903_200_000);
const resource = (id: number, name: string, service: string): Resource => ({
  id,
  accountId: 1,
  account: 'corallo-prod',
  provider: 'levante',
  providerId: name,
  name,
  type: service,
  service,
  region: 'perla-1',
  tags: {},
  guest: 'none',
  chosen: null,
  formerNames: [],
  firstSeenAt: instant(0),
  lastSeenAt: now,
  endedAt: null
});
const alarm = (id: number, name: string, service: string, metric: string) => ({
  id,
  name,
  severity: 'major' as const,
  service,
  metric,
  limits: [{ value: 80, severity: 'major' as const }],
  error: null
});
const watched = (alarmId: number, name: string, state: 'raised' | 'clear') => ({
  alarmId,
  state,
  labels: { account: 'corallo-prod', resource: name }
});
const incident = (id: number, alarmName: string, on: string, service: string, closedAt: number | null) => ({
  id,
  alarmId: alarmName === 'Fares slow' ? 2 : 1,
  alarm: alarmName,
  subject: on,
  resource: on,
  account: 'corallo-prod',
  service,
  severity: 'major' as const,
  openedAt: instant(now - 600_000),
  closedAt: closedAt === null ? null : instant(closedAt)
});
const silent = (id: number, name: string, minutes: number) => ({
  id,
  name,
  account: 'corallo-prod',
  service: 'machines',
  newest: instant(now - 3_600_000),
  dueBy: instant(now - minutes * 60_000)
});
const all: AllThings = {
  now,
  alarms: [
    alarm(1, 'Processor high', 'machines', 'machine.processor.use'),
    alarm(2, 'Fares slow', 'queues', 'queue.age')
  ],
  states: [watched(1, 'web-1', 'raised'), watched(1, 'web-2', 'clear'), watched(2, 'fares', 'raised')],
  incidents: [
    incident(1, 'Processor high', 'web-1', 'machines', null),
    incident(2, 'Processor high', 'web-2', 'machines', now - 1),
    incident(3, 'Fares slow', 'fares', 'queues', null)
  ],
  resources: [resource(1, 'web-1', 'machines'), resource(2, 'web-2', 'machines'), resource(3, 'fares', 'queues')],
  groups: [
    { id: 1, name: 'first web', rule: { match: 'all', conditions: [{ label: 'resource', is: ['web-1'] }] } },
    { id: 2, name: 'fares alone', rule: { match: 'all', conditions: [{ label: 'resource', is: ['fares'] }] } }
  ],
  reporting: [silent(1, 'web-1', 20), silent(2, 'web-2', 60), silent(4, 'web-4', 5)],
  seen: ['web-1', 'web-2'].map((name, index) => ({
    ...{ id: index + 1, name, account: 'corallo-prod', service: 'machines', type: 'machine' },
    ...{ firstSeenAt: now, lastSeenAt: now, state: 'new' as const }
  }))
};

const told = (panels: readonly object[], choices: Choices = {}) => {
  const board = {
    title: 'Shared',
    pickers: [{ name: 'machine', label: 'resource', title: 'Machine', usual: [], several: true }],
    sections: [],
    panels: panels.map((panel, i) => ({ id: `p${i}`, title: '', place: { x: 0, y: i, w: 6, h: 4 }, ...panel }))
  } as unknown as Board;
  return sharedThings(board, choices, all);
};
const processor = { picture: 'lines', signal: plainSignal({ metric: 'machine.processor.use', statistic: 'avg' }) };
const onlyWeb2: Choices = { machine: ['web-2'] };

describe('what somebody with a link is told besides numbers', () => {
  it('is nothing that no panel lists', () => {
    const nothing = { alarms: [], incidents: [], services: [], groups: [], reporting: [], seen: [] };
    expect(told([{ picture: 'text', text: 'Hello' }])).to.deep.equal(nothing);
  });

  it('lists resources where a panel does, of its service and of what was picked', () => {
    const seen = (service: string, choices: Choices = {}) =>
      told([{ picture: 'resources', hours: 48, service }], choices).seen.map(({ name }) => name);
    expect([seen('machines'), seen('queues'), seen('machines', onlyWeb2)]).to.deep.equal([
      ['web-1', 'web-2'],
      [],
      ['web-2']
    ]);
  });

  it('is the limit of an alarm where its metric is drawn, but not who it is, and of no other', () => {
    const { alarms, incidents } = told([processor]);
    expect(alarms).to.deep.equal([
      {
        id: 1,
        name: '',
        severity: 'major',
        service: null,
        metric: 'machine.processor.use',
        limits: [{ value: 80, severity: 'major' as const }],
        error: null,
        counts: {}
      }
    ]);
    expect(incidents).to.deep.equal([]);
  });

  it('is each alarm that a list names, of its service alone, with counts of what it shows', () => {
    const names = (panels: readonly object[], choices?: Choices) =>
      told(panels, choices).alarms.map(({ name, counts }) => [name, counts]);
    expect(names([{ picture: 'alarms' }])).to.deep.equal([
      ['Processor high', { raised: 1, clear: 1 }],
      ['Fares slow', { raised: 1 }]
    ]);
    expect(names([{ picture: 'alarms', service: 'queues' }])).to.deep.equal([['Fares slow', { raised: 1 }]]);
    expect(names([{ picture: 'alarms' }], onlyWeb2), 'narrowed by a picker').to.deep.equal([
      ['Processor high', { clear: 1 }]
    ]);
    expect(names([{ picture: 'alarms', ignores: ['machine'] }], onlyWeb2), 'which this panel ignores').to.have.length(
      2
    );
  });

  it('is each incident that a list shows, and of others only that a row is in trouble', () => {
    const of = (panels: readonly object[], choices?: Choices) =>
      told(panels, choices).incidents.map(({ id, alarm: name }) => [id, name]);
    expect(of([{ picture: 'incidents', open: false }])).to.have.length(3);
    expect(of([{ picture: 'incidents', open: true, service: 'machines' }])).to.deep.equal([[1, 'Processor high']]);
    expect(of([{ picture: 'incidents', open: false }], onlyWeb2)).to.deep.equal([[2, 'Processor high']]);
    expect(of([{ picture: 'snapshot', columns: [] }])).to.deep.equal([
      [1, ''],
      [3, '']
    ]);
    expect(told([{ picture: 'incidents', open: true }]).incidents[0]).not.to.have.any.keys('account', 'resource');
  });

  it('is the state of services and groups, of what was picked alone', () => {
    expect(told([{ picture: 'status', of: 'services' }]).services).to.deep.equal([
      { service: 'machines', resources: 2, worst: 'major' },
      { service: 'queues', resources: 1, worst: 'major' }
    ]);
    expect(told([{ picture: 'status', of: 'services' }], onlyWeb2)).to.deep.include({
      services: [{ service: 'machines', resources: 1, worst: null }],
      groups: []
    });
    const groups = (choices?: Choices) =>
      told([{ picture: 'status', of: 'groups' }], choices).groups.map(({ name, worst }) => [name, worst]);
    expect(groups()).to.deep.equal([
      ['first web', 'major'],
      ['fares alone', 'major']
    ]);
    expect(groups(onlyWeb2)).to.deep.equal([]);
    expect(groups({ machine: ['web-1'] })).to.deep.equal([['first web', 'major']]);
  });

  it('is what has stopped reporting, not what could', () => {
    const of = (panel: object, choices?: Choices) => told([panel], choices).reporting.map(({ name }) => name);
    expect(of({ picture: 'silent', minutes: 15 }), 'web-4 is not overdue for so long').to.deep.equal([
      'web-1',
      'web-2'
    ]);
    expect(of({ picture: 'silent', minutes: 15, service: 'queues' })).to.deep.equal([]);
    expect(of({ picture: 'silent', minutes: 15 }, onlyWeb2)).to.deep.equal(['web-2']);
  });
});
