import type { Logger } from 'pino';
import {
  clearsAt,
  effectOf,
  raisedAfter,
  thingOf,
  type EventEffect,
  type OutsideEvent,
  type RaisedByEvents
} from '$lib/core/events';
import { before, day, type Clock, type Instant } from '$lib/core/time';
import type { Changes } from '../base/changes';
import { pauses } from '../base/pauses';
import type { Database, Queryable } from '../db/pool';
import { closeByEvent, openByEvent, openByEvents, raisedAgain, type OpenByEvents } from '../incidents/by-events';
import { eventsService, noteDropped } from '../intake/ledger/collections';
import { allEventRules, type StoredEventRule } from './event-rules';
import { hasUnjudged, laterOnSame, markJudged, unjudgedEvents } from './outside-events';

/** How often, in real time, it is looked whether events have arrived, ms. */
const lookEveryMs = 500;
/** Events of one transaction. */
const mostAtOnce = 200;
/** What is older than this when it arrives is history: nobody is notified of it, and what only a person would close is not raised. */
const newsFor = day;
/** Incidents of one rule that are open at once: what is sent by mistake, or with bad intent, floods nobody. */
const mostOpen = 1000;
const tooManyOpen = (rule: string, { text }: OutsideEvent) => ({
  reason: `events that would raise more than ${mostOpen} incidents of one rule`,
  count: 1,
  example: `${rule}: ${text}`.slice(0, 300)
});
/** Later events on the same thing that are looked at when an older one arrives late. */
const mostLater = 500;
/** One process at a time: what is raised on a thing decides what its next event is. */
const judgingLock = 7_331_502;

/** What judging events needs. */
export interface EventJudge {
  readonly db: Database;
  readonly clock: Clock;
  readonly changes: Changes;
  readonly log: Logger;
}

/**
 * Puts events that have arrived through the rules, and clears what is clear by time. An event is marked as seen in the transaction of what it did: after a kill it is judged once, never twice, never not at all.
 *
 * @returns what stops it, letting running work end
 */
export function startJudgingEvents(judge: EventJudge): { stop(): Promise<void> } {
  const { changes, log } = judge;
  let stopped = false;
  let running: Promise<void> | null = null;
  const work = async (): Promise<void> => {
    while (!stopped && (await judgeEvents(judge)) >= mostAtOnce);
    if (!stopped) await clearByTime(judge);
  };
  const lookSoon = (): void => {
    if (stopped) return;
    running ??= work()
      .catch((error: unknown) => log.error({ err: error }, 'events could not be judged; it is tried again'))
      .finally(() => (running = null));
  };
  changes.on('account', lookSoon);
  const timer = setInterval(lookSoon, lookEveryMs);
  return {
    stop: async () => {
      stopped = true;
      clearInterval(timer);
      changes.off('account', lookSoon);
      await running;
    }
  };
}

/** What an event did by a rule. */
interface Effect {
  readonly ruleId: number;
  readonly event: OutsideEvent;
  readonly incidentId: number;
  readonly effect: Exclude<EventEffect, null>;
}

/** @returns how many events there were */
async function judgeEvents({ db, clock, changes }: EventJudge): Promise<number> {
  if (!(await hasUnjudged(db))) return 0; // as most of the time: nothing is locked for it
  const { count, changed } = await db.transaction(async (within) => {
    const now = clock.now();
    await within.rows('select pg_advisory_xact_lock($1)', [judgingLock]);
    const events = await unjudgedEvents(within, mostAtOnce);
    if (events.length === 0) return { count: 0, changed: false };
    const rules = (await allEventRules(within)).filter(({ rule }) => rule.enabled);
    const open = new Map(rules.map(({ id }) => [id, new Map<string, OpenByEvents>()]));
    if (rules.length > 0) for (const one of await openByEvents(within)) open.get(one.ruleId)?.set(one.thing, one);
    const effects: Effect[] = [];
    const pause = pauses(Infinity);
    for (const event of events)
      for (const rule of rules) {
        const raised = open.get(rule.id) ?? new Map<string, OpenByEvents>();
        effects.push(...(await judgeOne(within, rule, raised, event, now)));
        await pause();
      }
    await recordEffects(within, effects, now);
    await markJudged(within, events, now);
    return { count: events.length, changed: effects.length > 0 };
  });
  if (changed) changes.tell('alarm', { alarmId: null });
  return count;
}

