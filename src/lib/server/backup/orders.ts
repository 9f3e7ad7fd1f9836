import { z } from 'zod';
import type { Problem } from '$lib/core/problem/problem';
import { backUp } from './back-up';
import type { OnProgress, Progress } from './file/format';
import type { BackupResult } from './records';
import { rehearse } from './rehearse';

/** What a process of its own is to do. It comes from Bussola alone, over the channel between them. */
export const orderSchema = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('backup'),
    connection: z.union([
      z.object({ connectionString: z.string() }),
      z.object({ host: z.string(), user: z.string(), database: z.string() })
    ]),
    /** The folder of the embedded database; null for a server. */
    database: z.string().nullable(),
    file: z.string(),
    work: z.string(),
    about: z.object({ bussola: z.string(), madeAt: z.int() })
  }),
  z.object({
    kind: z.literal('rehearsal'),
    file: z.string(),
    work: z.string(),
    keyPlace: z.object({ key: z.string().nullable(), data: z.string() })
  })
]);
export type Order = z.infer<typeof orderSchema>;

/** What the process says. */
export type Said =
  | { readonly progress: Progress }
  | { readonly result: BackupResult }
  | { readonly problem: Pick<Problem, 'code' | 'message' | 'remedy'> };

export async function carryOut(order: Order, onProgress: OnProgress): Promise<BackupResult> {
  if (order.kind === 'rehearsal') {
    const { rows, tables, holds, findings } = await rehearse(order.file, order.work, order.keyPlace, onProgress);
    return { rows, tables, holds: [...holds], findings: [...findings] };
  }
  const { connection, database, file, work, about } = order;
  const { rows, tables, bytes, pausedMs } = await backUp({ connection, database }, file, work, about, onProgress);
  return { rows, tables, bytes, pausedMs };
}
