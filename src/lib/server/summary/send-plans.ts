import type { Logger } from 'pino';
import { roundMoney, micros } from '$lib/core/cost';
import { shareText } from '$lib/core/objective';
import {
  isMet,
  nextSending,
  periodSent,
  periodTitle,
  summarySentences,
  type Summary,
  type SummaryPlan
} from '$lib/core/summary';
import { after, before, day, hour, times, type Instant } from '$lib/core/time';
import type { Changes } from '../base/changes';
import type { Queryable } from '../db/pool';
import { allChannels, subscribersOf } from '../notify/channels';
import type { Delivery } from '../notify/deliver';
import { summaryOf, type SummaryReader } from './collect';
import { duePlans, misplacedPlans, moveOn, planById, type StoredPlan } from './plans';
import { forgetSummaries, insertSummary } from './summaries';
import { linkGoodFor } from './summary-links';

/** What sending summaries needs. */
export type SummarySender = SummaryReader & {
  readonly delivery: Delivery;
  readonly changes: Changes;
  readonly log: Logger;
};

/** How often, in real time, it is looked whether one is due, ms. */
const lookEveryMs = 1000;
/** How long they are remembered. */
const rememberedFor = times(800, day);
/** One that could not be put together is tried again after so long. */
const againAfter = 60_000;
/** They leave after incidents and watches. */
const urgency = 30;

/**
 * Sends one summary now: to the channels of its plan that are confirmed, each once.
 *
 * @param next when it is sent again, for one that was due; null for one that somebody sends by hand, which stays due when it was
 * @returns how many channels it was sent to; null when somebody else has sent or changed it meanwhile
 */
export async function sendSummary(
  sender: SummarySender,
  stored: StoredPlan,
  next: Instant | null,
  by: string
): Promise<{ readonly summaryId: number; readonly channels: number } | null> {
  const { db, clock, delivery, changes } = sender;
  const { plan } = stored;
  const now = clock.now();
  const summary = await summaryOf(sender, plan.kind, periodSent(plan, now), plan.zone);
  const sent = await db.transaction(async (within) => {
    if (next === null ? (await planById(within, stored.id)) === null : !(await moveOn(within, stored, next)))
      return null;
    const made = await insertSummary(within, {
      ...{ planId: stored.id, name: plan.name, summary, madeAt: now, madeBy: by, linkUntil: after(now, linkGoodFor) }
    });
    const receivers = await receiversOf(within, plan);
    for (const channelId of receivers)
      await delivery.enqueue(within, {
        ...{ channelId, incidentId: null, alarmId: null, priority: urgency, createdAt: now },
        content: {
          ...{
            kind: 'summary',
            summaryId: made.id,
            name: plan.name,
            title: periodTitle(plan.kind, summary, plan.zone)
          },
          ...{ sentences: summarySentences(summary), rows: messageRows(summary) }
        }
      });
    return { summaryId: made.id, channels: receivers.length };
  });
  if (sent !== null) changes.tell('summaries', {});
  return sent;
}

/** Channels that are confirmed, and whoever subscribes to a topic, each once. */
async function receiversOf(within: Queryable, { channels }: SummaryPlan): Promise<number[]> {
  const all = await allChannels(within);
  const subscribers = await subscribersOf(within);
  return [
    ...new Set(
      channels.flatMap((id) => {
        const channel = all.find((one) => one.id === id);
        if (channel === undefined) return [];
        const of = channel.kind === 'topic' ? subscribers.filter(({ topicId }) => topicId === id) : [channel];
        return of.filter(({ confirmedAt }) => confirmedAt !== null).map((one) => one.id);
      })
    )
  ];
}

/** The numbers that stand in a message. */
function messageRows({ incidents, promises, cost }: Summary): [string, string][] {
  return [
    ...incidents.bySeverity.map(({ severity, count, earlier }): [string, string] => [
      severity,
      `${count} (${earlier} before)`
    ]),
    ...promises.map((one): [string, string] => [
      one.name,
      `${one.good === null ? 'unknown' : shareText(one.good)} of ${one.targetPercent} %${isMet(one) === false ? ', broken' : ''}`
    ]),
    ...(cost?.services ?? []).map(({ title, total }): [string, string] => [
      `Cost: ${title}`,
      roundMoney(micros(total), cost?.currency ?? '')
    ])
  ];
}

/**
 * Sends summaries once they are due. Several processes share it: one alone sends each. What was due while nobody ran is sent once, of the newest week or month.
 *
 * @returns what stops it, letting one that is being sent end
 */
export function startSummaries(sender: SummarySender): { stop(): Promise<void> } {
  const { db, clock, log } = sender;
  const failed = new Map<number, number>();
  let looking: Promise<void> | null = null;
  let tidiedAt = 0 as Instant;

  async function look(): Promise<void> {
    const now = clock.now();
    for (const stored of await misplacedPlans(db, now)) await moveOn(db, stored, nextSending(stored.plan, now));
    for (const stored of await duePlans(db, now)) {
      if (performance.now() - (failed.get(stored.id) ?? -Infinity) < againAfter) continue;
      try {
        await sendSummary(sender, stored, nextSending(stored.plan, now), 'Bussola');
        failed.delete(stored.id);
      } catch (error) {
        failed.set(stored.id, performance.now());
        log.error(
          { err: error, plan: stored.id },
          'a summary could not be put together; it is tried again in a minute'
        );
      }
    }
    if (now - tidiedAt >= hour || now < tidiedAt) {
      tidiedAt = now;
      await forgetSummaries(db, before(now, rememberedFor));
    }
  }
  const timer = setInterval(() => {
    looking ??= look()
      .catch((error: unknown) => log.error({ err: error }, 'summaries could not be looked at; it is tried again'))
      .finally(() => (looking = null));
  }, lookEveryMs);
  return {
    stop: async () => {
      clearInterval(timer);
      await looking;
    }
  };
}
