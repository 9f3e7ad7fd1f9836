import type { MessageContent, SentKind } from '$lib/core/notify';
import type { SecretBox } from '../base/secrets';
import type { Clock } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import type { Enclosed } from '../notify/deliver';
import { pictureWords } from './drawn/draw-days';
import type { DrawnSummaries } from './drawn/drawn-summaries';
import { summaryById, type StoredSummary } from './summaries';
import { summaryCsv } from './summary-csv';
import { summaryToken } from './summary-links';

interface Encloser {
  readonly db: Queryable;
  readonly clock: Clock;
  readonly secrets: SecretBox;
  readonly origin: string;
  readonly summaries: DrawnSummaries;
}

/** The address of a summary for anybody who has it; null where its link is not good. */
export const linkOf = (
  { secrets, origin, clock }: Pick<Encloser, 'secrets' | 'origin' | 'clock'>,
  stored: Pick<StoredSummary, 'id' | 'linkNumber' | 'linkUntil'>
): string | null =>
  stored.linkUntil !== null && clock.now() < stored.linkUntil
    ? `${origin}/read/${summaryToken(secrets, stored)}`
    : null;

/** What a file of a summary is called. @example fileName(stored, 'pdf') // 'summary-week-2026-04-27.pdf' */
export const fileName = ({ summary: { kind, incidents } }: Pick<StoredSummary, 'summary'>, ending: string): string =>
  `summary-${kind}-${incidents.days[0]?.date ?? ''}.${ending}`;

/**
 * What goes with the message of a summary: the link by which anybody reads it, and in mails its pictures, the whole as a PDF, and its numbers as CSV.
 *
 * @returns null for messages about anything else
 */
export async function encloseSummary(
  parts: Encloser,
  content: MessageContent,
  kind: SentKind
): Promise<Enclosed | null> {
  if (content.kind !== 'summary') return null;
  const stored = await summaryById(parts.db, content.summaryId);
  if (stored === null) return { pictures: [], files: [] };
  const link = linkOf(parts, stored);
  const leads = link === null ? {} : { link };
  if (kind !== 'email') return { pictures: [], files: [], ...leads };
  const drawn = await parts.summaries.drawStored(stored);
  return {
    pictures: (['incidents', 'cost'] as const).flatMap((which) => {
      const png = drawn[which];
      return png === null ? [] : [{ png, alt: pictureWords[which] }];
    }),
    files: [
      { name: fileName(stored, 'pdf'), type: 'application/pdf', bytes: drawn.pdf },
      { name: fileName(stored, 'csv'), type: 'text/csv', bytes: Buffer.from(summaryCsv(stored.summary)) }
    ],
    ...leads
  };
}
