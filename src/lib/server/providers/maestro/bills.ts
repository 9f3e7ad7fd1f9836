import { z } from 'zod';
import { dayOf, monthOf, type DayNumber } from '$lib/core/cost';
import type { Clock } from '$lib/core/time';
import type { BillPage, Bills } from '../port/bills';
import { exchangeBytes, exchangeJson } from '../port/exchange';
import type { ProviderAccess } from '../port/provider';
import { authorised } from './call';

const filesSchema = z.object({
  files: z
    .array(
      z.object({
        name: z.string().min(1).max(100),
        month: z.string().regex(/^\d{4}-(0[1-9]|1[0-2])$/),
        through: z.iso.date()
      })
    )
    .max(1000)
});

/** The files of bills, one a month. */
export const billFiles = (clock: Clock, access: ProviderAccess) =>
  exchangeJson(clock, access, '/bills', authorised(access), filesSchema);

/** Maestro’s bills: a FOCUS file for each month, written anew every night, and once more when the month is over. */
export const maestroBills = (clock: Clock, access: ProviderAccess): Bills => ({
  settlesAfter: 35,
  async *read(from, to, signal): AsyncGenerator<BillPage> {
    const { files } = await billFiles(clock, access);
    for (const { name, month, through } of files) {
      const first = monthOf(month).from;
      const end = (dayOf(through) + 1) as DayNumber;
      if (end <= from || first >= to || signal.aborted) continue;
      const path = `/bills/${encodeURIComponent(name)}`;
      const { bytes } = await exchangeBytes(clock, access, path, authorised(access));
      yield { kind: 'focus', from: first, to: end, file: bytes, isGzip: true };
    }
  }
});
