import { z } from 'zod';
import { fileText, readFileText, type FileForm, type FileFormat, type UnreadableFile } from '../forms/file';
import { combinesOf } from './combined';
import { agreeing, alarmShape, mostChannels, type AlarmDefinition } from './schema';

const fileVersion = 1;
/** Alarms that a file may hold. */
export const mostAlarms = 500;

const nameSchema = alarmShape.name;

/** An alarm as files hold it: as it is defined, with the addresses of its channels and the names of the alarms that it combines. */
const fileAlarmSchema = agreeing(
  z.strictObject({
    ...alarmShape,
    combines: combinesOf(nameSchema).optional(),
    channels: z.array(z.string().trim().min(1).max(320)).max(mostChannels).default([])
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
  ...['kind', 'version', 'name', 'enabled', 'severity', 'owner', 'labels', 'about', 'runbook', 'channels'],
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
  readonly channelOf: (id: number) => string;
  readonly alarmOf: (id: number) => string;
}

/**
 * Alarms as the text of a file: keys in a fixed order, nothing that is as usual.
 *
 * @example alarmsFile([alarm], names, 'yaml') // 'kind: alarms\nversion: 1\nalarms:\n  - name: …'
 */
export function alarmsFile(alarms: readonly AlarmDefinition[], names: FileNames, format: FileFormat): string {
  const plain = alarms.map((alarm) => {
    const { enabled, labels, owner, about, runbook, ...rest } = fileAlarm(alarm, names);
    return {
      ...rest,
      ...(enabled ? {} : { enabled }),
      ...(Object.keys(labels).length > 0 ? { labels } : {}),
      ...(owner === '' ? {} : { owner }),
      ...(about === '' ? {} : { about }),
      ...(runbook === '' ? {} : { runbook })
    };
  });
  return fileText({ kind: 'alarms', version: fileVersion, alarms: plain }, format, keyOrder);
}

const fileAlarm = ({ combines, channels, ...rest }: AlarmDefinition, { channelOf, alarmOf }: FileNames): FileAlarm => ({
  ...rest,
  channels: channels.map(channelOf),
  ...(combines && {
    combines: {
      ...combines,
      parts: combines.parts.map((part) => ('alarm' in part ? { alarm: alarmOf(part.alarm) } : part))
    }
  })
});

export type ReadAlarmFile = { readonly kind: 'read'; readonly alarms: readonly FileAlarm[] } | UnreadableFile;

/** Reads the text of a file of alarms. @example readAlarmFile('kind: alarms\nversion: 1\nalarms: []').kind // 'unreadable': there is no alarm in it */
export function readAlarmFile(text: string): ReadAlarmFile {
  const read = readFileText(text, alarmFileForm);
  return read.kind === 'unreadable' ? read : { kind: 'read', alarms: read.content.alarms };
}
