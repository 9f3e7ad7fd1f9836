import { error } from '@sveltejs/kit';
import { alarmSentence } from '$lib/core/alarm';
import { alarmById } from '$server/alarms/alarms';
import { watchedWords } from '$server/alarms/watched';
import { changesOfIncident, incidentById } from '$server/incidents/incidents';
import { allMetrics } from '$server/inventory/metrics';
import { resourceNamed } from '$server/inventory/resources';
import { messagesOfIncident } from '$server/notify/outbox';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, depends }) => {
  depends('bussola:overview');
  const { db } = bussola();
  const incident = await incidentById(db, Number(params.id));
  if (incident === null)
    error(404, {
      message: 'There is no such incident.',
      remedy: 'It may be older than incidents are stored. See the list of incidents.'
    });
  const [alarm, metrics, changes, messages] = await Promise.all([
    incident.alarmId === null ? null : alarmById(db, incident.alarmId),
    allMetrics(db),
    changesOfIncident(db, incident.id),
    messagesOfIncident(db, incident.id)
  ]);
  const rule = changes.at(-1)?.evidence.rule ?? null;
  const known = { incident, rule, changes, messages };
  if (alarm === null)
    return { ...known, alarm: null, watched: null, sentence: '', others: [], unit: incident.unit ?? '1' };
  const { definition } = alarm;
  const wordsOf = (name: string) => metrics.find((metric) => metric.name === name);
  const watched = watchedWords(definition, metrics);
  // What else that resource reports: the cause is often there.
  const { account, resource } = incident;
  const type = (await resourceNamed(db, account, resource))?.type;
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