async function judgeOne(
  within: Queryable,
  { id: ruleId, rule }: StoredEventRule,
  open: Map<string, OpenByEvents>,
  event: OutsideEvent,
  now: Instant
): Promise<Effect[]> {
  const thing = thingOf(event);
  let known = open.get(thing) ?? null;
  const end = known === null ? null : clearsAt(rule, known);
  if (known !== null && end !== null && end <= event.at) {
    await closeByEvent(within, known.incidentId, end, now);
    open.delete(thing);
    known = null;
  }
  const effect = effectOf(rule, raisedOf(known), event);
  if (effect === null) return [];
  if (effect === 'clears') {
    if (known === null) return [];
    await closeByEvent(within, known.incidentId, event.at, now);
    open.delete(thing);
    return [{ ruleId, event, incidentId: known.incidentId, effect }];
  }
  if (known !== null) {
    const { openedAt, lastAt } = raisedAfter(raisedOf(known), event);
    await raisedAgain(within, known.incidentId, { openedAt, lastAt });
    open.set(thing, { ...known, openedAt, lastAt });
    return [{ ruleId, event, incidentId: known.incidentId, effect }];
  }
  if (open.size >= mostOpen) {
    await noteDropped(within, event.accountId, eventsService, [tooManyOpen(rule.name, event)], now);
    return [];
  }
  const isHistory = event.at < before(now, newsFor);
  if (isHistory && rule.clears.by === 'hand') return [];
  const by = { ruleId, name: rule.name, severity: rule.severity, thing, isHistory };
  const opened = await openByEvent(within, by, event, now);
  const { incidentId } = opened;
  const raising: Effect = { ruleId, event, incidentId, effect };
  const clearing = await clearedLater(within, rule, opened, event);
  if (clearing === null) {
    open.set(thing, opened);
    return [raising];
  }
  await closeByEvent(within, incidentId, clearing.at, now);
  return [raising, { ruleId, event: clearing, incidentId, effect: 'clears' }];
}

const raisedOf = (open: OpenByEvents | null): RaisedByEvents | null =>
  open === null ? null : { openedAt: open.openedAt, lastAt: open.lastAt, events: 1 };

/** The event that clears what another raises, where it is there already; null where there is none. */
async function clearedLater(
  within: Queryable,
  rule: StoredEventRule['rule'],
  opened: OpenByEvents,
  event: OutsideEvent
): Promise<OutsideEvent | null> {
  if (rule.clears.by !== 'event') return null;
  let raised = raisedOf(opened);
  for (const later of await laterOnSame(within, event, mostLater)) {
    if (later.accountId === event.accountId && later.id === event.id) continue;
    const effect = effectOf(rule, raised, later);
    if (effect === 'clears') return later;
    if (effect === 'again') raised = raisedAfter(raised, later);
  }
  return null;
}

const recordEffects = (within: Queryable, effects: readonly Effect[], now: Instant): Promise<unknown> =>
  effects.length === 0
    ? Promise.resolve()
    : within.rows(
        `insert into event_effects (rule_id, account_id, event_id, incident_id, effect, at, judged_at)
         select rule_id, account_id, event_id, incident_id, effect, at, $7
         from unnest($1::integer[], $2::integer[], $3::integer[], $4::integer[], $5::text[], $6::bigint[])
           as happened (rule_id, account_id, event_id, incident_id, effect, at)
         on conflict do nothing`,
        [
          effects.map(({ ruleId }) => ruleId),
          effects.map(({ event }) => event.accountId),
          effects.map(({ event }) => event.id),
          effects.map(({ incidentId }) => incidentId),
          effects.map(({ effect }) => effect),
          effects.map(({ event }) => event.at),
          now
        ]
      );

async function clearByTime({ db, clock, changes }: EventJudge): Promise<void> {
  const now = clock.now();
  const dueOf = async (of: Queryable) => {
    const open = await openByEvents(of);
    if (open.length === 0) return [];
    const rules = new Map((await allEventRules(of)).map(({ id, rule }) => [id, rule]));
    return open.flatMap((one) => {
      const rule = rules.get(one.ruleId);
      const end = rule === undefined ? null : clearsAt(rule, one);
      return end !== null && end <= now ? [{ incidentId: one.incidentId, end }] : [];
    });
  };
  if ((await dueOf(db)).length === 0) return;
  await db.transaction(async (within) => {
    await within.rows('select pg_advisory_xact_lock($1)', [judgingLock]);
    // Looked at again: an event may have come meanwhile.
    for (const { incidentId, end } of await dueOf(within)) await closeByEvent(within, incidentId, end, now);
  });
  changes.tell('alarm', { alarmId: null });
}
