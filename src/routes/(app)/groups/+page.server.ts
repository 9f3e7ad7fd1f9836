import { belonging, groupSentence } from '$lib/core/group';
import { allGroups } from '$server/query/groups/groups';
import { groupLabelsOf } from '$server/query/groups/members';
import { allResources } from '$server/inventory/resources';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async () => {
  const { db } = bussola();
  const [groups, resources] = await Promise.all([allGroups(db), allResources(db)]);
  const labels = resources.map(groupLabelsOf);
  return {
    groups: groups.map(({ id, name, rule, changedAt, changedBy }) => {
      const belongs = belonging(rule);
      return { id, name, sentence: groupSentence(rule), members: labels.filter(belongs).length, changedAt, changedBy };
    })
  };
};
