import { z } from 'zod';
import { alarmChangeSchema, alarmSchema, type AlarmDefinition, type State } from '$lib/core/alarm';
import { alarmFileSchema } from '$lib/core/alarm/file';
import { fileFormats } from '$lib/core/forms/file';
import { idSchema } from '$lib/core/forms/id';
import { alarmById, allAlarms, countStates, type Alarm } from '../alarms/alarms';
import { changeAlarms, removeAlarms, undoChanges } from '../alarms/change-many';
import { alarmFileBody, alarmsAsFile, applyAlarmFile, planAlarmFile } from '../alarms/files';
import { noSuchAlarm, removeAlarm, restoreVersion, saveAlarm } from '../alarms/save-alarm';
import { alarmHistory } from '../alarms/history';
import { mostFileBytes } from '../boards/files';
import { asStored, idParams, instant, operationsOf } from './operation';
import { wholeList } from './paging';

const operation = operationsOf('Alarms, incidents and channels');

const alarmAnswer = z.object({
  id: z.int(),
  definition: asStored<AlarmDefinition>(alarmSchema),
  createdAt: instant,
  createdBy: z.string(),
  changedAt: instant,
  changedBy: z.string(),
  lastError: z
    .object({ message: z.string(), remedy: z.string(), since: instant, notifiedAt: instant.nullable() })
    .nullable()
    .describe('Why the alarm cannot be evaluated at present.'),
  states: z.object({ clear: z.int(), raised: z.int(), indeterminate: z.int() }).describe('Series in each state.')
});
type Counts = Awaited<ReturnType<typeof countStates>>;
function withStates(alarm: Alarm, counts: Counts) {
  const count = (of: State) => counts.find((one) => one.alarmId === alarm.id && one.state === of)?.count ?? 0;
  return {
    ...alarm,
    states: { clear: count('clear'), raised: count('raised'), indeterminate: count('indeterminate') }
  };
}

/** Days of history that a new alarm is judged over at most. */
const mostHistoryDays = 30;
/** Alarms that are changed at once. */
const mostAtOnce = 500;
const ids = z.array(idSchema).min(1).max(mostAtOnce);
const changed = z.array(
  z.object({ id: z.int(), version: z.int().nullable().describe('After it; null for one that was removed.') })
);
const manyAnswer = z.object({
  changed: changed.describe('What undoing it needs.'),
  skipped: z.array(z.object({ id: z.int(), name: z.string(), why: z.string() })).describe('Left as they were.')
});
const filePlan = z.object({
  alarms: z.array(
    z.object({
      name: z.string(),
      id: z.int().nullable().describe('The alarm that would change; null when a new one would be made.'),
      sentence: z.string(),
      differences: z.array(z.string()).describe('None when it is the same already.'),
      problems: z.array(z.string()).describe('Why it cannot be applied.')
    })
  )
});

