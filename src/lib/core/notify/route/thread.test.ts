import { expect } from 'chai';
import fc from 'fast-check';
import { readStored, writeStored } from '../../forms/stored';
import { instant, instantFromText, minute, type Instant } from '../../time';
import {
  afterEvent,
  dueMessages,
  emptyThread,
  hastened,
  isOver,
  nextDue,
  routeSchema,
  threadForm,
  type Route,
  type Thread,
  type ThreadEvent,
  type ThreadMessage
} from './index';

const begin = instantFromText('2026-11-28T02:00:00Z');
const min = (count: number): Instant => instant(begin + count * minute);
const channel = (channelId: number) => ({ kind: 'channel', channelId }) as const;
const route = (more: object = {}): Route =>
  routeSchema.parse({
    name: 'Data',
    when: {},
    steps: [
      { after: 0, notify: [channel(1)] },
      { after: 15 * minute, notify: [channel(2)] },
      { after: 30 * minute, notify: [channel(1), channel(3)] }
    ],
    group: { by: 'resource', wait: 0, atMostEvery: 0 },
    zone: 'Europe/Rome',
    ...more
  });
const event = (kind: ThreadEvent['kind'], at: number, incidentId = 7): ThreadEvent => ({
  kind,
  incidentId,
  at: min(at)
});

/** What a thread yields when it is asked at every event and whenever something is due, up to a minute. */
function run(events: readonly ThreadEvent[], one: Route, until: Instant): ThreadMessage[] {
  let thread: Thread = emptyThread;
  const sent: ThreadMessage[] = [];
  const ask = (now: number) => {
    const { thread: after, messages } = dueMessages(thread, one, now as Instant);
    thread = after;
    sent.push(...messages);
  };
  for (const each of events) {
    ask(each.at - 1);
    thread = afterEvent(thread, each, one);
  }
  ask(until);
  return sent;
}
const inWords = (messages: readonly ThreadMessage[]) =>
  messages.map(
    ({ why, at, to }) =>
      `${(at - begin) / minute} ${why} ${to.map((one) => (one.kind === 'channel' ? one.channelId : '?')).join('+')}`
  );

