import { z } from 'zod';
import { severities, timesSchema, type Severity } from '../../alarm';
import type { StoredForm } from '../../forms/stored';
import { day, isZone, minute } from '../../time';

const id = z.int().positive();
const length = (most: number) => z.int().min(0).max(most);

/** How a person is reached. */
export const contactKinds = ['email', 'text-message', 'push'] as const;
export type ContactKind = (typeof contactKinds)[number];
const by = z.array(z.enum(contactKinds)).min(1, { error: 'Choose how they are reached.' }).max(contactKinds.length);

/** Who is notified: whoever is on call by a rota, one person, or a channel. */
export const targetSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('rota'), rotaId: id, by }),
  z.strictObject({ kind: z.literal('person'), personId: id, by }),
  z.strictObject({ kind: z.literal('channel'), channelId: id })
]);
export type Target = z.infer<typeof targetSchema>;

/** What the incidents of one message have in common. */
export const groupings = ['incident', 'related', 'resource', 'alarm', 'service', 'region', 'account', 'route'] as const;
export type Grouping = (typeof groupings)[number];

const names = z.array(z.string().min(1).max(200)).max(50).default([]);

/** Which incidents a route takes: all that is given must hold; what is empty holds for every incident. */
export const routeConditionSchema = z.strictObject({
  severities: z.array(z.enum(severities)).max(severities.length).default([]),
  services: names,
  accounts: names,
  groupIds: z.array(id).max(50).default([]),
  labels: z
    .array(
      z.strictObject({
        label: z.string().min(1).max(100),
        is: z.array(z.string().max(200)).min(1, { error: 'Choose a value.' }).max(50)
      })
    )
    .max(10)
    .default([]),
  /** When it was raised, by the clocks of the route's zone. */
  times: timesSchema.nullable().default(null)
});
export type RouteCondition = z.infer<typeof routeConditionSchema>;

/**
 * A route: which incidents it takes, who is notified step by step until somebody acknowledges, and how messages are grouped. Of an ordered list of routes, the first that takes an incident has it.
 */
export const routeSchema = z
  .strictObject({
    name: z.string().trim().min(1, { error: 'Name the route by what it is for, such as "Data, critical".' }).max(80),
    when: routeConditionSchema,
    /** Each is taken so long after the first message, while something is raised that nobody has acknowledged. */
    steps: z
      .array(
        z.strictObject({
          after: length(day),
          notify: z.array(targetSchema).min(1, { error: 'Choose who is notified.' }).max(20)
        })
      )
      .min(1, { error: 'Choose who is notified.' })
      .max(8),
    group: z.strictObject({
      by: z.enum(groupings),
      /** The first message waits so long for others. */
      wait: length(60 * minute),
      /** Nobody gets two messages of a group within less. */
      atMostEvery: length(day)
    }),
    /** Messages are repeated so often until acknowledged; null for never. */
    repeatEvery: z.int().min(minute).max(day).nullable().default(null),
    /** Whether a message says that it is clear again. */
    notifiesClear: z.boolean().default(true),
    /** One message a day at a time of day, with all that has come up; null for messages as they come up. */
    digestAt: z
      .string()
      .regex(/^([01]\d|2[0-3]):[0-5]\d$/, { error: 'Give a time of day from 00:00 to 23:59, such as 08:00.' })
      .nullable()
      .default(null),
    zone: z.string().max(60).refine(isZone, { error: 'Give a time zone, such as Europe/Rome.' })
  })
  .refine(
    ({ steps }) =>
      steps[0]?.after === 0 && steps.every(({ after }, at) => at === 0 || after > (steps[at - 1]?.after ?? 0)),
    {
      path: ['steps'],
      error: 'The first step is at once, and each further one later than the one before it.'
    }
  )
  .refine(({ digestAt, steps, repeatEvery }) => digestAt === null || (steps.length === 1 && repeatEvery === null), {
    path: ['digestAt'],
    error: 'A digest is one message for one step, and is not repeated.'
  });
export type Route = z.infer<typeof routeSchema>;

/** How a route is stored. */
export const routeForm: StoredForm<Route> = { what: 'The route', version: 1, schema: routeSchema, upgrades: [] };

/** Everybody whom a route names, step by step. */
export const targetsOf = ({ steps }: Pick<Route, 'steps'>): Target[] => steps.flatMap(({ notify }) => notify);

/** Ids of the channels that a route names. @example channelsOfRoute(route) // [1, 3] */
export const channelsOfRoute = ({ steps }: Pick<Route, 'steps'>): number[] =>
  steps.flatMap(({ notify }) => notify.flatMap((target) => (target.kind === 'channel' ? [target.channelId] : [])));

/** Whether a route may notify a channel: it names the channel, or the person whose it is. Whoever has the watch by a rota is not looked at. */
export const usesChannel = (
  route: Pick<Route, 'steps'>,
  channel: { readonly id: number; readonly personId: number | null }
): boolean =>
  route.steps.some(({ notify }) =>
    notify.some(
      (target) =>
        (target.kind === 'channel' && target.channelId === channel.id) ||
        (target.kind === 'person' && target.personId === channel.personId)
    )
  );

/** What routes look at of an incident. */
export interface RoutedIncident {
  readonly severity: Severity;
  readonly service: string;
  readonly account: string;
  readonly region: string;
  readonly resource: string;
  readonly alarmId: number;
  readonly incidentId: number;
  readonly labels: Readonly<Record<string, string>>;
  /** The groups that its resource is in. */
  readonly groupIds: readonly number[];
}
