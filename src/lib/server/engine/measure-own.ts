import type { Instant } from '$lib/core/time';
import { measureEventRules } from '../events/measure-rules';
import { measureAccounts } from '../intake/own/measure-accounts';
import { measureBilled } from '../cost/measure-billed';
import type { BudgetMeasures } from '../cost/measure-budgets';
import type { ObjectiveMeasures } from '../objective/measure-objectives';
import type { Intake } from '../intake/ledger/intake';
import { measureChecks } from '../reachability/measure-checks';
import type { ResourceStates } from '../reachability/measure-resources';

/** What remembers what it measured. */
export interface OwnMeasuring {
  readonly states: ResourceStates;
  readonly budgets: BudgetMeasures;
  readonly promises: ObjectiveMeasures;
}

/** Measures everything that Bussola measures itself, for one minute: how resources stand, events by rule, checks, budgets, promises, accounts. */
export async function measureOwn(
  intake: Intake,
  { states, budgets, promises }: OwnMeasuring,
  now: Instant
): Promise<void> {
  const [rules, checks, spent, kept, billed, series] = await Promise.all([
    measureEventRules(intake.db, now),
    measureChecks(intake.db, now),
    budgets.measure(intake, now),
    promises.measure(intake),
    measureBilled(intake.db, intake.providers),
    states.measure(now)
  ]);
  await measureAccounts(intake, now, {
    resources: [...rules.resources, ...checks.resources, ...spent.resources, ...kept.resources, ...billed.resources],
    series: [...rules.series, ...checks.series, ...spent.series, ...kept.series, ...series]
  });
  promises.stored();
}
