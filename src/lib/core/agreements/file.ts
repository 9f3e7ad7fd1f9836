import { z } from 'zod';
import { fileText, readFileText, type FileForm, type FileFormat, type UnreadableFile } from '../forms/file';

const fileVersion = 1;
/** Things of each kind that a file may hold. */
const most = 200;

/** What is promised, paid for, done by itself and told regularly, in the order in which a file has them. */
export const agreementKinds = ['budgets', 'promises', 'responses', 'summaries'] as const;
export type AgreementKind = (typeof agreementKinds)[number];

/** One of them as a file holds it: as it is stored, but with names in place of ids. What is in it besides its name is checked when it is planned. */
const thing = z.looseObject({ name: z.string().trim().min(1).max(120) });
export type FileAgreement = z.infer<typeof thing>;

/** Budgets, promises, responses and summaries as a file. */
export const agreementFileSchema = z
  .strictObject({
    kind: z.literal('agreements'),
    version: z.literal(fileVersion),
    budgets: z.array(thing).max(most).default([]),
    promises: z.array(thing).max(most).default([]),
    responses: z.array(thing).max(most).default([]),
    summaries: z.array(thing).max(most).default([])
  })
  .superRefine((file, context) => {
    for (const kind of agreementKinds) {
      const names = new Set<string>();
      for (const [index, { name }] of file[kind].entries()) {
        if (names.has(name))
          context.addIssue({
            code: 'custom',
            message: `Two ${kind} are called “${name}”: each needs a name of its own.`,
            path: [kind, index, 'name']
          });
        names.add(name);
      }
    }
  });
export type AgreementFile = z.infer<typeof agreementFileSchema>;

const agreementFileForm: FileForm<AgreementFile> = {
  ...{ kind: 'agreements', what: 'budgets, promises, responses and summaries', version: fileVersion },
  schema: agreementFileSchema
};
const keyOrder = ['kind', 'version', ...agreementKinds, 'name', 'enabled'];

/** @example agreementText({ kind: 'agreements', version: 1, budgets: [], promises: [], responses: [], summaries: [] }, 'yaml').split('\n')[0] // 'kind: agreements' */
export const agreementText = (file: AgreementFile, format: FileFormat): string => fileText(file, format, keyOrder);

export type ReadAgreementFile = { readonly kind: 'read'; readonly file: AgreementFile } | UnreadableFile;

/** Reads such a file, YAML or JSON; what is wrong is reported with its line. @example readAgreementFile('kind: agreements\nversion: 1\n').kind // 'read' */
export function readAgreementFile(text: string): ReadAgreementFile {
  const read = readFileText(text, agreementFileForm);
  return read.kind === 'read' ? { kind: 'read', file: read.content } : read;
}
