import { z } from 'zod';
import { idSchema } from '../forms/id';
import type { StoredForm } from '../forms/stored';
import { steadySignalSchema } from '../signal';
import { severities } from './severity';

/** The longest evaluation window, in cells. */
export const mostWindowCells = 60;

export const conditionSchema = z.strictObject({
  is: z.enum(['above', 'below']),
  threshold: z.number({ error: 'The threshold must be a number.' })
});
export type Condition = z.infer<typeof conditionSchema>;

/** Judged on K of the last N cells: `needs` of the last `of`. */
export const windowSchema = z
  .strictObject({ needs: z.int().min(1), of: z.int().min(1).max(mostWindowCells) })
  .refine(({ needs, of }) => needs <= of, { error: 'The window cannot need more cells than it has.', path: ['needs'] });
export type EvaluationWindow = z.infer<typeof windowSchema>;

/** What an alarm says when too few cells have a value to tell. */
export const whenMissing = ['indeterminate', 'keep'] as const;

/** The part of an alarm that decides states; a rehearsal needs no more. */
export const ruleSchema = z.strictObject({
  condition: conditionSchema,
  window: windowSchema,
  whenMissing: z.enum(whenMissing)
});
export type Rule = z.infer<typeof ruleSchema>;

/**
 * A whole alarm, as people define it. Its threshold is in the unit of its signal.
 *
 * @example
 * alarmSchema.parse({ name: 'Processor nearly exhausted', signal, severity: 'major', channels: [1],
 *   rule: { condition: { is: 'above', threshold: 80 }, window: { needs: 3, of: 5 }, whenMissing: 'indeterminate' } })
 */
export const alarmSchema = z.strictObject({
  name: z
    .string()
    .trim()
    .min(1, { error: 'Give the alarm a name: it is the first thing people read at night.' })
    .max(120),
  signal: steadySignalSchema,
  rule: ruleSchema,
  severity: z.enum(severities),
  channels: z.array(idSchema).max(20)
});
export type AlarmDefinition = z.infer<typeof alarmSchema>;

/** How alarms are stored. */
export const alarmForm: StoredForm<AlarmDefinition> = {
  what: 'The alarm',
  version: 1,
  schema: alarmSchema,
  upgrades: []
};

/** The numbers a change of state was decided on. */
export const evidenceSchema = z.strictObject({
  /** Start of the first cell of the window and the length of a cell, ms. */
  start: z.number(),
  step: z.number(),
  /** The window's values, oldest first; null is a gap. */
  values: z.array(z.number().nullable()).max(mostWindowCells),
  met: z.int(),
  missing: z.int(),
  rule: ruleSchema
});
export type Evidence = z.infer<typeof evidenceSchema>;

/** How evidence is stored. */
export const evidenceForm: StoredForm<Evidence> = {
  what: 'The evidence',
  version: 1,
  schema: evidenceSchema,
  upgrades: []
};
