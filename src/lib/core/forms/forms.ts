import { z } from 'zod';

/** What the form that connects an account takes; browser and server check the same. */
export const accountFormSchema = z.object({
  name: z
    .string()
    .trim()
    .min(1, { error: 'Give the account a name.' })
    .max(60)
    .regex(/^[a-z0-9][a-z0-9-]*$/, { error: 'Use small letters, digits and hyphens.' }),
  provider: z.enum(['levante']).default('levante'),
  endpoint: z.url({ protocol: /^https?$/, error: 'Give an address that begins with http:// or https://.' }).max(300),
  keyId: z.string().trim().min(1, { error: 'Give the key id.' }).max(200),
  secret: z.string().min(1, { error: 'Give the secret; it is sealed at once and never shown again.' }).max(500)
});

/** What the form that adds an e-mail channel takes. */
export const channelFormSchema = z.object({
  name: z.string().trim().min(1, { error: 'Name it by who reads it, such as "Machines on call".' }).max(80),
  address: z.email({ error: 'Give an e-mail address.' }).max(200)
});

/** What the sign-in form takes. */
export const signInSchema = z.object({
  name: z.string().trim().min(1, { error: 'Enter your name.' }).max(100),
  password: z.string().min(1, { error: 'Enter your password.' }).max(200)
});
