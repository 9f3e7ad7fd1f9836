import { z } from 'zod';
import { addMicros, dateOf, dayOf, micros, type BillEntry, type DayNumber } from '$lib/core/cost';
import { serviceOfType } from '$lib/core/services';
import { amountFrom } from '../port/amounts';
import type { BillPage, Bills } from '../port/bills';
import type { ProviderAccess } from '../port/provider';
import type { OstroCalls } from './call';

const chargesSchema = z.object({
  day: z.iso.date(),
  currency: z.string().length(3),
  /** Whether the estimates of all its hours are there. */
  complete: z.boolean(),
  charges: z
    .array(
      z.object({
        uri: z.string().min(1).max(400).nullable(),
        title: z.string().max(400),
        kind: z.string().max(100),
        location: z.string().max(100),
        labels: z.record(z.string().max(200), z.string().max(400)).default({}),
        usage: z.string().min(1).max(300),
        unit: z.string().max(60),
        quantity: z.number().nullable(),
        costs: z.array(z.string().max(60)).max(25)
      })
    )
    .max(100_000)
});
type Charges = z.infer<typeof chargesSchema>;

const chargesOf = (calls: OstroCalls, access: ProviderAccess, day: DayNumber): Promise<Charges> =>
  calls.get(access, `/v2/charges?day=${dateOf(day)}`, chargesSchema);

/** Ostro’s bills: an estimate for each hour, corrected once a day for three days. */
export const ostroBills = (calls: OstroCalls, access: ProviderAccess): Bills => ({
  settlesAfter: 5,
  async *read(from, to, signal): AsyncGenerator<BillPage> {
    for (let day = from; day < to && !signal.aborted; day = (day + 1) as DayNumber) {
      const found = await chargesOf(calls, access, day);
      if (!found.complete) return;
      const entries = found.charges.map((charge) => entryOf(charge, dayOf(found.day), found.currency));
      yield { kind: 'entries', from: day, to: (day + 1) as DayNumber, entries };
    }
  }
});

/** Reads the costs of a day, to see whether the client may. */
export const tryCharges = chargesOf;

function entryOf(charge: Charges['charges'][number], day: DayNumber, currency: string): BillEntry {
  const cost = charge.costs.map(amountFrom).reduce(addMicros, micros(0));
  return {
    item: {
      ...{ resource: charge.uri, resourceName: charge.title, resourceType: charge.kind, region: charge.location },
      ...{ service: serviceOfType(charge.kind), usage: charge.usage, unit: charge.unit, category: 'usage' },
      ...{ currency, labels: charge.labels }
    },
    ...{ day, billed: cost, amortised: cost },
    quantity: charge.quantity
  };
}
