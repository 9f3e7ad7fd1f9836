import { budgetForm, type Budget } from '$lib/core/cost';
import { AlarmedForms, type Alarmed } from '../alarms/alarmed-forms';
import { alarmOfBudget } from './budget-alarm';

export type StoredBudget = Alarmed<Budget>;

/** Amounts for some costs and a period. */
export const budgets = new AlarmedForms<Budget>({
  ...{ table: 'budgets', form: budgetForm, one: 'budget', several: 'budgets', most: 200, page: 'Cost' },
  alarmOf: alarmOfBudget,
  tell: (changes) => changes.tell('costs', { accountId: null })
});
