import { z } from 'zod';
import { backupPlanSchema } from '$lib/core/backup';
import { listBackups, resultSchema } from '../backup/records';
import { backupPlan } from '../backup/plans';
import { instant, operationsOf } from './operation';
import { wholeList } from './paging';

const operation = operationsOf('Backups');

const progress = z.object({
  doing: z.string(),
  share: z.number().nullable().describe('Of 1; null where nobody knows.')
});
const record = z.object({
  id: z.int(),
  kind: z.enum(['backup', 'rehearsal']),
  backupId: z.int().nullable().describe('Of a rehearsal: the backup that is restored.'),
  state: z.enum(['running', 'done', 'failed', 'stopped']),
  beganAt: instant,
  beganBy: z.string(),
  endedAt: instant.nullable(),
  isScheduled: z.boolean(),
  file: z.string().nullable().describe('Its name in the folder; null once it is removed.'),
  isThere: z.boolean().describe('Whether its file is there.'),
  progress: progress.nullable(),
  result: resultSchema.nullable(),
  problem: z.object({ code: z.string(), message: z.string(), remedy: z.string() }).nullable()
});

export const backupOperations = [
  operation('GET', '/backups', {
    list: wholeList('backups'),
    right: 'administrator',
    summary: 'Lists backups and rehearsals of restoring them, the newest first, with the schedule.',
    answer: z.object({
      folder: z.string().describe('Where the files are.'),
      plan: backupPlanSchema.nullable(),
      planVersion: z.int().nullable(),
      nextAt: instant.nullable(),
      backups: z.array(record)
    }),
    handle: async ({ server }) => {
      const stored = await backupPlan(server.db);
      const all = await listBackups(server.db);
      return {
        folder: server.backups.folder.path,
        plan: stored?.plan ?? null,
        planVersion: stored?.version ?? null,
        nextAt: stored?.nextAt ?? null,
        backups: all.map((one) => ({ ...one, isThere: server.backups.folder.has(one.file) }))
      };
    }
  }),
  operation('POST', '/backups', {
    right: 'administrator',
    summary: 'Begins a backup of everything that is stored. It goes on after the answer.',
    answer: z.object({ id: z.int() }),
    status: 202,
    handle: async ({ server, author }) => ({ id: await server.backups.makeBackup(author.displayName) })
  }),
  operation('POST', '/backups/{id}/rehearse', {
    right: 'administrator',
    summary: 'Begins to rehearse restoring a backup, in a folder of its own that is removed afterwards.',
    answer: z.object({ id: z.int() }),
    status: 202,
    handle: async ({ server, params: { id }, author }) => ({
      id: await server.backups.beginRehearsal(id, author.displayName)
    })
  }),
  operation('POST', '/backups/{id}/stop', {
    right: 'administrator',
    summary: 'Stops a backup or a rehearsal that runs. Nothing of it is left.',
    handle: ({ server, params: { id } }) => server.backups.stop(id)
  }),
  operation('DELETE', '/backups/{id}', {
    right: 'administrator',
    summary: 'Removes a backup and its file, or a rehearsal.',
    handle: ({ server, params: { id } }) => server.backups.remove(id)
  }),
  operation('PUT', '/backups/plan', {
    right: 'administrator',
    summary: 'Schedules backups and rehearsals.',
    body: z.strictObject({
      plan: backupPlanSchema,
      version: z.int().min(1).nullable().describe('The version that was read; null where there was none.')
    }),
    handle: ({ server, body: { plan, version }, author }) => server.backups.schedule(plan, version, author.displayName)
  })
];
