// message_templates
import { messageTemplatesForm, messageTemplatesSchema, wordsProblem, type MessageTemplates } from '$lib/core/notify';
import { readableOf, readStored, unreadableOf, writeStored } from '$lib/core/forms/stored';
import { Refusal, type Problem } from '$lib/core/problem/problem';
import type { Instant } from '$lib/core/time';
import type { Context } from '../db/context';
import type { Queryable } from '../db/pool';

/** The words of a workspace, with who changed them last. */
export interface StoredTemplates {
  readonly templates: MessageTemplates;
  /** Of what is stored; 0 while the usual words are used. */
  readonly version: number;
  readonly changedAt: Instant | null;
  readonly changedBy: string | null;
}

const rowsOf = (db: Queryable) =>
  db.rows<{ templates: unknown; version: number; changedAt: Instant; changedBy: string }>(
    'select templates, version, changed_at as "changedAt", changed_by as "changedBy" from message_templates'
  );
const fromRow = ({ templates, ...rest }: Awaited<ReturnType<typeof rowsOf>>[number]): StoredTemplates => ({
  ...rest,
  templates: readStored(messageTemplatesForm, templates, 'of this workspace')
});

/** The words of this workspace; null for the usual ones, and where they cannot be read: a message in the usual words is better than none. */
export const messageTemplates = async (db: Queryable): Promise<MessageTemplates | null> =>
  readableOf(await rowsOf(db), fromRow)[0]?.templates ?? null;

/** Why they cannot be read. */
export const unreadableTemplates = async (db: Queryable): Promise<Problem[]> => unreadableOf(await rowsOf(db), fromRow);

/** The words as people edit them. */
export async function storedTemplates(db: Queryable): Promise<StoredTemplates> {
  const rows = await rowsOf(db);
  const usual = { templates: messageTemplatesSchema.parse({}), version: 0, changedAt: null, changedBy: null };
  // What cannot be read is shown as the usual words, and saving replaces it.
  return readableOf(rows, fromRow)[0] ?? { ...usual, ...rows[0], templates: usual.templates };
}

/**
 * Changes what messages say, from the next one on; empty words are the usual ones.
 *
 * @param version of what was edited
 * @throws Refusal `invalid` for words that cannot be used, `changed-meanwhile`
 */
export async function saveTemplates(
  { db, clock }: Pick<Context, 'db' | 'clock'>,
  templates: MessageTemplates,
  version: number,
  by: string
): Promise<StoredTemplates> {
  refuseUnusable(templates);
  const saved = await db.rows(
    `insert into message_templates (id, templates, changed_at, changed_by)
     select 1, $1::jsonb, $2, $3
     where $4 = 0 or exists (select 1 from message_templates where version = $4)
     on conflict (id) do update
     set templates = excluded.templates, version = message_templates.version + 1, changed_at = excluded.changed_at, changed_by = excluded.changed_by
     where message_templates.version = $4
     returning id`,
    [writeStored(messageTemplatesForm, templates), clock.now(), by, version]
  );
  if (saved.length === 0) {
    const { changedBy } = await storedTemplates(db);
    throw new Refusal(
      'changed-meanwhile',
      `${changedBy ?? 'Somebody'} changed them meanwhile.`,
      'Load the page anew, then make your changes again.'
    );
  }
  return storedTemplates(db);
}

/** @throws Refusal `invalid` for words that cannot be used */
export function refuseUnusable(templates: MessageTemplates): void {
  for (const part of ['subject', 'text', 'short'] as const) {
    const why = wordsProblem(templates[part]);
    if (why !== null) throw new Refusal('invalid', why, 'Write only names that there are.', { path: [part] });
  }
}
