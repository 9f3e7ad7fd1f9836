import type { Instant } from '$lib/core/time';
import { measureEventRules } from '../events/measure-rules';
import { measureAccounts } from '../intake/own/measure-accounts';
import type { Intake } from '../intake/ledger/intake';
import { measureChecks } from '../reachability/measure-checks';
import type { ResourceStates } from '../reachability/measure-resources';

/** Measures everything that Bussola measures itself, for one minute: how resources stand, events by rule, checks, accounts. */
export async function measureOwn(intake: Intake, states: ResourceStates, now: Instant): Promise<void> {
  const [rules, checks, series] = await Promise.all([
    measureEventRules(intake.db, now),
    measureChecks(intake.db, now),
    states.measure(now)
  ]);
  await measureAccounts(intake, now, {
    resources: [...rules.resources, ...checks.resources],
    series: [...rules.series, ...checks.series, ...series]
  });
}