describe('the messages of a thread', () => {
  it('go step by step until somebody acknowledges', () => {
    const opened = [event('opened', 0)];
    expect(inWords(run(opened, route(), min(60)))).to.deep.equal(['0 news 1', '15 step 2', '30 step 1+3']);
    expect(inWords(run([...opened, event('acknowledged', 20)], route(), min(60)))).to.deep.equal([
      '0 news 1',
      '15 step 2'
    ]);
  });

  it('say that it is clear again to all who were notified, unless the route says not to', () => {
    const events = [event('opened', 0), event('closed', 16)];
    expect(inWords(run(events, route(), min(60)))).to.deep.equal(['0 news 1', '15 step 2', '16 news 1+2']);
    expect(inWords(run(events, route({ notifiesClear: false }), min(60)))).to.deep.equal(['0 news 1', '15 step 2']);
  });

  it('are repeated until acknowledged, also to the next people', () => {
    const repeated = route({ repeatEvery: 10 * minute });
    expect(inWords(run([event('opened', 0), event('acknowledged', 25)], repeated, min(60)))).to.deep.equal([
      ...['0 news 1', '10 repeat 1', '15 step 2', '20 repeat 1+2']
    ]);
  });

  it('wait for each other, and come at most so often', () => {
    const grouped = route({ group: { by: 'resource', wait: 2 * minute, atMostEvery: 10 * minute } });
    const events = [event('opened', 0, 1), event('opened', 1, 2), event('opened', 3, 3), event('opened', 4, 4)];
    const sent = run(events, grouped, min(14));
    expect(inWords(sent)).to.deep.equal(['2 news 1', '12 news 1']);
    expect(sent.map(({ news }) => news.map(({ incidentId }) => incidentId))).to.deep.equal([
      [1, 2],
      [3, 4]
    ]);
  });

  it('are one a day at the hour of a digest, by the clocks of the zone', () => {
    const digest = route({ steps: [{ after: 0, notify: [channel(1)] }], digestAt: '08:00' });
    const events = [event('opened', 0, 1), event('closed', 10, 1), event('opened', 100, 2)];
    const [one, ...more] = run(events, digest, min(20 * 60));
    expect([one?.at, one?.why, one?.news.length, more.length]).to.deep.equal([
      ...[instantFromText('2026-11-28T07:00:00Z'), 'digest', 3, 0]
    ]);
  });

  it('of what becomes graver begin anew, though it was acknowledged', () => {
    const events = [event('opened', 0), event('acknowledged', 5), event('graver', 40)];
    expect(inWords(run(events, route(), min(60)))).to.deep.equal(['0 news 1', '40 news 1', '55 step 2']);
  });

  it('that were missed while Bussola was down are one repetition, not hundreds', () => {
    const repeated = route({ repeatEvery: minute });
    const sent = run([event('opened', 0)], repeated, min(500_000));
    expect(sent.filter(({ why }) => why === 'repeat').length).to.be.below(5);
    expect(sent.filter(({ why }) => why === 'step')).to.have.length(2);
  });

  it('are over once nothing is open or pending and none is held up', () => {
    const spaced = route({ group: { by: 'resource', wait: 0, atMostEvery: 10 * minute } });
    const events = [event('opened', 0), event('closed', 1)];
    let thread = events.reduce((one, each) => afterEvent(one, each, spaced), emptyThread);
    expect(isOver(thread, spaced, min(1))).to.equal(false);
    ({ thread } = dueMessages(thread, spaced, min(1)));
    expect([isOver(thread, spaced, min(5)), isOver(thread, spaced, min(10)), nextDue(thread, spaced)]).to.deep.equal([
      ...[false, true, null]
    ]);
  });

  const minutes = (most: number) => fc.nat(most).map((count) => count * minute);
  const routes = fc
    .record({
      wait: minutes(5),
      atMostEvery: minutes(30),
      repeatEvery: fc.option(fc.integer({ min: 1, max: 40 }).map((count) => count * minute)),
      notifiesClear: fc.boolean()
    })
    .map(({ wait, atMostEvery, ...more }) => route({ ...more, group: { by: 'resource', wait, atMostEvery } }));
  const kinds = fc.constantFrom<ThreadEvent['kind'][]>('opened', 'graver', 'closed', 'acknowledged', 'unacknowledged');
  /** Events that may follow each other: what is open cannot be opened, what is not cannot be closed. */
  const histories = fc
    .array(fc.record({ kind: kinds, incidentId: fc.nat(3), after: fc.nat(20) }), { maxLength: 30 })
    .map((drawn) => {
      const open = new Set<number>();
      let at = 0;
      return drawn.flatMap(({ kind, incidentId, after }) => {
        at += after;
        if ((kind === 'opened') === open.has(incidentId)) return [];
        if (kind === 'opened') open.add(incidentId);
        if (kind === 'closed') open.delete(incidentId);
        return [event(kind, at, incidentId)];
      });
    });
  const end = min(900);

  it('are the same however often it is asked', () => {
    fc.assert(
      fc.property(routes, histories, (one, events) => {
        let thread = emptyThread;
        const sent: ThreadMessage[] = [];
        for (let now = begin; now <= end; now = instant(now + minute)) {
          for (const each of events) if (each.at === now) thread = afterEvent(thread, each, one);
          const { thread: after, messages } = dueMessages(thread, one, now);
          thread = after;
          sent.push(...messages);
        }
        // Asked each minute, it misses no repetition; asked only when something happens, it makes one of several.
        if (one.repeatEvery === null) expect(inWords(run(events, one, end))).to.deep.equal(inWords(sent));
        else {
          const each = inWords(sent);
          for (const message of run(events, one, end))
            if (message.why !== 'repeat') expect(each).to.include(inWords([message])[0]);
        }
      }),
      { numRuns: 200 }
    );
  });

  it('say all that is raised in time, to nobody more often than the route permits, and press nobody once it is acknowledged', () => {
    fc.assert(
      fc.property(routes, histories, (one, events) => {
        const sent = run(events, one, end);
        const raised = events.filter(({ kind }) => kind === 'opened' || kind === 'graver');
        for (const { incidentId, kind, at } of raised) {
          const saying = sent.filter(({ news }) =>
            news.some((each) => each.incidentId === incidentId && each.kind === kind && each.at === at)
          );
          expect(saying, `${kind} ${incidentId}`).to.have.length(1);
          expect(saying[0]?.at).to.be.within(at, at + one.group.wait + one.group.atMostEvery);
        }
        const spaced = sent.filter(({ why }) => why !== 'step');
        for (const [position, { at }] of spaced.entries())
          if (position > 0)
            expect(at - (spaced[position - 1] as ThreadMessage).at).to.be.at.least(one.group.atMostEvery);
        for (const { why, at } of sent)
          if (why === 'step' || why === 'repeat') expect(isNeeded(events, at), `${why} at ${at}`).to.equal(true);
      }),
      { numRuns: 300 }
    );
  });

  /** Whether just before an instant something was open that nobody had acknowledged, from the events alone. */
  function isNeeded(events: readonly ThreadEvent[], at: Instant): boolean {
    const open = new Map<number, boolean>();
    for (const { kind, incidentId, at: then } of events) {
      if (then > at) break;
      if (kind === 'closed') open.delete(incidentId);
      else if (kind === 'opened' || kind === 'graver') open.set(incidentId, false);
      else if (open.has(incidentId)) open.set(incidentId, kind === 'acknowledged');
    }
    return [...open.values()].includes(false);
  }

  it('are none of an incident that ends without anybody having to hear of it, and steps end with it', () => {
    expect(inWords(run([event('opened', 0), event('ended', 10)], route(), min(60)))).to.deep.equal(['0 news 1']);
    const grouped = route({ group: { by: 'resource', wait: 2 * minute, atMostEvery: 0 } });
    expect(run([event('opened', 0), event('ended', 1)], grouped, min(60))).to.deep.equal([]);
  });

  it('come at once from the next step where nobody of a step can be reached', () => {
    const opened = dueMessages(afterEvent(emptyThread, event('opened', 0), route()), route(), min(0)).thread;
    const next = hastened(opened, route(), min(1));
    expect(inWords(dueMessages(next, route(), min(1)).messages)).to.deep.equal(['1 step 2']);
    const last = hastened(dueMessages(next, route(), min(60)).thread, route(), min(60));
    expect(nextDue(last, route()), 'no step is left').to.equal(null);
  });

  it('come back from the form in which they are stored', () => {
    const { thread } = dueMessages(afterEvent(emptyThread, event('opened', 0), route()), route(), min(20));
    expect(readStored(threadForm, JSON.parse(writeStored(threadForm, thread)), '')).to.deep.equal(thread);
  });
});
