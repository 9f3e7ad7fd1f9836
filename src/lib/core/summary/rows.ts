import { dateAt } from '../time';
import type { Summary } from './summary';

/** Columns of the numbers of a summary as a file. */
export const summaryColumns = ['part', 'what', 'unit', 'value', 'before'] as const;
/** One number; empty where nothing is known. */
export type SummaryRow = readonly [part: string, what: string, unit: string, value: number | '', before: number | ''];

const known = (value: number | null): number | '' => value ?? '';
const money = (amount: number | null): number | '' => (amount === null ? '' : amount / 1_000_000);

/**
 * Every number of a summary, one a row: counts, lengths in seconds, shares from 0 to 1, amounts in the currency.
 *
 * @example summaryRows(summary)[0] // ['incidents', 'critical', '1', 2, 1]
 */
export function summaryRows({ incidents, services, longest, promises, cost, sizes, zone }: Summary): SummaryRow[] {
  return [
    ...incidents.bySeverity.map(({ severity, count, earlier }): SummaryRow => [
      'incidents',
      severity,
      '1',
      count,
      earlier
    ]),
    ['incidents', 'all', '1', incidents.total, incidents.earlier],
    ['incidents', 'open now', '1', incidents.open, ''],
    ...services.map(({ title, count, earlier }): SummaryRow => ['incidents of a service', title, '1', count, earlier]),
    ...services.map(({ title, resources }): SummaryRow => ['resources of a service', title, '1', resources, '']),
    ...longest.map(({ alarm, subject, openedAt, length }): SummaryRow => [
      ...(['longest incidents', `${alarm}, ${subject}, ${dateAt(openedAt, zone)}`, 's'] as const),
      ...([Math.round(length / 1000), ''] as const)
    ]),
    ...promises.flatMap(({ name, good, left, targetPercent }): SummaryRow[] => [
      ['promises, good', name, '1', known(good), ''],
      ['promises, promised', name, '1', targetPercent / 100, ''],
      ['promises, error budget left', name, '1', known(left), '']
    ]),
    ...(cost === null
      ? []
      : [
          ['cost', 'all', cost.currency, money(cost.total), money(cost.earlier)] as const,
          ...cost.services.map(({ title, total, earlier }): SummaryRow => [
            'cost',
            title,
            cost.currency,
            money(total),
            money(earlier)
          ]),
          ...cost.days.map(({ date, amount }): SummaryRow => ['cost of a day', date, cost.currency, money(amount), ''])
        ]),
    ...sizes.map(({ what, unit, value, earlier }): SummaryRow => ['stored', what, unit, value, known(earlier)])
  ];
}
