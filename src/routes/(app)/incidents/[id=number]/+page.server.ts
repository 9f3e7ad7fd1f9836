import { error } from '@sveltejs/kit';
import { alarmSentence } from '$lib/core/alarm';
import { before, day, times } from '$lib/core/time';
import { allAlarms } from '$server/alarms/alarms';
import { watchedWords } from '$server/alarms/watched';
import { changesOfIncident, incidentById } from '$server/incidents/incidents';
import { cellsChangedSince } from '$server/engine/why';
import { eventRuleById, eventRulesByIds } from '$server/events/event-rules';
import { eventsBehind } from '$server/events/outside-events';
import type { Queryable } from '$server/db/pool';
import { clusterHref } from '$server/clusters/cluster-page';
import { darkAccounts } from '$server/intake/own/dark-accounts';
import { allMetrics } from '$server/inventory/metrics';
import { resourceNamed } from '$server/inventory/resources';
import { messagesOfIncident } from '$server/notify/outbox-lists';
import { occurrenceAt } from '$lib/core/shelving';
import { actRight } from '$server/people/act-access';
import { allPeople } from '$server/people/people';
import { actableBy } from '$server/responses/provider-acts';
import { relatedTo } from '$server/respond/related';
import { timelineOf } from '$server/respond/timeline';
import { whoIsNext } from '$server/respond/who-is-next';
import { activeShelvings } from '$server/shelving/shelvings';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

/** Events of one incident that are listed. */
const mostEvents = 100;

/** The rule that raised an incident, also where it was removed since, and its events. */
async function ruleBehind(db: Queryable, incidentId: number, ruleId: number) {
  const [rules, stored, events] = await Promise.all([
    eventRulesByIds(db, [ruleId]),
    eventRuleById(db, ruleId),
    eventsBehind(db, incidentId, mostEvents)
  ]);
  const rule = rules.get(ruleId)?.rule ?? null;
  return { id: stored === null ? null : ruleId, rule, events };
}

/** Changes of state that are compared with what is stored now, the newest of them, as long as samples may still come late. */
const mostCompared = 4;
const comparedFor = times(2, day);

export const load: PageServerLoad = async ({ params, depends, locals }) => {
  depends('bussola:overview');
  const server = bussola();
  const { db } = server;
  const incident = await incidentById(db, Number(params.id));
  if (incident === null)
    error(404, {
      message: 'There is no such incident.',
      remedy: 'It may be older than incidents are stored. See the list of incidents.'
    });
  const now = server.clock.now();
  const dark = await darkAccounts(db, server.providers, now);
  const [alarms, metrics, changes, messages, timeline, next, related, people, shelvings] = await Promise.all([
    allAlarms(db),
    allMetrics(db),
    changesOfIncident(db, incident.id),
    messagesOfIncident(db, incident.id),
    timelineOf(db, incident),
    whoIsNext(db, incident, now),
    relatedTo(db, incident, new Set(dark.map(({ name }) => name)), now),
    allPeople(db),
    activeShelvings(db)
  ]);
  /** Its account, while it sends nothing and the incident is open: it stays as it was. */
  const darkAccount = incident.closedAt === null ? (dark.find(({ name }) => name === incident.account) ?? null) : null;
  const recent = changes.filter(({ at }) => at >= before(now, comparedFor));
  /** How many cells of each change read otherwise now; those that were judged afterwards were read late anyway. */
  const late =
    incident.alarmId === null || incident.judgedAfterwards
      ? []
      : await Promise.all(
          recent.slice(-mostCompared).map(async (change) => ({
            at: change.at,
            cells: await cellsChangedSince(db, incident.alarmId as number, change, async (alarm, at) =>
              server.judging.explain(now, { alarm, key: incident.key, at })
            )
          }))
        );
  // One that was removed is not among them, nor one that cannot be read: what happened is shown all the same.
  const alarm = alarms.find(({ id }) => id === incident.alarmId) ?? null;
  const level = changes.at(-1)?.evidence.level ?? null;
  const held = shelvings.find(({ id }) => id === incident.shelvingId);
  const until = held ? (occurrenceAt(held.shelving, now)?.to ?? now) : now;
  const rule = incident.eventRuleId === null ? null : await ruleBehind(db, incident.id, incident.eventRuleId);
  const { account, resource } = incident;
  const watchedResource = await resourceNamed(db, account, resource);
  const accounts = await actRight.of(db, locals.person);
  const known = {
    actsOn: actableBy(server, accounts, watchedResource),
    clusterHref: await clusterHref(db, watchedResource?.id ?? null, incident.labels),
    rule,
    ...{ incident, level, changes, messages, darkAccount, late, timeline, next, related },
    people: people.map(({ id, displayName }) => ({ id, displayName })),
    shelving: held ? { reason: held.shelving.reason, by: held.createdBy, until } : null
  };
  if (alarm === null)
    return { ...known, alarm: null, watched: null, sentence: '', others: [], unit: incident.unit ?? '1' };
  const { definition } = alarm;
  const wordsOf = (name: string) => metrics.find((metric) => metric.name === name);
  const watched = watchedWords(definition, metrics);
  // What else that resource reports: the cause is often there.
  const type = watchedResource?.type;
  const others = metrics
    .filter(({ name, resourceType }) => name !== incident.metric && resourceType === type)
    .slice(0, 3);
  return {
    others,
    watched: { ...watched, unit: incident.unit ?? watched.unit },
    unit: incident.unit ?? watched.unit,
    ...known,
    alarm: definition,
    sentence: alarmSentence(definition, wordsOf)
  };
};
