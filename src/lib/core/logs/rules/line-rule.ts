import { RE2JS } from 're2js';
import { z } from 'zod';
import { idSchema } from '../../forms/id';
import type { StoredForm } from '../../forms/stored';
import { Refusal } from '../../problem/problem';
import { mostSearchCharacters } from '../search/limits';
import { readSearch } from '../search/read';
import { secretKinds } from './secrets';

const name = z
  .string()
  .trim()
  .min(1, { error: 'Give it a name.' })
  .max(60)
  .regex(/^[^‹›]*$/u, { error: 'A name has no ‹ or ›.' });
/** The account whose lines it is about; null for those of all. */
const account = z.int().pipe(idSchema).nullable().default(null);

const readableSearch = (text: string, context: z.RefinementCtx): void => {
  try {
    readSearch(text);
  } catch (error) {
    if (!(error instanceof Refusal)) throw error;
    context.addIssue({ code: 'custom', message: error.message });
  }
};
const readableExpression = (text: string, context: z.RefinementCtx): void => {
  let matchesNothing: boolean;
  try {
    matchesNothing = RE2JS.compile(text).matcher('').find();
  } catch {
    context.addIssue({ code: 'custom', message: 'This expression cannot be read.' });
    return;
  }
  if (matchesNothing) context.addIssue({ code: 'custom', message: 'This expression matches an empty text too.' });
};

/** What a mask is put over: a kind of secret, or what an expression finds: its first group where it has one. */
export const maskedSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.enum(secretKinds) }),
  z.strictObject({
    kind: z.literal('expression'),
    expression: z.string().min(1, { error: 'Give an expression.' }).max(500).superRefine(readableExpression)
  })
]);

/**
 * What becomes of lines before they are stored: some are left out, or something in them is masked.
 *
 * @example lineRuleSchema.parse({ does: 'mask', name: 'Tokens', masked: { kind: 'token' } })
 */
export const lineRuleSchema = z.discriminatedUnion('does', [
  z.strictObject({ does: z.literal('mask'), name, account, masked: maskedSchema }),
  z.strictObject({
    does: z.literal('leave-out'),
    name,
    account,
    search: z
      .string()
      .trim()
      .min(1, { error: 'Give a search: a rule without one would leave out everything.' })
      .max(mostSearchCharacters)
      .superRefine(readableSearch)
  })
]);
export type LineRule = z.infer<typeof lineRuleSchema>;
export type Masked = z.infer<typeof maskedSchema>;

/** How line rules are stored. */
export const lineRuleForm: StoredForm<LineRule> = {
  what: 'The rule for lines',
  version: 1,
  schema: lineRuleSchema,
  upgrades: []
};
