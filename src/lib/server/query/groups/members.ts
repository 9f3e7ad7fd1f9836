import { belonging, type GroupRule } from '$lib/core/group';
import type { SeriesLabels } from '$lib/core/signal';
import type { Queryable } from '../../db/pool';
import { allResources, type Resource } from '../../inventory/resources';

/** What rules look at of a resource. */
export const groupLabelsOf = (resource: Resource): SeriesLabels => ({
  ...Object.fromEntries(Object.entries(resource.tags).map(([name, value]) => [`tag.${name}`, value])),
  resource: resource.name,
  account: resource.account,
  provider: resource.provider,
  region: resource.region,
  service: resource.service,
  type: resource.type
});

/** The resources that are there and belong to a group, by name. */
export async function membersOf(db: Queryable, rule: GroupRule): Promise<Resource[]> {
  const belongs = belonging(rule);
  return (await allResources(db)).filter((resource) => belongs(groupLabelsOf(resource)));
}