export const alarmOperations = [
  operation('GET', '/alarms', {
    list: wholeList('alarms'),
    right: 'viewer',
    scope: 'read',
    summary: 'Lists alarms with the number of series in each state.',
    answer: z.object({ alarms: z.array(alarmAnswer) }),
    handle: async ({ server: { db } }) => {
      const [alarms, counts] = await Promise.all([allAlarms(db), countStates(db)]);
      return { alarms: alarms.map((alarm) => withStates(alarm, counts)) };
    }
  }),
  operation('POST', '/alarms', {
    right: 'editor',
    summary: 'Makes an alarm. It is evaluated from now on.',
    query: z.strictObject({
      history: z.coerce
        .number()
        .pipe(z.int().min(0).max(mostHistoryDays))
        .default(0)
        .describe('Days of stored history that it is judged over as well; nobody is notified of what it finds there.')
    }),
    body: alarmSchema,
    answer: alarmAnswer,
    status: 201,
    handle: async ({ server, body, query: { history }, author }) =>
      withStates(await saveAlarm(server, null, body, author.displayName, history), [])
  }),
  operation('GET', '/alarms/{id}', {
    right: 'viewer',
    scope: 'read',
    summary: 'Reads an alarm.',
    answer: alarmAnswer,
    handle: async ({ server: { db }, params: { id } }) => {
      const [alarm, counts] = await Promise.all([alarmById(db, id), countStates(db)]);
      if (alarm === null) throw noSuchAlarm();
      return withStates(alarm, counts);
    }
  }),
  operation('PUT', '/alarms/{id}', {
    right: 'editor',
    summary: 'Replaces an alarm. Its series are evaluated again.',
    body: alarmSchema,
    answer: alarmAnswer,
    handle: async ({ server, params: { id }, body, author }) =>
      withStates(await saveAlarm(server, id, body, author.displayName), await countStates(server.db))
  }),
  operation('DELETE', '/alarms/{id}', {
    right: 'editor',
    summary: 'Removes an alarm. Its incidents stay in the history.',
    handle: ({ server, params: { id } }) => removeAlarm(server, id)
  }),
  operation('POST', '/alarms/change', {
    right: 'editor',
    summary: 'Changes several alarms alike: severity, owner, labels, channels, on or off.',
    body: z.strictObject({ ids, change: alarmChangeSchema }),
    answer: manyAnswer,
    handle: ({ server, body, author }) => changeAlarms(server, body.ids, body.change, author.displayName)
  }),
  operation('POST', '/alarms/remove', {
    right: 'editor',
    summary: 'Removes several alarms. They can be had back for 30 days.',
    body: z.strictObject({ ids }),
    answer: manyAnswer,
    handle: ({ server, body, author }) => removeAlarms(server, body.ids, author.displayName)
  }),
  operation('POST', '/alarms/undo', {
    right: 'editor',
    summary: 'Takes a change or a removal of several alarms back, of those that were not changed again since.',
    body: z.strictObject({ changed: changed.min(1).max(mostAtOnce) }),
    answer: manyAnswer,
    handle: ({ server, body, author }) => undoChanges(server, body.changed, author.displayName)
  }),
  operation('GET', '/alarms/file', {
    types: ['application/yaml'],
    isAct: true,
    right: 'viewer',
    scope: 'read',
    summary: 'Exports alarms as a file: all, or those of some ids.',
    query: z.strictObject({
      format: z.enum(fileFormats).default('yaml'),
      ids: z
        .string()
        .regex(/^\d+(,\d+)*$/, { error: 'Give ids with commas between them.' })
        .max(6 * mostAtOnce)
        .optional()
    }),
    answer: alarmFileSchema,
    handle: async ({ server: { db }, query: { format, ids: wanted } }) => {
      const text = await alarmsAsFile(db, wanted === undefined ? null : wanted.split(',').map(Number), format);
      return new Response(text, {
        headers: {
          'content-type': format === 'json' ? 'application/json' : 'application/yaml; charset=utf-8',
          'content-disposition': `attachment; filename="alarms.${format}"`
        }
      });
    }
  }),
  operation('POST', '/alarms/plan', {
    isAct: false,
    right: 'editor',
    summary: 'Shows what applying a file of alarms would change. Nothing is changed.',
    body: alarmFileBody,
    mostBytes: mostFileBytes,
    answer: filePlan,
    handle: ({ server, body }) => planAlarmFile(server, body.text)
  }),
  operation('POST', '/alarms/apply', {
    right: 'editor',
    summary: 'Applies a file of alarms, all of it or nothing. Alarms that it does not name stay.',
    body: alarmFileBody,
    mostBytes: mostFileBytes,
    answer: filePlan.extend({ applied: z.array(z.object({ id: z.int(), name: z.string() })) }),
    handle: ({ server, body, author }) => applyAlarmFile(server, body.text, author.displayName)
  }),
  operation('GET', '/alarms/{id}/versions', {
    list: wholeList('versions'),
    right: 'viewer',
    scope: 'read',
    summary: 'Lists the definitions that an alarm had, newest first, each with what became different.',
    answer: z.object({
      versions: z.array(z.object({ version: z.int(), at: instant, by: z.string(), differences: z.array(z.string()) }))
    }),
    handle: async ({ server: { db }, params: { id } }) => ({ versions: await alarmHistory(db, id) })
  }),
  operation('POST', '/alarms/{id}/versions/{version}/restore', {
    right: 'editor',
    summary: 'Gives an alarm a definition back that it had, as a new version.',
    params: idParams.extend({ version: z.coerce.number().pipe(z.int().min(1)) }),
    answer: alarmAnswer,
    handle: async ({ server, params: { id, version }, author }) =>
      withStates(await restoreVersion(server, id, version, author.displayName), await countStates(server.db))
  })
];
