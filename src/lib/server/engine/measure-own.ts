import type { Instant } from '$lib/core/time';
import { measureEventRules } from '../events/measure-rules';
import { measureAccounts } from '../intake/own/measure-accounts';
import { measureBilled } from '../cost/measure-billed';
import type { BudgetMeasures } from '../cost/measure-budgets';
import type { ObjectiveMeasures } from '../objective/measure-objectives';
import type { Intake } from '../intake/ledger/intake';
import { measureChecks } from '../reachability/measure-checks';
import type { OwnMeasures } from '../intake/own/own-account';
import type { ResourceStates } from '../reachability/measure-resources';

/** What remembers what it measured. */
export interface OwnMeasuring {
  readonly states: ResourceStates;
  readonly budgets: BudgetMeasures;
  readonly promises: ObjectiveMeasures;
  /** What the process measures of itself. */
  readonly health: (now: Instant) => Promise<OwnMeasures>;
}

/** Measures everything that Bussola measures itself, for one minute: how resources stand, events by rule, checks, budgets, promises, accounts, and Bussola itself. */
export async function measureOwn(
  intake: Intake,
  { states, budgets, promises, health }: OwnMeasuring,
  now: Instant
): Promise<void> {
  const [rules, checks, spent, kept, billed, series, itself] = await Promise.all([
    measureEventRules(intake.db, now),
    measureChecks(intake.db, now),
    budgets.measure(intake, now),
    promises.measure(intake),
    measureBilled(intake.db, intake.providers),
    states.measure(now),
    health(now)
  ]);
  await measureAccounts(intake, now, {
    resources: [
      ...rules.resources,
      ...checks.resources,
      ...spent.resources,
      ...kept.resources,
      ...billed.resources,
      ...itself.resources
    ],
    series: [...rules.series, ...checks.series, ...spent.series, ...kept.series, ...series, ...itself.series]
  });
  promises.stored();
}
