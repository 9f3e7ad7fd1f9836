import type { Queryable } from '../../db/pool';
import { allResources } from '../../inventory/resources';
import { groupLabelsOf } from './members';

/** What rules of groups can look at: each label with its values and how many resources have each. */
export async function groupChoices(db: Queryable) {
  const counts = new Map<string, Map<string, number>>();
  for (const resource of await allResources(db))
    for (const [name, value] of Object.entries(groupLabelsOf(resource))) {
      const of = counts.get(name) ?? new Map<string, number>();
      counts.set(name, of.set(String(value), (of.get(String(value)) ?? 0) + 1));
    }
  return [...counts]
    .map(([name, values]) => ({
      name,
      values: [...values]
        .map(([value, count]) => ({ value, count }))
        .sort((one, other) => other.count - one.count)
        .slice(0, 200),
      distinct: values.size
    }))
    .sort(
      (one, other) =>
        Number(one.name.startsWith('tag.')) - Number(other.name.startsWith('tag.')) ||
        one.name.localeCompare(other.name)
    );
}
