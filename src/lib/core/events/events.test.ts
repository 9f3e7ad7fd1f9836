import { CloudEvent, HTTP } from 'cloudevents';
import { expect } from 'chai';
import fc from 'fast-check';
import { isRefused } from '../problem/problem';
import { instant, minute } from '../time';
import {
  clearsAt,
  effectOf,
  eventRuleSchema,
  eventWords,
  fromHeaders,
  isAmong,
  raisedAfter,
  readCloudEvents,
  ruleSentence,
  thingOf,
  tryEventRule,
  type EventRule,
  type OutsideEvent,
  type RaisedByEvents
} from '.';

const now = instant(Date.UTC(2026, 4, 4, 12));
const event = (more: Partial<OutsideEvent> = {}): OutsideEvent => ({
  ...{
    id: 1,
    accountId: 1,
    placeId: 1,
    account: 'sub-sea',
    at: now,
    type: 'stalled',
    source: 'ostro',
    isSent: false,
    text: 'It stalled.'
  },
  ...{ resourceId: 3, resource: 'dorsale-standby', service: 'replication', region: 'sea', attributes: {} },
  ...more
});
const rule = (more: object = {}): EventRule =>
  eventRuleSchema.parse({
    ...{ name: 'Replication stalled', when: { types: ['stalled'] }, severity: 'critical' },
    clears: { by: 'event', when: { types: ['resumed'] } },
    ...more
  });

