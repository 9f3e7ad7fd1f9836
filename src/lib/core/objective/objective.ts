import { z } from 'zod';
import { severities, severityBalls, type Severity } from '../alarm/severity';
import { idSchema } from '../forms/id';
import type { StoredForm } from '../forms/stored';
import { steadySignalSchema, type Signal } from '../signal';
import { isZone, minute, times, type Duration } from '../time';

/** Cells that a promise is counted in: rollups of them are stored for more than a year. */
export const objectiveStep: Duration = times(5, minute);
const stepMinutes = 5;

/** What counts as good: of two signals, or as long as a condition holds. */
const measureSchema = z.discriminatedUnion('kind', [
  z.strictObject({
    kind: z.literal('share'),
    /** How much was good, cell by cell; its series are added up. */
    good: steadySignalSchema,
    /** How much there was in all. */
    all: steadySignalSchema
  }),
  z.strictObject({
    kind: z.literal('time'),
    /** Each of its series counts for itself. */
    signal: steadySignalSchema,
    is: z.enum(['above', 'below']),
    limit: z.number({ error: 'Give the limit.' })
  })
]);
export type ObjectiveMeasure = z.infer<typeof measureSchema>;

/** Nearer to 100 %, what may be bad is lost among the digits that a number has. */
const mostPercent = 99.99999;
const mostDays = 366;
const periodSchema = z.discriminatedUnion('kind', [
  z.strictObject({
    kind: z.literal('rolling'),
    days: z
      .int({ error: 'A period has whole days.' })
      .min(1, { error: 'A period has at least one day.' })
      .max(mostDays, { error: `A period has at most ${mostDays} days.` })
  }),
  z.strictObject({
    kind: z.literal('calendar'),
    unit: z.enum(['month', 'quarter']),
    /** By whose clocks it begins. */
    zone: z.string().max(60).refine(isZone, { error: 'Give a time zone, such as Europe/Rome.' })
  })
]);
export type ObjectivePeriod = z.infer<typeof periodSchema>;

const spanSchema = z
  .int({ error: 'A span has whole minutes.' })
  .min(stepMinutes, { error: `A span has at least ${stepMinutes} minutes.` })
  .max(60 * 24 * 60)
  .multipleOf(stepMinutes, { error: `A span is a multiple of ${stepMinutes} minutes.` });

/** Raised when the budget is used faster than a rate in a long span and in a short one. */
const burnLevelSchema = z
  .strictObject({
    severity: z.enum(severities),
    /** How many times as fast as the whole period has room for. */
    rate: z.number({ error: 'Give how many times too fast.' }).positive({ error: 'A rate is above 0.' }).max(1_000_000),
    longMinutes: spanSchema,
    shortMinutes: spanSchema
  })
  .refine(({ longMinutes, shortMinutes }) => shortMinutes <= longMinutes, {
    error: 'The short span is at most as long as the long one.'
  });
export type ObjectiveLevel = z.infer<typeof burnLevelSchema>;

/**
 * A promise over a period: how much has to be good, of what, and when somebody is notified that it is being broken.
 *
 * @example
 * objectiveSchema.parse({ name: 'Ticket sales', of: { kind: 'share', good, all }, targetPercent: 99.9, period: { kind: 'rolling', days: 30 },
 *   levels: [{ severity: 'critical', rate: 14.4, longMinutes: 60, shortMinutes: 5 }] }).leaveOutMaintenance // true
 */
export const objectiveSchema = z.strictObject({
  name: z.string().trim().min(1, { error: 'Give the promise a name: its alarm has it as well.' }).max(120),
  enabled: z.boolean().default(true),
  of: measureSchema,
  targetPercent: z
    .number({ error: 'Give how much has to be good, in per cent.' })
    .gt(0, { error: 'It is above 0 %.' })
    .lt(100, { error: 'It is below 100 %: of nothing that may be bad, nothing can be used.' })
    .max(mostPercent, { error: `It is at most ${mostPercent} %.` }),
  period: periodSchema,
  leaveOutMaintenance: z.boolean().default(true),
  /** The mildest first. */
  levels: z
    .array(burnLevelSchema)
    .max(4)
    .refine(
      (levels) =>
        levels.every(
          ({ severity, rate }, index) =>
            index === 0 ||
            (severityBalls(severity) > severityBalls(levels[index - 1]?.severity as Severity) &&
              rate > (levels[index - 1]?.rate ?? 0))
        ),
      { error: 'A graver severity needs a higher rate; each is used once.' }
    )
    .default([]),
  /** Who is notified; null for the first route of the list that takes it. */
  route: idSchema.nullable().default(null)
});
export type Objective = z.infer<typeof objectiveSchema>;

export const objectiveForm: StoredForm<Objective> = {
  what: 'The promise',
  version: 1,
  schema: objectiveSchema,
  upgrades: []
};

/** What is measured of each promise: the budget left and the share that was good in per cent, and how fast the budget is used. */
export const objectiveMetrics = { left: 'objective.left', share: 'objective.share', pace: 'objective.pace' } as const;

/** The signals that a promise is measured by. */
export const signalsOfObjective = (of: ObjectiveMeasure): Signal[] =>
  of.kind === 'share' ? [of.good, of.all] : [of.signal];

/** The target as a share. @example targetOf({ targetPercent: 99.9 }) // 0.999 */
export const targetOf = ({ targetPercent }: Pick<Objective, 'targetPercent'>): number =>
  Number((targetPercent / 100).toPrecision(12));
