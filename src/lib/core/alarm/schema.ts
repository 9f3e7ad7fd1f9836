import { z } from 'zod';
import { idSchema } from '../forms/id';
import type { StoredForm } from '../forms/stored';
import { durationFromText, isZone, type Duration } from '../time';
import { steadySignalSchema, stepOf, type Signal } from '../signal';
import { combinesSchema, type Combines } from './combined';
import { conditionSchema, type Condition } from './condition';
import { mostComparedCells } from './condition/change';
import { isLength } from './condition/length';
import { severities, severityBalls } from './severity';

/** The longest evaluation window, in cells: a day of minutes. */
export const mostWindowCells = 1440;

/** Judged on K of the last N cells: `needs` of the last `of`. */
export const windowSchema = z
  .strictObject({ needs: z.int().min(1), of: z.int().min(1).max(mostWindowCells) })
  .refine(({ needs, of }) => needs <= of, { error: 'The window cannot need more cells than it has.', path: ['needs'] });
export type EvaluationWindow = z.infer<typeof windowSchema>;

/**
 * What an alarm does where cells have no value: nobody can tell, where they could decide (`indeterminate`); the state stays as it is (`keep`); they count as cells that meet the condition (`meets`),
 * or as such that do not (`does not meet`).
 */
export const whenMissing = ['indeterminate', 'keep', 'meets', 'does not meet'] as const;

/** One severity of an alarm with its condition. */
export const levelSchema = z.strictObject({ severity: z.enum(severities), condition: conditionSchema });
export type Level = z.infer<typeof levelSchema>;

/** The part of an alarm that decides states; a rehearsal needs no more. */
export const ruleSchema = z.strictObject({
  /** The mildest first. */
  levels: z
    .array(levelSchema)
    .min(1, { error: 'An alarm needs a severity and its condition.' })
    .max(4)
    .refine(isRising, { error: 'Each severity can be used once, and they go from the mildest to the gravest.' }),
  window: windowSchema,
  /** A raised series clears when so many of its last cells are well; by default when so few still meet the condition that it would not be raised. */
  clearing: windowSchema.optional(),
  whenMissing: z.enum(whenMissing),
  /** IANA zone in which hours, weekdays and dates are meant. */
  zone: z.string().max(60).refine(isZone, { error: 'Give a time zone, such as UTC.' }).default('UTC')
});
export type Rule = z.infer<typeof ruleSchema>;

function isRising(levels: readonly Level[]): boolean {
  return levels.every((level, index) => {
    const milder = levels[index - 1];
    return milder === undefined || severityBalls(level.severity) > severityBalls(milder.severity);
  });
}

/** Labels of an alarm, or of a rule. */
const mostLabels = 20;

/** What whoever is woken is given, and who that is: of alarms, and of rules by events. */
export const wakingShape = {
  /** The route of what it raises; null for the first of the list that takes it. */
  route: idSchema.nullable().default(null),
  labels: z
    .record(z.string().min(1).max(60), z.string().max(120))
    .refine((labels) => Object.keys(labels).length <= mostLabels, { error: `There are at most ${mostLabels} labels.` })
    .default({}),
  /** CommonMark, for whoever is woken by it. */
  about: z.string().max(10_000).default(''),
  runbook: z
    .union([z.literal(''), z.url({ protocol: /^https?$/, error: 'Give an address that begins with https://.' })])
    .default('')
};

/** The parts of an alarm. */
export const alarmShape = {
  name: z
    .string()
    .trim()
    .min(1, { error: 'Give the alarm a name: it is the first thing people read at night.' })
    .max(120),
  signal: steadySignalSchema.optional(),
  combines: combinesSchema.optional(),
  rule: ruleSchema,
  /** Not judged while it is off. */
  enabled: z.boolean().default(true),
  owner: z.string().trim().max(80).default(''),
  ...wakingShape
};

/** The parts of an alarm that have to agree, whatever its route and its parts are called by. */
interface Agreeing {
  readonly signal?: Signal | undefined;
  readonly combines?: { readonly step: string; readonly parts: readonly object[] } | undefined;
  readonly rule: Rule;
}

