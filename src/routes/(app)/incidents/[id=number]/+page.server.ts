import { error } from '@sveltejs/kit';
import { alarmSentence } from '$lib/core/alarm';
import { alarmById } from '$server/alarms/alarms';
import { changesOfIncident, incidentById } from '$server/alarms/incidents';
import { metricByName } from '$server/intake/resources';
import { messagesOfIncident } from '$server/notify/outbox';
import { bussola } from '$server/running';

export const load = async ({ params, depends }) => {
  depends('bussola:overview');
  const { db } = bussola();
  const incident = await incidentById(db, Number(params.id));
  if (incident === null) error(404, { message: 'There is no such incident.', remedy: 'Its alarm may have been removed. See the list of incidents.' });
  const [alarm, metric, changes, messages] = await Promise.all([
    alarmById(db, incident.alarmId),
    metricByName(db, incident.metric),
    changesOfIncident(db, incident.id),
    messagesOfIncident(db, incident.id)
  ]);
  if (alarm === null || metric === null) error(404, { message: 'The alarm of this incident is gone.', remedy: 'See the list of incidents.' });
  return { incident, alarm: alarm.definition, sentence: alarmSentence(alarm.definition, metric), metric, changes, messages };
};
