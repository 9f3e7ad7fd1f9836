// What Corallo Lines means to spend: all of it, and the databases alone. The first is passed, since a store costs twice as much.
import { budgetSchema, type Budget } from '../src/lib/core/cost';

/** @param routeId of a route by its name */
export const budgets = (routeId: (name: string) => number): readonly Budget[] =>
  [
    {
      ...{ name: 'All accounts', amount: 20_800, on: 'expected', route: routeId('Leads') },
      levels: [
        { severity: 'minor', percent: 95 },
        { severity: 'major', percent: 100 }
      ]
    },
    {
      ...{ name: 'Databases of corallo-prod', amount: 4800, on: 'expected', route: routeId('Data, grave') },
      filters: [
        { by: 'service', values: ['databases'] },
        { by: 'account', values: ['corallo-prod'] }
      ],
      levels: [{ severity: 'major', percent: 100 }]
    }
  ].map((budget) => budgetSchema.parse({ ...budget, currency: 'EUR', period: { kind: 'month' } }));
