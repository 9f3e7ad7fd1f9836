import { budgetMetrics, dateOf, dayAt, type BudgetStanding } from '$lib/core/cost';
import { minute, type Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import { ownSample, type OwnMeasures } from '../intake/own/own-account';
import { budgetTag } from './budget-alarm';
import { allBudgets, type StoredBudget } from './budgets';
import { budgetStandings } from './budget-standings';
import { costsSignature } from './cost-days';
import type { CostClient } from './open-costs';

/** Measures how budgets stand. One for an engine: it remembers what they stood at while no bill changed. */
export class BudgetMeasures {
  readonly #costs: CostClient;
  #signature = '';
  #standings = new Map<number, BudgetStanding | null>();

  constructor(costs: CostClient) {
    this.#costs = costs;
  }

  /** Every budget that is on, as samples of the current minute: an alarm has a number in each minute, however seldom a bill is read. */
  async measure(db: Queryable, now: Instant): Promise<OwnMeasures> {
    const budgets = (await allBudgets(db)).filter(({ budget }) => budget.enabled);
    if (budgets.length === 0) return { resources: [], series: [] };
    const signature = JSON.stringify([
      await costsSignature(db),
      dateOf(dayAt(now)),
      budgets.map(({ id, version }) => [id, version])
    ]);
    if (signature !== this.#signature) {
      const found = await budgetStandings(
        { db, costs: this.#costs },
        budgets.map(({ budget }) => budget),
        now
      );
      this.#standings = new Map(budgets.map(({ id }, index) => [id, found[index] ?? null]));
      this.#signature = signature;
    }
    const at = (Math.floor(now / minute) * minute) as Instant;
    return {
      resources: budgets.map(resourceOfBudget),
      series: budgets.flatMap((one) => samplesOf(one, this.#standings.get(one.id) ?? null, at))
    };
  }
}

const resourceId = (id: number): string => `budget/${id}`;

/** A budget as a resource of Bussola's own. */
const resourceOfBudget = ({ id, budget: { name } }: StoredBudget) => ({
  ...{ providerId: resourceId(id), name, type: 'budget', service: 'budgets', region: '' },
  tags: { [budgetTag]: String(id) },
  ...{ guest: 'none' as const, formerNames: [] }
});

function samplesOf({ id, budget: { amount } }: StoredBudget, standing: BudgetStanding | null, at: Instant) {
  if (standing === null) return [];
  const share = (value: number) => (value / amount) * 100;
  return [
    ownSample(resourceId(id), budgetMetrics.spent, at, share(standing.spent)),
    ...(standing.expected === null
      ? []
      : [ownSample(resourceId(id), budgetMetrics.expected, at, share(standing.expected))])
  ];
}