/** Refuses an alarm whose parts do not agree with each other. */
export const agreeing = <Schema extends z.ZodType<Agreeing>>(schema: Schema): Schema =>
  schema
    .refine(({ signal, combines }) => (signal === undefined) !== (combines === undefined), {
      error: 'An alarm watches a signal, or combines others.',
      path: ['signal']
    })
    .refine(
      ({ combines, rule }) =>
        rule.levels.every(({ condition }) => (condition.kind === 'combined') === (combines !== undefined)),
      {
        error: 'A combined condition needs parts to combine, and only such a condition can use them.',
        path: ['rule', 'levels']
      }
    )
    .refine(comparesInReason, {
      error: `The windows that a change compares have at most ${mostComparedCells} cells: choose longer cells, or a shorter window.`,
      path: ['rule', 'levels']
    });

/**
 * A whole alarm, as people define it. Thresholds are in the unit of its signal. It watches a signal, or combines other alarms and conditions.
 *
 * @example
 * alarmSchema.parse({ name: 'Processor nearly exhausted', signal, rule: { window: { needs: 3, of: 5 }, whenMissing: 'indeterminate',
 *   levels: [{ severity: 'major', condition: { kind: 'threshold', is: 'above', limit: 80, clear: 70 } }] } })
 */
export const alarmSchema = agreeing(z.strictObject(alarmShape));
export type AlarmDefinition = z.infer<typeof alarmSchema>;

/** Whether the windows that its conditions compare have a number of cells that can be added up for each cell. */
function comparesInReason(alarm: Agreeing): boolean {
  const text = alarm.signal?.step ?? alarm.combines?.step ?? '';
  if (!isLength(text)) return true; // refused for itself
  const step = durationFromText(text);
  const parts = (alarm.combines?.parts ?? []).flatMap((part) =>
    'condition' in part ? [part.condition as Condition] : []
  );
  return [...alarm.rule.levels.map(({ condition }) => condition), ...parts].every(
    (condition) =>
      condition.kind !== 'change' ||
      !isLength(condition.over) ||
      durationFromText(condition.over) / step <= mostComparedCells
  );
}

/** The length of an alarm's cells. */
export const stepOfAlarm = ({
  signal,
  combines
}: {
  readonly signal?: Signal | undefined;
  readonly combines?: Combines | undefined;
}): Duration => (signal ? stepOf(signal) : durationFromText(combines?.step ?? 'PT1M'));

/** The signals that an alarm is judged on: its own, or those of its parts. */
export const signalsOfAlarm = ({ signal, combines }: Pick<AlarmDefinition, 'signal' | 'combines'>): Signal[] =>
  signal ? [signal] : (combines?.parts ?? []).flatMap((part) => ('signal' in part ? [part.signal] : []));

/** The gravest severity that an alarm can be raised with. */
export const gravestLevel = ({ levels }: Pick<Rule, 'levels'>): Level => levels.at(-1) as Level;

/** How alarms are stored. */
export const alarmForm: StoredForm<AlarmDefinition> = {
  what: 'The alarm',
  version: 3,
  schema: alarmSchema,
  upgrades: [withLevels, withRoute]
};

/** Up to version 2, an alarm named channels: those became routes, which the migration of the database has noted here. */
function withRoute(older: Readonly<Record<string, unknown>>): Readonly<Record<string, unknown>> {
  const { channels: _, ...rest } = older;
  return rest;
}

/** Version 1 had one severity with one threshold. */
function withLevels(older: Readonly<Record<string, unknown>>): Readonly<Record<string, unknown>> {
  const { severity, rule, ...rest } = older;
  return { ...rest, rule: ruleWithLevels(rule, severity) };
}

/** A rule of version 1, whose severity stood beside it, in the present form. What is no rule of that version is left for the schema to refuse. */
export function ruleWithLevels(rule: unknown, severity: unknown): unknown {
  if (rule === null || typeof rule !== 'object' || !('condition' in rule)) return rule;
  const { condition, ...rest } = rule as { condition: { is?: unknown; threshold?: unknown } | null };
  const upgraded = { kind: 'threshold', is: condition?.is, limit: condition?.threshold };
  return { ...rest, levels: [{ severity, condition: upgraded }] };
}
