import { z } from 'zod';
import { dateOf, dayOf, unknownService, type BillEntry, type DayNumber } from '$lib/core/cost';
import { serviceOfType } from '$lib/core/services';
import type { Clock } from '$lib/core/time';
import { amountFrom } from '../port/amounts';
import type { BillPage, Bills } from '../port/bills';
import { malformed } from '../port/exchange';
import type { ProviderAccess } from '../port/provider';
import { callLevante } from './signed';

const billSchema = z.object({
  currency: z.string().length(3),
  completeThrough: z.iso.date(),
  lines: z
    .array(
      z.object({
        day: z.iso.date(),
        resource: z.string().min(1).max(400).nullable(),
        name: z.string().max(400),
        type: z.string().max(100),
        region: z.string().max(100),
        usage: z.string().min(1).max(300),
        unit: z.string().max(60),
        kind: z.enum(['usage', 'purchase', 'tax', 'credit', 'adjustment']),
        tags: z.record(z.string().max(200), z.string().max(400)).default({}),
        quantity: z.number().nullable(),
        amount: z.string().max(60),
        spread: z.string().max(60)
      })
    )
    .max(10_000),
  next: z.string().max(100).nullable()
});
type Bill = z.infer<typeof billSchema>;

/** Days that are asked for at once, and pages of these at most. */
const daysAtOnce = 7;
const mostPages = 10_000;

/** The bill of some days from one page on. */
const billOf = (clock: Clock, access: ProviderAccess, from: DayNumber, to: DayNumber, page: string): Promise<Bill> => {
  const query = new URLSearchParams({ from: dateOf(from), to: dateOf(to), page });
  return callLevante(clock, access, 'GET', `/v1/bills?${query.toString()}`, null, billSchema);
};

/** Levante’s bills: lines of each day by resource and usage, final once they are there. */
export const levanteBills = (clock: Clock, access: ProviderAccess): Bills => ({
  settlesAfter: 1,
  async *read(from, to, signal): AsyncGenerator<BillPage> {
    for (let first = from; first < to && !signal.aborted; first = (first + daysAtOnce) as DayNumber) {
      const entries: BillEntry[] = [];
      let through = first as number;
      let page: string | null = '0';
      for (let count = 0; page !== null; count++) {
        if (count >= mostPages) throw malformed('The provider’s pages of the bill do not end.');
        const end = Math.min(to, first + daysAtOnce) as DayNumber;
        const bill: Bill = await billOf(clock, access, first, end, page);
        entries.push(...bill.lines.map((line) => entryOf(line, bill.currency)));
        through = Math.min(end, dayOf(bill.completeThrough) + 1);
        page = bill.next;
      }
      if (through <= first) return;
      yield { kind: 'entries', from: first, to: through as DayNumber, entries };
    }
  }
});

/** Reads the bill of a day, to see whether the key may. */
export const tryBill = (clock: Clock, access: ProviderAccess, day: DayNumber): Promise<Bill> =>
  billOf(clock, access, day, (day + 1) as DayNumber, '0');

const entryOf = (line: Bill['lines'][number], currency: string): BillEntry => ({
  item: {
    ...{ resource: line.resource, resourceName: line.name, resourceType: line.type, region: line.region },
    ...{ service: line.type === '' ? unknownService : serviceOfType(line.type) },
    ...{ usage: line.usage, unit: line.unit, category: line.kind, currency, labels: line.tags }
  },
  ...{ day: dayOf(line.day), billed: amountFrom(line.amount), amortised: amountFrom(line.spread) },
  quantity: line.quantity
});
