// targets
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../../db/pool';

/** A page and how reading it went last. */
export interface TargetState {
  readonly name: string;
  readonly url: string;
  readonly labels: Readonly<Record<string, string>>;
  /** Null before it was read for the first time. */
  readonly isUp: boolean | null;
  readonly since: Instant | null;
  readonly readAt: Instant | null;
  readonly tookMs: number | null;
  readonly samples: number | null;
  readonly leftOut: number | null;
  /** Why it is down, or what is wrong with some of its lines; null for nothing. */
  readonly problem: string | null;
}

/** What reading a page came to. */
export type TargetReading = Required<Pick<TargetState, 'name' | 'problem'>> & {
  readonly isUp: boolean;
  readonly readAt: Instant;
  readonly tookMs: number;
  readonly samples: number;
  readonly leftOut: number;
};

const columns = `name, url, labels, is_up as "isUp", since, read_at as "readAt", took_ms as "tookMs", samples, left_out as "leftOut", problem`;

/** Pages of an account: those that are down first, then by name. */
export const targetStates = (db: Queryable, accountId: number): Promise<TargetState[]> =>
  db.rows<TargetState>(`select ${columns} from targets where account_id = $1 order by is_up nulls last, name`, [
    accountId
  ]);

/** Puts the pages of an account in the place of those it had; how reading went stays for those that are still there. */
export async function saveTargets(
  within: Queryable,
  accountId: number,
  targets: readonly Pick<TargetState, 'name' | 'url' | 'labels'>[]
): Promise<void> {
  const names = targets.map(({ name }) => name);
  await within.rows('delete from targets where account_id = $1 and not name = any($2::text[])', [accountId, names]);
  await within.rows(
    `insert into targets (account_id, name, url, labels)
     select $1, name, url, labels::jsonb from unnest($2::text[], $3::text[], $4::text[]) as listed (name, url, labels)
     on conflict (account_id, name) do update
     set url = excluded.url, labels = excluded.labels`,
    [accountId, names, targets.map(({ url }) => url), targets.map(({ labels }) => JSON.stringify(labels))]
  );
}

/**
 * Notes how reading some pages went.
 *
 * @returns the readings by which a page turned from up to down or back, or was down at its first reading
 */
export async function noteReadings(
  within: Queryable,
  accountId: number,
  readings: readonly TargetReading[]
): Promise<TargetReading[]> {
  const last = new Map(readings.map((one) => [one.name, one]));
  const all = [...last.values()];
  const column = <Key extends keyof TargetReading>(key: Key) => all.map((one) => one[key]);
  const turned = await within.rows<{ name: string }>(
    `with noted as (
       select * from unnest($2::text[], $3::boolean[], $4::bigint[], $5::integer[], $6::integer[], $7::integer[], $8::text[])
         as noted (name, is_up, read_at, took_ms, samples, left_out, problem)
     ), before as (
       select name, is_up from targets where account_id = $1 and name = any($2::text[])
     )
     update targets
     set since = case when targets.is_up is distinct from noted.is_up then noted.read_at else targets.since end,
       is_up = noted.is_up, read_at = noted.read_at, took_ms = noted.took_ms, samples = noted.samples, left_out = noted.left_out, problem = noted.problem
     from noted
     join before using (name)
     where account_id = $1 and targets.name = noted.name
     returning case when coalesce(before.is_up, true) <> noted.is_up then targets.name end as name`,
    [
      accountId,
      ...(['name', 'isUp', 'readAt', 'tookMs', 'samples', 'leftOut', 'problem'] as const).map((key) => column(key))
    ]
  );
  return turned.flatMap(({ name }) => last.get(name) ?? []);
}
