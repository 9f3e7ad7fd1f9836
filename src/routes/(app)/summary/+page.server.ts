import { isRefused } from '$lib/core/problem/problem';
import { dateAt, before, after, day } from '$lib/core/time';
import { isSummaryDate, lastWhole, periodTitle, periodWith, summaryKinds, type SummaryKind } from '$lib/core/summary';
import { readerDates } from '$server/http/reader-dates';
import { allChannels } from '$server/notify/channels';
import { bussola } from '$server/process/running';
import { summaryOf } from '$server/summary/collect';
import { linkOf } from '$server/summary/enclose-summary';
import { allPlans } from '$server/summary/plans';
import { listSummaries } from '$server/summary/summaries';
import type { PageServerLoad } from './$types';

/** Summaries that were sent or shared which the page lists. */
const mostListed = 30;
export const load: PageServerLoad = async ({ url, depends, locals }) => {
  depends('bussola:summaries');
  const server = bussola();
  const { db, clock } = server;
  const now = clock.now();
  const zone = readerDates(locals.person).zone;
  const wanted = url.searchParams.get('kind');
  const kind: SummaryKind = summaryKinds.find((one) => one === wanted) ?? 'week';
  const of = url.searchParams.get('of');
  const asked = of !== null && isSummaryDate(of) ? periodWith(kind, of, zone) : lastWhole(kind, now, zone);
  // Nothing is to be said of what has not begun.
  const period = asked.from > now ? lastWhole(kind, now, zone) : asked;
  const [plans, channels, sent] = await Promise.all([allPlans(db), allChannels(db), listSummaries(db, mostListed)]);
  const next = dateAt(after(period.to, day), zone);
  return {
    kind,
    zone,
    now,
    of: dateAt(period.from, zone),
    title: periodTitle(kind, period, zone),
    isOver: period.to <= now,
    earlier: dateAt(before(period.from, day), zone),
    later: period.to <= now ? next : null,
    // The page is there at once; the numbers follow.
    summary: summaryOf(server, kind, period, zone).catch((error: unknown) => {
      if (isRefused(error)) return null;
      throw error;
    }),
    plans: plans.map(({ plan, ...stored }) => ({
      ...stored,
      plan,
      to: plan.channels
        .map((id) => channels.find((one) => one.id === id) ?? null)
        .map((one) => one && { name: one.name, isConfirmed: one.confirmedAt !== null })
    })),
    sent: sent.map(({ summary, ...one }) => ({
      ...{ id: one.id, name: one.name, madeAt: one.madeAt, madeBy: one.madeBy, linkUntil: one.linkUntil },
      ...{ title: periodTitle(summary.kind, summary, summary.zone), hasLink: linkOf(server, one) !== null }
    }))
  };
};
