import { Refusal } from '$lib/core/problem/problem';
import { z } from 'zod';
import { pickedSignal, readAs, signalsOf, type Board, type Choices } from '$lib/core/board';
import { statistics } from '$lib/core/series';
import { picksOf, signalSchema, type Signal } from '$lib/core/signal';
import { day, instantFromText, times } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import { labelNames } from '../inventory/labels';
import { queriesSchema, spansSchema, type Queries } from '../query/signals/query-schema';

const { from, to, cells, zone, values } = queriesSchema.shape;

/** Body of `POST /api/v1/shared/…/queries`: signals of the board by their place, and how they are read. */
export const sharedQueriesSchema = z
  .strictObject({
    asks: z
      .array(
        z.strictObject({
          panel: z.string().max(40),
          column: z.int().min(0).max(11),
          step: signalSchema.shape.step.optional(),
          statistic: z.enum(statistics).optional()
        })
      )
      .max(100),
    spans: spansSchema,
    from,
    to,
    cells,
    zone,
    values
  })
  .refine((span) => Date.parse(span.from) <= Date.parse(span.to), {
    error: 'The end must not be before the start.',
    path: ['to']
  })
  .refine(({ asks, spans }) => spans === undefined || spans.length === asks.length, {
    error: 'Give a span for each signal, or none.',
    path: ['spans']
  });

/** The longest range that is shown by a link, and how often each signal of the board may be requested together: as it is, and for earlier ranges beside it. */
const longestShared = times(93, day);
const timesEach = 3;

function refuseMuch(board: Board, asks: number, spans: readonly { from: string; to: string }[]): void {
  const most = timesEach * board.panels.flatMap(signalsOf).length;
  if (asks > most)
    throw new Refusal(
      'link-limits',
      `More is asked for than the board shows: ${asks} signals, ${most} at most.`,
      'Load the page again.'
    );
  if (spans.some(({ from, to }) => instantFromText(to) - instantFromText(from) > longestShared))
    throw new Refusal('link-limits', 'A link shows 93 days at most.', 'Show a shorter range, or sign in.');
}

/**
 * The queries of somebody who sees a board by a link: the signals are the board's own, narrowed to what was picked when the link was made.
 *
 * @throws Refusal when something else is requested
 */
export async function sharedQueries(
  db: Queryable,
  { board, choices }: { readonly board: Board; readonly choices: Choices },
  { asks, ...span }: z.infer<typeof sharedQueriesSchema>
): Promise<Queries> {
  refuseMuch(board, asks.length, [span, ...(span.spans ?? [])]);
  const metrics = board.panels.flatMap(signalsOf).flatMap((signal) => picksOf(signal).map(({ metric }) => metric));
  const labels = await labelNames(db, [...new Set(metrics)]);
  const signals = asks.map(({ panel: id, column, step, statistic }): Signal => {
    const panel = board.panels.find((one) => one.id === id);
    const signal = panel && signalsOf(panel)[column];
    if (!panel || !signal) throw new Refusal('not-found', 'The board has no such panel.', 'Load the page again.');
    const picked = pickedSignal(
      signal,
      board.pickers,
      choices,
      panel.ignores ?? [],
      (metric) => labels.get(metric) ?? []
    );
    return readAs(picked, { step, statistic });
  });
  return { signals, ...span };
}
