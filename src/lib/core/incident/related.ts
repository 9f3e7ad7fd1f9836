import { minute, type Instant } from '../time';

/** What of an incident says to which others it belongs. */
export interface Relatable {
  readonly id: number;
  readonly account: string;
  readonly resource: string;
  readonly openedAt: Instant;
}

/** Why incidents belong together: they are on the same resource, in an account that sends nothing, or were raised in the same minute. */
export type Relation = 'resource' | 'account' | 'minute';

/** Incidents that belong together. */
export interface RelatedGroup<Incident extends Relatable> {
  /** In the order in which they were given. */
  readonly incidents: readonly Incident[];
  /** Why; none for one that stands alone. */
  readonly why: readonly Relation[];
}

/**
 * Incidents in groups of those that belong together, directly or by others between them. Groups are in the order of their first incident.
 *
 * @param dark names of accounts that send nothing
 * @example groupRelated([onA, onB, alsoOnA], new Set()).map(({ incidents }) => incidents.length) // [2, 1]
 */
export function groupRelated<Incident extends Relatable>(
  incidents: readonly Incident[],
  dark: ReadonlySet<string>
): RelatedGroup<Incident>[] {
  const parents = incidents.map((_, index) => index);
  const rootOf = (index: number): number => {
    let root = index;
    while (parents[root] !== root) root = parents[root] as number;
    // Whatever was passed on the way leads there at once the next time.
    for (let at = index; at !== root;) [at, parents[at]] = [parents[at] as number, root];
    return root;
  };
  const firstWith = new Map<string, number>();
  const joined: { index: number; why: Relation }[] = [];
  for (const [index, incident] of incidents.entries())
    for (const [why, value] of tiesOf(incident, dark)) {
      const key = `${why} ${value}`;
      const first = firstWith.get(key);
      if (first === undefined) firstWith.set(key, index);
      else {
        // The earlier one stays the root, so that a group is found by its first incident.
        const [a, b] = [rootOf(first), rootOf(index)];
        parents[Math.max(a, b)] = Math.min(a, b);
        joined.push({ index, why });
      }
    }
  const groups = new Map<number, { incidents: Incident[]; why: Set<Relation> }>();
  for (const [index, incident] of incidents.entries()) {
    const root = rootOf(index);
    const group = groups.get(root);
    if (group === undefined) groups.set(root, { incidents: [incident], why: new Set() });
    else group.incidents.push(incident);
  }
  for (const { index, why } of joined) groups.get(rootOf(index))?.why.add(why);
  return [...groups.values()].map((group) => ({
    incidents: group.incidents,
    why: relations.filter((one) => group.why.has(one))
  }));
}

/** Why two incidents belong together, the strongest reason first; none when they do not. @example relationsBetween(onA, alsoOnA, new Set()) // ['resource'] */
export function relationsBetween(one: Relatable, other: Relatable, dark: ReadonlySet<string>): Relation[] {
  const ties = new Map(tiesOf(other, dark));
  return tiesOf(one, dark).flatMap(([why, value]) => (ties.get(why) === value ? [why] : []));
}

const relations: readonly Relation[] = ['resource', 'account', 'minute'];

/** What an incident shares with those that it belongs to. */
const tiesOf = (
  { account, resource, openedAt }: Relatable,
  dark: ReadonlySet<string>
): (readonly [Relation, string])[] => [
  ...(resource === '' ? [] : [['resource', `${account}/${resource}`] as const]),
  ...(account !== '' && dark.has(account) ? [['account', account] as const] : []),
  ['minute', String(Math.floor(openedAt / minute))]
];
