import { alarmSentence } from '$lib/core/alarm';
import { subjectOf } from '$lib/core/signal';
import { instantFromText, type Instant } from '$lib/core/time';
import { alarmById, seriesStates } from '$server/alarms/alarms';
import { noSuchAlarm } from '$server/alarms/save-alarm';
import { whyAt } from '$server/engine/why';
import { watchedWords } from '$server/alarms/watched';
import { asErrorPage, refusePage } from '$server/http/pages';
import { allMetrics } from '$server/inventory/metrics';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, url }) => {
  const { db, clock, judging } = bussola();
  const alarm = await alarmById(db, Number(params.id)).catch(asErrorPage);
  if (alarm === null) refusePage(noSuchAlarm());
  const [states, metrics] = await Promise.all([seriesStates(db, alarm.id), allMetrics(db)]);
  const wordsOf = (name: string) => metrics.find((metric) => metric.name === name);
  const series = states
    .map(({ key, labels, seriesId }) => ({
      ...{ key, seriesId, subject: subjectOf(labels, alarm.definition.name) },
      ...{ account: labels.account ?? '', resource: labels.resource ?? '' }
    }))
    .sort((a, b) => a.subject.localeCompare(b.subject));
  const now = clock.now();
  const at = momentFrom(url.searchParams.get('at'), now);
  const wanted = url.searchParams.get('series') ?? series[0]?.key ?? '';
  const of = states.find(({ key }) => key === wanted);
  const why = !of
    ? null
    : await whyAt(db, alarm, of, at.moment, async (definition, moment) =>
        judging.explain(now, { alarm: definition, key: wanted, at: moment })
      );
  return {
    name: alarm.definition.name,
    id: alarm.id,
    ...{ series, key: wanted, at: at.moment, badMoment: at.isBad, why },
    sentence: why && alarmSentence(why.definition, wordsOf),
    watched: why && watchedWords(why.definition, metrics)
  };
};

/** The moment in the address: now when there is none, or none that can be read. */
function momentFrom(text: string | null, now: Instant): { readonly moment: Instant; readonly isBad: boolean } {
  if (text === null || text === '') return { moment: now, isBad: false };
  try {
    return { moment: instantFromText(text), isBad: false };
  } catch (error) {
    if (error instanceof RangeError) return { moment: now, isBad: true };
    throw error;
  }
}
