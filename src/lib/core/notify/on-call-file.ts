import { z } from 'zod';
import { fileText, readFileText, type FileForm, type FileFormat, type UnreadableFile } from '../forms/file';
import { layerSchema, rotaSchema } from '../rota';
import { channelKinds, channelSettingsSchema } from './channel';
import { contactKinds, routeConditionSchema, routeSchema } from './route';

const fileVersion = 1;
/** Things of each kind that a file may hold. */
const most = 200;

const name = z.string().trim().min(1).max(80);
/** The sign-in name of a person. */
const person = z.string().trim().min(1).max(60);
const by = z.array(z.enum(contactKinds)).min(1);

/** A channel without what is secret of it: a chat hook has no address here, a webhook nothing that it signs with. */
const fileChannelSchema = z.strictObject({
  name,
  kind: z.enum(channelKinds).exclude(['push']),
  /** None of a chat hook, whose address is a secret, and of a topic. */
  address: z.string().trim().max(600).optional(),
  ...channelSettingsSchema.shape,
  /** Whoever is reached by it; none for a channel of all. */
  person: person.optional()
});
export type FileChannel = z.infer<typeof fileChannelSchema>;

const fileRotaSchema = z.strictObject({
  ...rotaSchema.omit({ teamId: true, layers: true }).shape,
  team: z.string().trim().max(60).optional(),
  layers: z
    .array(z.strictObject({ ...layerSchema.shape, people: z.array(person).min(1).max(60) }))
    .min(1)
    .max(10)
});
export type FileRota = z.infer<typeof fileRotaSchema>;

const fileTargetSchema = z.union([
  z.strictObject({ rota: name, by }),
  z.strictObject({ person, by }),
  z.strictObject({ channel: name })
]);
export type FileTarget = z.infer<typeof fileTargetSchema>;

const fileRouteSchema = z.strictObject({
  ...routeSchema.shape,
  /** In the list, the last one of all, or for alarms that name it. */
  place: z.enum(['list', 'last', 'named']).default('list'),
  when: z.strictObject({
    ...routeConditionSchema.omit({ groupIds: true }).shape,
    groups: z.array(z.string().min(1).max(200)).max(50).default([])
  }),
  steps: z
    .array(z.strictObject({ after: z.int().min(0), notify: z.array(fileTargetSchema).min(1).max(20) }))
    .min(1)
    .max(8)
});
export type FileRoute = z.infer<typeof fileRouteSchema>;

/** Who is notified, as a file: channels without secrets, rotas, routes in the order of the list. */
export const onCallFileSchema = z
  .strictObject({
    kind: z.literal('on-call'),
    version: z.literal(fileVersion),
    channels: z.array(fileChannelSchema).max(most).default([]),
    rotas: z.array(fileRotaSchema).max(most).default([]),
    routes: z.array(fileRouteSchema).max(most).default([])
  })
  .superRefine(({ channels, rotas, routes }, context) => {
    for (const [of, things] of Object.entries({ channels, rotas, routes })) {
      const names = new Set<string>();
      for (const [index, one] of things.entries()) {
        // A person's address and telephone may be called the same.
        const key = 'kind' in one ? `${one.kind} ${one.name}` : one.name;
        if (names.has(key))
          context.addIssue({
            code: 'custom',
            message: `Two ${of} are called “${one.name}”: each needs a name of its own.`,
            path: [of, index, 'name']
          });
        names.add(key);
      }
    }
  });
export type OnCallFile = z.infer<typeof onCallFileSchema>;

const onCallFileForm: FileForm<OnCallFile> = {
  kind: 'on-call',
  what: 'who is on call and notified',
  version: fileVersion,
  schema: onCallFileSchema
};

const keyOrder = [
  ...['kind', 'version', 'channels', 'rotas', 'routes', 'name', 'address', 'person', 'place', 'when', 'steps'],
  ...['after', 'notify', 'rota', 'channel', 'by', 'team', 'zone', 'layers', 'people', 'days', 'from', 'until', 'at']
];

/** @example onCallText({ kind: 'on-call', version: 1, channels: [], rotas: [], routes: [] }, 'yaml').split('\n')[0] // 'kind: on-call' */
export const onCallText = (file: OnCallFile, format: FileFormat): string => fileText(file, format, keyOrder);

export type ReadOnCallFile = { readonly kind: 'read'; readonly file: OnCallFile } | UnreadableFile;

/** Reads the text of a file. @example readOnCallFile('kind: on-call\nversion: 1').kind // 'read' */
export function readOnCallFile(text: string): ReadOnCallFile {
  const read = readFileText(text, onCallFileForm);
  return read.kind === 'unreadable' ? read : { kind: 'read', file: read.content };
}
