import { signalsOfAlarm } from '$lib/core/alarm';
import { belonging } from '$lib/core/group';
import { allAlarms } from '../alarms/alarms';
import type { Queryable } from '../db/pool';
import { allResources } from '../inventory/resources';
import { allChannels } from '../notify/channels';
import { allGroups } from '../query/groups/groups';
import { groupLabelsOf } from '../query/groups/members';

/** What a response can be made of: alarms on resources, groups with how many belong to them, webhooks. */
export async function responseChoices(db: Queryable) {
  const [alarms, groups, resources, channels] = await Promise.all([
    allAlarms(db),
    allGroups(db),
    allResources(db),
    allChannels(db)
  ]);
  const labels = resources.map(groupLabelsOf);
  return {
    alarms: alarms
      .filter(({ definition }) => signalsOfAlarm(definition).length > 0)
      .map(({ id, definition }) => ({ id, name: definition.name })),
    groups: groups.map(({ id, name, rule }) => ({ id, name, members: labels.filter(belonging(rule)).length })),
    webhooks: channels.filter(({ kind }) => kind === 'webhook').map(({ id, name }) => ({ id, name }))
  };
}
