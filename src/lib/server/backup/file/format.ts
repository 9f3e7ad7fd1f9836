import { z } from 'zod';

/** What a file of a backup is: a gzipped tar archive (POSIX.1-2001). Anything that reads tar reads it. */
export const backupFormat = 1;

/** Its first entry says what it is, its last what must have come between them. */
export const [firstEntry, lastEntry] = ['about.json', 'end.json'];

/** Rows of a table: one JSON object a line. @example partName('boards', 1) // 'tables/boards/000001.jsonl' */
export const partName = (table: string, number: number): string =>
  `tables/${table}/${String(number).padStart(6, '0')}.jsonl`;

export const aboutSchema = z.object({
  format: z.literal(backupFormat),
  bussola: z.string().max(60),
  migration: z.int().min(1).max(9999),
  madeAt: z.int(),
  database: z.enum(['embedded', 'server']),
  tables: z.array(z.string().max(100)).max(1000)
});
export type About = z.infer<typeof aboutSchema>;

export const endSchema = z.object({
  tables: z.record(z.string(), z.object({ rows: z.int().min(0), digest: z.string().length(32) })),
  counters: z
    .array(
      z.object({
        table: z.string(),
        column: z.string(),
        last: z
          .string()
          .regex(/^\d{1,19}$/)
          .nullable()
      })
    )
    .max(1000)
});
export type End = z.infer<typeof endSchema>;

/** How far something long is. */
export interface Progress {
  readonly doing: string;
  /** Of 1; null where nobody knows. */
  readonly share: number | null;
}
export type OnProgress = (progress: Progress) => void;
