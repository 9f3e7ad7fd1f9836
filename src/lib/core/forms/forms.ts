import { z } from 'zod';
import { newChannelSchema } from '../notify';
import { keyScopes } from '../people/key-scopes';

/** An address that requests go to: nothing in it may be taken for something else, or be seen by others. */
const endpointSchema = z
  .url({ protocol: /^https?$/, error: 'Enter an address that starts with http:// or https://.' })
  .max(300)
  .refine((text) => !URL.canParse(text) || (new URL(text).username === '' && new URL(text).password === ''), {
    error: 'Leave the name and the password out of the address: they would be shown. Give them below.'
  })
  .refine((text) => !text.includes('#'), { error: 'Leave out the part from # on: no request reaches it.' });

/** What the form that connects an account takes; browser and server check the same. */
export const accountFormSchema = z.object({
  name: z
    .string()
    .trim()
    .min(1, { error: 'Give the account a name.' })
    .max(60)
    .regex(/^[a-z0-9][a-z0-9-]*$/, { error: 'Use small letters, digits and hyphens.' }),
  /** One of the registered providers, which the server knows. */
  provider: z.string().min(1, { error: 'Choose a provider.' }).max(40),
  endpoint: endpointSchema,
  keyId: z.string().trim().min(1, { error: 'Give the key id.' }).max(200),
  secret: z.string().min(1, { error: 'Give the secret; it is sealed at once and never shown again.' }).max(500)
});

/** What the form takes that puts another credential in an account's place. */
export const credentialFormSchema = accountFormSchema.pick({ keyId: true, secret: true });

/** What the form takes that makes a key for other programs. */
export const keyFormSchema = z.object({
  name: accountFormSchema.shape.name,
  /** Days it is good for; 0 for ever. */
  days: z.coerce.number().int().min(0).max(3650).default(365),
  mostSeries: z.coerce.number().int().min(1).max(100_000).default(1000),
  mostMegabytes: z.coerce.number().int().min(1).max(100_000).default(100),
  scopes: z.array(z.enum(keyScopes)).min(1, { error: 'Choose what the key may do.' })
});

/** What the form that adds a channel takes, all kinds in one: what is wrong is what {@link newChannelSchema} says. */
/** Kinds that the form adds: devices are set up on themselves. */
export const formKinds = ['email', 'text-message', 'chat-hook', 'webhook', 'topic'] as const;

export const channelFormSchema = z
  .object({
    kind: z.enum(formKinds).default('email'),
    name: z.string().default(''),
    address: z.string().default(''),
    template: z.string().default(''),
    mode: z.enum(['structured', 'binary']).default('structured')
  })
  .superRefine((channel, context) => {
    for (const { path, message } of newChannelSchema.safeParse(channel).error?.issues ?? [])
      context.addIssue({ code: 'custom', path: [...path], message });
  });

/** What the sign-in form takes. */
export const signInSchema = z.object({
  name: z.string().trim().min(1, { error: 'Enter your name.' }).max(100),
  password: z.string().min(1, { error: 'Enter your password.' }).max(200)
});
