import { budgetMetrics, dateOf, dayAt, type BudgetStanding } from '$lib/core/cost';
import { minute, type Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import type { Intake } from '../intake/ledger/intake';
import { ownSample, type OwnMeasures } from '../intake/own/own-account';
import { budgetTag } from './budget-alarm';
import { budgets, type StoredBudget } from './budgets';
import { budgetStandings } from './budget-standings';
import { costsSignature } from './cost-days';
import type { CostClient } from './open-costs';

type Measured = Pick<StoredBudget, 'version'> & { readonly standing: BudgetStanding | null };

/** Measures how budgets stand. One for an engine: it remembers what they stood at while no bill changed. */
export class BudgetMeasures {
  readonly #costs: CostClient;
  #signature = '';
  #measured = new Map<number, Measured>();
  #adding: Promise<void> | null = null;

  constructor(costs: CostClient) {
    this.#costs = costs;
  }

  /**
   * Every budget that is on, as samples of the current minute: an alarm has a number in each minute, however seldom a bill is read. Months are added up beside it, since whatever judges alarms
   * must not wait for them: a budget that changed has its numbers with the next minute, and what fails is logged and costs nothing but these.
   */
  async measure({ db, log }: Pick<Intake, 'db' | 'log'>, now: Instant): Promise<OwnMeasures> {
    const all = (await budgets.all(db)).filter(({ value }) => value.enabled);
    if (all.length === 0) return { resources: [], series: [] };
    this.#adding ??= this.#addUp(db, all, now)
      .catch((error: unknown) => log.error({ err: error }, 'budgets could not be added up'))
      .finally(() => (this.#adding = null));
    const at = (Math.floor(now / minute) * minute) as Instant;
    return {
      resources: all.map(resourceOfBudget),
      series: all.flatMap((one) => {
        const measured = this.#measured.get(one.id);
        return measured?.version === one.version ? samplesOf(one, measured.standing, at) : [];
      })
    };
  }

  /** Resolves when nothing is added up any more. */
  async settled(): Promise<void> {
    await this.#adding;
  }

  async #addUp(db: Queryable, all: readonly StoredBudget[], now: Instant): Promise<void> {
    const versions = all.map(({ id, version }) => [id, version]);
    const signature = JSON.stringify([await costsSignature(db), dateOf(dayAt(now)), versions]);
    if (signature === this.#signature) return;
    const found = await budgetStandings(
      { db, costs: this.#costs },
      all.map(({ value }) => value),
      now
    );
    this.#measured = new Map(all.map(({ id, version }, index) => [id, { version, standing: found[index] ?? null }]));
    this.#signature = signature;
  }
}

const resourceId = (id: number): string => `budget/${id}`;

/** A budget as a resource of Bussola's own. */
const resourceOfBudget = ({ id, value: { name } }: StoredBudget) => ({
  ...{ providerId: resourceId(id), name, type: 'budget', service: 'budgets', region: '' },
  tags: { [budgetTag]: String(id) },
  ...{ guest: 'none' as const, formerNames: [] }
});

function samplesOf({ id, value: { amount } }: StoredBudget, standing: BudgetStanding | null, at: Instant) {
  if (standing === null) return [];
  const share = (value: number) => (value / amount) * 100;
  return [
    ownSample(resourceId(id), budgetMetrics.spent, at, share(standing.spent)),
    ...(standing.expected === null
      ? []
      : [ownSample(resourceId(id), budgetMetrics.expected, at, share(standing.expected))])
  ];
}
