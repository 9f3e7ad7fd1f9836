import { z } from 'zod';
import { idSchema } from '$lib/core/forms/id';
import { messageTemplatesSchema } from '$lib/core/notify';
import { isDateLocale } from '$lib/core/time';
import { saveTemplates, storedTemplates } from '../notify/message-templates';
import { profileOf } from '../people/people';
import { previewWords } from '../respond/preview-words';
import { instant, operationsOf } from './operation';

const operation = operationsOf('Channels');

const stored = z.object({
  templates: messageTemplatesSchema,
  version: z.int().describe('0 while the usual words are used.'),
  changedAt: instant.nullable(),
  changedBy: z.string().nullable()
});

export const messageTemplateOperations = [
  operation('GET', '/message-templates', {
    right: 'viewer',
    scope: 'read',
    summary: 'Reads what mails and short messages about incidents say; empty for the usual words.',
    answer: stored,
    handle: ({ server: { db } }) => storedTemplates(db)
  }),
  operation('PUT', '/message-templates', {
    right: 'editor',
    summary: 'Changes what they say, from the next message on. Names stand in double braces, as in mustache.',
    body: z.strictObject({ templates: messageTemplatesSchema, version: z.int().min(0) }),
    answer: stored,
    handle: ({ server, body: { templates, version }, author }) =>
      saveTemplates(server, templates, version, author.displayName)
  }),
  operation('POST', '/message-templates/preview', {
    isAct: false,
    right: 'viewer',
    scope: 'read',
    summary: 'Writes the message that an incident was raised in the words of some templates, and sends nothing.',
    body: z.strictObject({ templates: messageTemplatesSchema, incidentId: idSchema }),
    answer: z.object({
      mail: z.object({
        subject: z.string(),
        heading: z.string(),
        sentence: z.string(),
        rows: z.array(z.tuple([z.string(), z.string()]))
      }),
      short: z.string()
    }),
    handle: async ({ server, body: { templates, incidentId }, reader }) => {
      const person = reader === null ? null : await profileOf(server.db, reader.id);
      const locale = person !== null && isDateLocale(person.dateLocale) ? person.dateLocale : 'en';
      const { mail, short } = await previewWords(server, templates, incidentId, {
        zone: person?.zone ?? 'UTC',
        locale
      });
      const { subject, heading, sentence, rows } = mail;
      return {
        mail: { subject, heading, sentence, rows: rows.map(([name, text]) => [name, text] as [string, string]) },
        short
      };
    }
  })
];
