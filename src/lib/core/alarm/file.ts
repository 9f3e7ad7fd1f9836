import { z } from 'zod';
import { fileText, readFileText, type FileForm, type FileFormat, type UnreadableFile } from '../forms/file';
import { combinesOf } from './combined';
import { agreeing, alarmShape, type AlarmDefinition } from './schema';

/** Files of version 1 named channels; routes decide now who is notified. */
const fileVersion = 2;
/** Alarms that a file may hold. */
export const mostAlarms = 500;

const nameSchema = alarmShape.name;

/** An alarm as files hold it: as it is defined, with the name of its route and the names of the alarms that it combines. */
const fileAlarmSchema = agreeing(
  z.strictObject({
    ...alarmShape,
    combines: combinesOf(nameSchema).optional(),
    /** The name of a route; none for the list. */
    route: z.string().trim().min(1).max(80).nullable().default(null)
  })
);
export type FileAlarm = z.infer<typeof fileAlarmSchema>;

/** Alarms as a file. */
export const alarmFileSchema = z
  .strictObject({
    kind: z.literal('alarms'),
    version: z.literal(fileVersion),
    alarms: z.array(fileAlarmSchema).min(1, { error: 'There is no alarm in it.' }).max(mostAlarms)
  })
  .superRefine(({ alarms }, context) => {
    const names = new Set<string>();
    for (const [index, { name }] of alarms.entries()) {
      if (names.has(name))
        context.addIssue({
          code: 'custom',
          message: `Two alarms are called “${name}”: each needs a name of its own.`,
          path: ['alarms', index, 'name']
        });
      names.add(name);
    }
  });

const alarmFileForm: FileForm<z.infer<typeof alarmFileSchema>> = {
  kind: 'alarms',
  what: 'alarms',
  version: fileVersion,
  schema: alarmFileSchema
};

const keyOrder = [
  ...['kind', 'version', 'name', 'enabled', 'severity', 'owner', 'labels', 'about', 'runbook', 'route'],
  ...[
    'signal',
    'combines',
    'parts',
    'alarm',
    'metric',
    'statistic',
    'where',
    'step',
    'by',
    'rule',
    'levels',
    'condition'
  ],
  ...['window', 'needs', 'of', 'clearing', 'whenMissing', 'zone']
];

/** What ids are called in a file. */
export interface FileNames {
  readonly routeOf: (id: number) => string;
  readonly alarmOf: (id: number) => string;
}

/**
 * Alarms as the text of a file: keys in a fixed order, nothing that is as usual.
 *
 * @example alarmsFile([alarm], names, 'yaml') // 'kind: alarms\nversion: 2\nalarms:\n  - name: …'
 */
export function alarmsFile(alarms: readonly AlarmDefinition[], names: FileNames, format: FileFormat): string {
  const plain = alarms.map((alarm) => {
    const { enabled, labels, owner, about, runbook, route, ...rest } = fileAlarm(alarm, names);
    return {
      ...rest,
      ...(route === null ? {} : { route }),
      ...(enabled ? {} : { enabled }),
      ...(Object.keys(labels).length > 0 ? { labels } : {}),
      ...(owner === '' ? {} : { owner }),
      ...(about === '' ? {} : { about }),
      ...(runbook === '' ? {} : { runbook })
    };
  });
  return fileText({ kind: 'alarms', version: fileVersion, alarms: plain }, format, keyOrder);
}

const fileAlarm = ({ combines, route, ...rest }: AlarmDefinition, { routeOf, alarmOf }: FileNames): FileAlarm => ({
  ...rest,
  route: route === null ? null : routeOf(route),
  ...(combines && {
    combines: {
      ...combines,
      parts: combines.parts.map((part) => ('alarm' in part ? { alarm: alarmOf(part.alarm) } : part))
    }
  })
});

export type ReadAlarmFile = { readonly kind: 'read'; readonly alarms: readonly FileAlarm[] } | UnreadableFile;

/** Reads the text of a file of alarms. @example readAlarmFile('kind: alarms\nversion: 2\nalarms: []').kind // 'unreadable': there is no alarm in it */
export function readAlarmFile(text: string): ReadAlarmFile {
  const read = readFileText(text, alarmFileForm);
  return read.kind === 'unreadable' ? read : { kind: 'read', alarms: read.content.alarms };
}
