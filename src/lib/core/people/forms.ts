import { z } from 'zod';
import { dateLocales, isZone, type DateLocale } from '../time';
import { quietSchema } from './quiet';
import { roles } from './rights';

/** How people are called when they sign in; it is part of no mail address, so that the two are never taken for each other. */
const name = z
  .string()
  .trim()
  .min(2, { error: 'Give a name of two characters at least.' })
  .max(60)
  .regex(/^[a-z0-9][a-z0-9._-]*$/, { error: 'Use small letters, digits, dots and hyphens.' });
const displayName = z.string().trim().min(1, { error: 'Say what they are called.' }).max(80);
const mail = z.email({ error: 'Give a mail address, such as mira@example.test.' }).max(200);
const zone = z.string().max(60).refine(isZone, { error: 'Choose a time zone.' });
/** Its strength is judged on the server. */
const password = z.string().min(1, { error: 'Choose a password.' }).max(200);

/** Whoever is invited. */
export const invitationSchema = z.strictObject({
  name,
  displayName,
  mail,
  role: z.enum(roles),
  teamIds: z.array(z.int().positive()).max(50).default([])
});
export type Invitation = z.infer<typeof invitationSchema>;

/** What the first administrator enters. */
export const firstPersonSchema = z.object({ name, displayName, mail, zone, password });

/** What somebody enters who was invited. */
export const joinSchema = z.object({ zone, password });

/** What somebody enters who sets a new password. */
export const newPasswordSchema = z.object({ password });

/** What people set up for themselves. */
export const ownSettingsSchema = z.strictObject({
  displayName,
  zone,
  /** In which language dates are written. */
  dateLocale: z.enum(Object.keys(dateLocales) as [DateLocale, ...DateLocale[]]).default('en'),
  quiet: quietSchema.nullable()
});

export const teamNameSchema = z.string().trim().min(1, { error: 'Give the team a name.' }).max(60);

/** A code of the second factor, or one for recovery. */
export const codeSchema = z.object({ code: z.string().trim().min(6, { error: 'Enter the code.' }).max(30) });

/** Whoever asks for a new password. */
export const resetSchema = z.object({
  name: z.string().trim().min(1, { error: 'Enter your name or mail address.' }).max(200)
});
