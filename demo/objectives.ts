// What Corallo Lines promises: tickets are sold, gates answer, vessels report, and tariffs are there in the morning.
import { objectiveSchema, proposedLevels, type Objective } from '../src/lib/core/objective';
import { signalSchema, type Signal } from '../src/lib/core/signal';

type Where = readonly { readonly label: string; readonly is?: string[]; readonly isNot?: string[] }[];

const pick = (name: string, metric: string, resource: string, where: Where = []) => ({
  ...{ name, metric, statistic: 'sum', where: [{ label: 'resource', is: [resource] }, ...where] },
  combine: { statistic: 'sum', by: [] }
});
const signal = (rows: readonly object[], show: string): Signal =>
  signalSchema.parse({ version: 2, step: 'PT5M', rows, show: [show] });
const sum = (metric: string, resource: string, where?: Where): Signal =>
  signal([pick('a', metric, resource, where)], 'a');

const promise = (
  name: string,
  targetPercent: number,
  route: number | null,
  good: Signal,
  all: Signal,
  isAlarmed = true
): Objective => {
  const kept = { targetPercent, period: { kind: 'rolling' as const, days: 30 } };
  const of = { kind: 'share', good, all };
  return objectiveSchema.parse({ name, ...kept, route, of, levels: isAlarmed ? proposedLevels(kept) : [] });
};
const answered = { label: 'class', isNot: ['5xx'] };

/** @param routeId of a route by its name */
export const promises = (routeId: (name: string) => number): readonly Objective[] => [
  promise(
    'Ticket sales',
    99.7,
    routeId('Data, grave'),
    sum('balancer.responses', 'booking-web', [answered]),
    sum('balancer.responses', 'booking-web')
  ),
  promise(
    'Gate checks',
    99.5,
    null,
    sum('balancer.responses', 'gate-api', [answered]),
    sum('balancer.responses', 'gate-api')
  ),
  promise(
    'Position reports',
    99.9,
    null,
    signal(
      [
        pick('calls', 'function.calls', 'vessel-position'),
        pick('failed', 'function.failures', 'vessel-position'),
        { name: 'good', formula: 'calls - failed' }
      ],
      'good'
    ),
    sum('function.calls', 'vessel-position')
  ),
  // One run a night: no span is short enough to say how fast it is used.
  promise(
    'Nightly tariffs',
    95,
    null,
    sum('pipeline.runs', 'nightly-tariff-load', [{ label: 'outcome', is: ['succeeded'] }]),
    sum('pipeline.runs', 'nightly-tariff-load'),
    false
  )
];
