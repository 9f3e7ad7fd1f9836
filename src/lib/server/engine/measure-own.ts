import type { Instant } from '$lib/core/time';
import { measureEventRules } from '../events/measure-rules';
import { measureAccounts } from '../intake/own/measure-accounts';
import { measureBilled } from '../cost/measure-billed';
import type { BudgetMeasures } from '../cost/measure-budgets';
import type { Intake } from '../intake/ledger/intake';
import { measureChecks } from '../reachability/measure-checks';
import type { ResourceStates } from '../reachability/measure-resources';

/** Measures everything that Bussola measures itself, for one minute: how resources stand, events by rule, checks, budgets, accounts. */
export async function measureOwn(
  intake: Intake,
  states: ResourceStates,
  budgets: BudgetMeasures,
  now: Instant
): Promise<void> {
  const [rules, checks, spent, billed, series] = await Promise.all([
    measureEventRules(intake.db, now),
    measureChecks(intake.db, now),
    budgets.measure(intake, now),
    measureBilled(intake.db, intake.providers),
    states.measure(now)
  ]);
  await measureAccounts(intake, now, {
    resources: [...rules.resources, ...checks.resources, ...spent.resources, ...billed.resources],
    series: [...rules.series, ...checks.series, ...spent.series, ...series]
  });
}
