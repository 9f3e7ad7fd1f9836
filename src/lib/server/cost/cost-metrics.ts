import { resourceCost } from '$lib/core/cost';
import { day, times } from '$lib/core/time';
import type { FoundMetric } from '../providers/port/provider';

/** What of an account costs how much, by service and region, with what belongs to no resource. */
export const accountCost = 'account.cost';

const ofDay = { kind: 'delta', shape: 'single', level: 'host', samplingMs: day, delayMs: times(2, day) } as const;

/** The cost of a resource, in the resource's own account. */
export const metricsOfResourceCost = (currency: string): FoundMetric[] => [
  {
    ...{ name: resourceCost, title: 'Cost of a resource', unit: `{${currency}}`, ...ofDay },
    description:
      'What a resource cost on a day (UTC), as billed, with everything that is charged for it. Corrections of the bill correct it.',
    ...{ resourceType: 'any', service: 'budgets', recommended: false }
  }
];

/** The cost of an account, in Bussola's own account. */
export const metricsOfAccountCost = (currency: string): FoundMetric[] => [
  {
    ...{ name: accountCost, title: 'Cost of an account', unit: `{${currency}}`, ...ofDay },
    description:
      'What an account cost on a day (UTC), as billed, by service and region, with what is charged for no resource.',
    ...{ resourceType: 'account', service: 'budgets', recommended: true }
  }
];
