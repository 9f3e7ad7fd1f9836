import { budgetMetrics } from '$lib/core/cost';
import { objectiveMetrics } from '$lib/core/objective';
import { resourceMetrics, resourceStates } from '$lib/core/reachability';
import { minute } from '$lib/core/time';
import { healthAsFound } from './health-metrics';
import type { FoundMetric } from '../../providers/port/provider';

const described = {
  kind: 'gauge',
  shape: 'single',
  resourceType: 'account',
  service: 'accounts',
  recommended: true,
  level: 'host',
  samplingMs: minute,
  delayMs: 0
} as const;

/** What Bussola measures of each account that it collects from. */
const metricsOfAccounts: readonly FoundMetric[] = [
  {
    name: 'account.data.age',
    title: 'Age of the newest data',
    description: 'How old the newest sample is that came of an account, of any service.',
    unit: 's',
    ...described
  },
  {
    name: 'account.services.silent',
    title: 'Services that send nothing',
    description: 'Services of an account whose requests fail, while those of others succeed.',
    unit: '{service}',
    ...described
  },
  {
    name: 'events.matched',
    title: 'Events that match a rule',
    description: 'Events of a minute, by when they arrived, that raise what an event rule looks for.',
    unit: '{event}',
    ...described,
    resourceType: 'event-rule'
  }
];

const ofCheck = { ...described, resourceType: 'check', service: 'reachability' } as const;
/** The names of what is measured by a reachability check. */
export const checkMetrics = {
  up: 'check.up',
  time: 'check.time',
  phase: 'check.phase',
  certificate: 'check.certificate.left',
  failures: 'check.failures'
} as const;
/** What Bussola measures by reachability checks. */
const metricsOfChecks: readonly FoundMetric[] = [
  {
    name: checkMetrics.up,
    title: 'Reachability',
    description:
      'Whether a reachability check is up (1) or down (0). It is down once an attempt and its retries have failed.',
    unit: '1',
    ...ofCheck
  },
  {
    name: checkMetrics.time,
    title: 'Answer time from outside',
    description:
      'How long an attempt of a reachability check took that succeeded, from the name lookup to the end of the answer.',
    unit: 'ms',
    ...ofCheck
  },
  {
    name: checkMetrics.phase,
    title: 'Answer time from outside, by phase',
    description:
      'How long each phase of a successful attempt took: name, connect, secure (TLS), wait (for the answer to begin), read.',
    unit: 'ms',
    ...ofCheck,
    recommended: false
  },
  {
    name: checkMetrics.certificate,
    title: 'Days until the certificate expires',
    description:
      'How long the certificate is still valid that the host of a reachability check showed at the newest attempt.',
    unit: 'd',
    ...ofCheck
  },
  {
    name: checkMetrics.failures,
    title: 'Failed attempts from outside',
    description: 'Attempts of a reachability check that failed, those whose retry succeeded included.',
    unit: '{attempt}',
    ...ofCheck,
    kind: 'delta',
    recommended: false
  }
];

/** Resources of an account by how they stand. */
export const countedResources = 'resources.counted';
const metricsOfStates: readonly FoundMetric[] = [
  {
    name: countedResources,
    title: 'Resources by state',
    description: `Resources of an account that are ${resourceStates.join(', ')}: found by discovery and heard of, found but not heard of for five minutes, no longer found.`,
    unit: '{resource}',
    ...ofCheck,
    resourceType: 'account'
  }
];

/** What Bussola measures of every resource that a provider lists, in the resource's own account. */
export const metricsOfResources: readonly FoundMetric[] = [
  {
    name: resourceMetrics.up,
    title: 'Presence of a resource',
    description:
      'Whether a resource is up (1): its provider lists it, and its samples arrive. 0 when it is no longer listed, or its samples are five minutes overdue.',
    unit: '1',
    ...ofCheck,
    resourceType: 'any',
    recommended: false
  },
  {
    name: resourceMetrics.overdue,
    title: 'Heartbeat overdue',
    description: 'How long the next sample of a resource is overdue; 0 while its samples arrive in time.',
    unit: 's',
    ...ofCheck,
    resourceType: 'any',
    recommended: false
  }
];

/** What Bussola measures of each budget. */
const metricsOfBudgets: readonly FoundMetric[] = [
  {
    name: budgetMetrics.spent,
    title: 'Budget spent',
    description: 'How much of the amount of a budget is billed in the present period.',
    unit: '%',
    ...ofCheck,
    resourceType: 'budget',
    service: 'budgets'
  },
  {
    name: budgetMetrics.expected,
    title: 'Budget expected to be spent',
    description: 'How much of the amount of a budget the present period is expected to cost in the end.',
    unit: '%',
    ...ofCheck,
    resourceType: 'budget',
    service: 'budgets'
  }
];

/** What promises are about arrives late itself: a gap is none before that. */
const latest = 15 * minute;
const ofPromise = {
  ...ofCheck,
  resourceType: 'promise',
  service: 'objectives',
  samplingMs: 5 * minute,
  delayMs: latest
} as const;
/** What Bussola measures of each promise. */
const metricsOfObjectives: readonly FoundMetric[] = [
  {
    name: objectiveMetrics.left,
    title: 'Error budget left',
    description:
      'How much of what may be bad by a promise is left in its period: 100 when nothing was bad, 0 when all is used, less when the promise is broken.',
    unit: '%',
    ...ofPromise
  },
  {
    name: objectiveMetrics.share,
    title: 'Share that was good',
    description: 'How much was good in the period of a promise.',
    unit: '%',
    ...ofPromise
  },
  {
    name: objectiveMetrics.pace,
    title: 'Error budget used too fast',
    description:
      'How many times as fast as its period has room for the error budget of a promise is used, in both spans of the gravest level of its alarm that is reached.',
    unit: '{time}',
    ...ofPromise
  }
];

/** Everything that Bussola measures as resources of its own account. */
export const ownMetrics: readonly FoundMetric[] = [
  ...metricsOfAccounts,
  ...metricsOfChecks,
  ...metricsOfStates,
  ...metricsOfBudgets,
  ...metricsOfObjectives,
  ...healthAsFound
];