describe('events', () => {
  describe('conditions', () => {
    it('hold for every part, any pattern of each, and an account stands for a source', () => {
      const when = rule({
        when: { types: ['stalled', 'run *'], sources: ['sub-*'], attributes: [{ name: 'reason', is: 'time*' }] }
      }).when;
      expect(isAmong(when, event({ attributes: { reason: 'timeout' } }))).to.equal(true);
      expect(isAmong(when, event({ type: 'run failed', attributes: { reason: 'time' } }))).to.equal(true);
      expect(isAmong(when, event({ attributes: {} }))).to.equal(false);
      expect(isAmong(when, event({ account: 'other', attributes: { reason: 'time' } }))).to.equal(false);
      expect(isAmong({ ...when, attributes: [{ name: 'toString', is: '*' }] }, event())).to.equal(false);
    });

    it('are said in words', () => {
      expect(
        eventWords({
          ...{ types: ['a', 'b'], sources: ['x'], resources: ['r-*'] },
          attributes: [{ name: 'n', is: 'v' }]
        })
      ).to.equal('a or b on r-* from x with n v');
      expect(ruleSentence(rule())).to.equal('Raised (critical) by stalled, cleared by resumed about the same.');
      expect(ruleSentence(rule({ clears: { by: 'time', after: 'PT30M' } }))).to.equal(
        'Raised (critical) by stalled, clear 30 min after the last.'
      );
      expect(ruleSentence(rule({ clears: { by: 'hand' } }))).to.contain('until somebody closes it');
    });

    it('of a rule say something', () => {
      for (const bad of [
        { when: {} },
        { clears: { by: 'event', when: {} } },
        { clears: { by: 'time', after: 'PT1S' } },
        { runbook: 'javascript:alert(1)' },
        { name: ' ' }
      ])
        expect(eventRuleSchema.safeParse({ ...rule(), ...bad }).success, JSON.stringify(bad)).to.equal(false);
    });
  });

  describe('rules', () => {
    const at = (minutes: number) => instant(now + minutes * minute);

    it('raise one incident on each thing, and clear it by an event on the same', () => {
      const tried = tryEventRule(
        rule(),
        [
          event({ at: at(0) }),
          event({ at: at(1) }),
          event({ at: at(2), resource: 'other' }),
          event({ at: at(3), type: 'resumed' }),
          event({ at: at(4), type: 'resumed' }),
          event({ at: at(5) })
        ],
        at(9)
      );
      expect(tried.map(({ thing, openedAt, closedAt, events }) => [thing, openedAt, closedAt, events])).to.deep.equal([
        ['sub-sea/dorsale-standby', at(0), at(3), 2],
        ['sub-sea/other', at(2), null, 1],
        ['sub-sea/dorsale-standby', at(5), null, 1]
      ]);
    });

    it('clear by time after the last event', () => {
      const timed = rule({ clears: { by: 'time', after: 'PT10M' } });
      const tried = tryEventRule(timed, [event({ at: at(0) }), event({ at: at(9) }), event({ at: at(30) })], at(35));
      expect(tried.map(({ openedAt, closedAt }) => [openedAt, closedAt])).to.deep.equal([
        [at(0), at(19)],
        [at(30), null]
      ]);
    });

    it('are not cleared by what is older than what raised', () => {
      const raised: RaisedByEvents = { openedAt: at(0), lastAt: at(5), events: 2 };
      expect(effectOf(rule(), raised, event({ at: at(3), type: 'resumed' }))).to.equal(null);
      expect(effectOf(rule(), raised, event({ at: at(5), type: 'resumed' }))).to.equal('clears');
    });

    it('agree with a slow reading of the definition', () => {
      const some = fc.record({
        gap: fc.integer({ min: 0, max: 20 }),
        type: fc.constantFrom('stalled', 'resumed', 'other'),
        resource: fc.constantFrom('a', 'b', '')
      });
      const ways = fc.constantFrom(
        { by: 'event', when: { types: ['resumed'] } },
        { by: 'time', after: 'PT15M' },
        { by: 'hand' },
        { by: 'event', when: { types: ['*'] } }
      );
      fc.assert(
        fc.property(fc.array(some, { maxLength: 30 }), ways, (steps, clears) => {
          const given = rule({ clears });
          let minutes = 0;
          const events = steps.map(({ gap, ...more }, id) => event({ id, at: at((minutes += gap)), ...more }));
          const end = at(minutes + 10);
          // By thing: each event that raises while nothing is raised begins one, which the first end after it ends.
          const expected = [...new Set(events.map(thingOf))].flatMap((thing) => {
            const own = events.filter((one) => thingOf(one) === thing);
            const spans: string[] = [];
            for (let i = 0; i < own.length; i++) {
              if (!isAmong(given.when, own[i] as OutsideEvent)) continue;
              const opened = own[i] as OutsideEvent;
              let last = opened.at;
              let closed: number | null = null;
              for (i++; i < own.length; i++) {
                const next = own[i] as OutsideEvent;
                const limit = clearsAt(given, { lastAt: last });
                if (limit !== null && limit <= next.at) {
                  closed = limit;
                  break;
                }
                if (isAmong(given.when, next)) last = next.at;
                else if (given.clears.by === 'event' && isAmong(given.clears.when, next)) {
                  closed = next.at;
                  i++;
                  break;
                }
              }
              i--;
              const limit = clearsAt(given, { lastAt: last });
              if (closed === null && limit !== null && limit <= end) closed = limit;
              spans.push(`${thing} ${opened.at} ${String(closed)}`);
            }
            return spans;
          });
          const tried = tryEventRule(given, events, end);
          expect(
            tried.map(({ thing, openedAt, closedAt }) => `${thing} ${openedAt} ${String(closedAt)}`).sort()
          ).to.deep.equal(expected.sort());
        }),
        { numRuns: 1000 }
      );
    });

    it('keep the beginning, and know the last event of several, in whatever order they come', () => {
      const raised = raisedAfter(raisedAfter(null, { at: at(5) }), { at: at(2) });
      expect(raised).to.deep.equal({ openedAt: at(5), lastAt: at(5), events: 2 });
    });
  });

  describe('CloudEvents', () => {
    const sent = new CloudEvent({
      ...{ id: 'r-17', source: '/release/runner', type: 'test.corallo.released', subject: 'booking-web' },
      ...{ time: '2026-05-04T11:59:00.123Z', datacontenttype: 'application/json', stage: 'prod' },
      data: { message: 'Version 2.4 is out.', version: { name: '2.4', parts: [1, 2] }, canary: false, none: null }
    });
    const expected = {
      ...{ id: 'r-17', source: '/release/runner', type: 'test.corallo.released', subject: 'booking-web' },
      at: Date.parse('2026-05-04T11:59:00.123Z'),
      text: 'Version 2.4 is out.',
      attributes: {
        ...{ stage: 'prod', message: 'Version 2.4 is out.', canary: 'false' },
        ...{ 'version.name': '2.4', 'version.parts': '[1,2]' }
      }
    };

    it('read what the SDK writes: structured, in binary mode, and several', () => {
      const structured = HTTP.structured(sent);
      expect(readCloudEvents(JSON.parse(structured.body as string), now).events).to.deep.equal([expected]);
      const { headers, body } = HTTP.binary(sent);
      const read = fromHeaders(headers as Record<string, string>, JSON.parse(body as string));
      expect(readCloudEvents(read, now).events).to.deep.equal([expected]);
      expect(readCloudEvents([sent.toJSON(), sent.toJSON()], now).events).to.have.length(2);
    });

    it('decode headers, leave what is no such encoding, and take text as data', () => {
      const headers = { 'ce-id': '1', 'ce-source': '/s', 'ce-specversion': '1.0', 'ce-type': 't', other: 'x' };
      const read = fromHeaders({ ...headers, 'ce-subject': 'Euro%20%E2%82%AC', 'ce-broken': '%E2%82' }, 'just text');
      const [one] = readCloudEvents(read, now).events;
      expect(one?.subject).to.equal('Euro €');
      expect(one?.attributes).to.deep.equal({ broken: '%E2%82', data: 'just text' });
      expect(one?.at).to.equal(now);
    });

    it('refuse each that is none, with the reason, and take the others', () => {
      const good = { specversion: '1.0', id: '1', source: '/s', type: 't' };
      const { events, refused } = readCloudEvents(
        [
          good,
          { ...good, specversion: '0.3' },
          { ...good, id: '' },
          { ...good, time: 'yesterday' },
          { ...good, time: '2026-05-05T12:00:00Z' },
          null,
          7
        ],
        now
      );
      expect(events).to.have.length(1);
      expect(refused.map(({ position }) => position)).to.deep.equal([1, 2, 3, 4, 5, 6]);
      expect(refused.map(({ why }) => why).slice(0, 4)).to.deep.equal([
        'Its specversion is not 1.0.',
        'Its id is empty.',
        'Its time is not RFC 3339.',
        'Its time is more than ten minutes ahead of now.'
      ]);
      expect(
        isRefused(
          errorOf(() => readCloudEvents(Array(1001).fill(good), now)),
          'too-large'
        )
      ).to.equal(true);
    });

    it('of lists and of values too deep to be written take what can be taken', () => {
      const plain = { specversion: '1.0', id: '1', source: '/s', type: 't' };
      const attributesOf = (data: unknown) => readCloudEvents({ ...plain, data }, now).events[0]?.attributes;
      expect(attributesOf(['a', { b: 1 }])).to.deep.equal({ data: '["a",{"b":1}]' });
      expect(attributesOf(7)).to.deep.equal({ data: '7' });
      const deep = (open: string, close: string) => JSON.parse(open.repeat(100_000) + close.repeat(100_000)) as unknown;
      expect(attributesOf(deep('[', ']'))).to.deep.equal({ data: '…' });
      expect(
        attributesOf({ a: JSON.parse(`${'{"a":'.repeat(50_000)}1${'}'.repeat(50_000)}`) as unknown })
      ).to.deep.equal({
        'a.a.a.a': '…'
      });
      expect(attributesOf({ stage: 'prod', deep: deep('[', ']') })).to.deep.equal({ stage: 'prod', deep: '…' });
    });

    it('stay within limits and are storable, whatever they hold', () => {
      fc.assert(
        fc.property(fc.jsonValue({ maxDepth: 8 }), fc.string({ unit: 'binary' }), (data, text) => {
          const { events } = readCloudEvents(
            { specversion: '1.0', id: 'x', source: 's', type: 't', data: { data, text, ['__proto__']: text } },
            now
          );
          const [one] = events;
          expect(Object.keys(one?.attributes ?? {}).length).to.be.at.most(64);
          const all = Object.values(one?.attributes ?? {}).join('');
          expect(all.length).to.be.at.most(16_384);
          for (const value of Object.values(one?.attributes ?? {})) {
            expect(value.length).to.be.at.most(2000);
            expect(value.isWellFormed() && !value.includes('\0')).to.equal(true);
          }
        }),
        { numRuns: 500 }
      );
    });
  });
});

function errorOf(act: () => unknown): unknown {
  try {
    act();
  } catch (error) {
    return error;
  }
  throw new Error('nothing was refused');
}
