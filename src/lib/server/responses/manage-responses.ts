import { signalsOfAlarm } from '$lib/core/alarm';
import type { AutoResponse } from '$lib/core/response';
import { Refusal } from '$lib/core/problem/problem';
import { alarmById } from '../alarms/alarms';
import { changedMeanwhile } from '../base/changed-meanwhile';
import type { Context } from '../db/context';
import type { Queryable } from '../db/pool';
import { channelById } from '../notify/channels';
import { requireActing } from '../people/act-access';
import { groupById } from '../query/groups/groups';
import {
  allResponses,
  deleteResponse,
  insertResponse,
  replaceResponse,
  responseById,
  type StoredResponse
} from './responses';

/** Responses that there may be. */
const mostResponses = 200;

/** Whoever changes a response, with the accounts on whose resources they may act; null for all. */
export interface Acting {
  readonly by: string;
  readonly personId: number;
  readonly accounts: readonly number[] | null;
}

/** An alarm may be raised by resources of any account that its signals pick: whoever may act on some alone may not let it act. */
async function check(db: Queryable, response: AutoResponse, { accounts }: Acting): Promise<void> {
  const alarm = await alarmById(db, response.alarmId);
  if (alarm === null)
    throw new Refusal('invalid', 'There is no such alarm.', 'Choose another one.', { path: ['alarmId'] });
  requireActing(accounts, null);
  const { action, limits } = response;
  if (action.kind !== 'webhook' && signalsOfAlarm(alarm.definition).length === 0)
    throw new Refusal('invalid', 'This alarm combines others, and is about no resource.', 'Choose one of its parts.', {
      path: ['alarmId']
    });
  if (action.kind === 'webhook') {
    const channel = await channelById(db, action.channelId);
    if (channel === null || channel.kind !== 'webhook')
      throw new Refusal('invalid', 'There is no such webhook.', 'Choose another one.', {
        path: ['action', 'channelId']
      });
  }
  if (limits.group !== null && (await groupById(db, limits.group.groupId)) === null)
    throw new Refusal('invalid', 'There is no such group.', 'Choose another one.', {
      path: ['limits', 'group', 'groupId']
    });
}

/** @throws Refusal `not-allowed`, `invalid` */
export async function addResponse(
  { db, clock, changes }: Context,
  response: AutoResponse,
  acting: Acting
): Promise<StoredResponse> {
  await check(db, response, acting);
  const made = await db.transaction(async (within) => {
    await within.rows('lock table responses in share row exclusive mode');
    if ((await allResponses(within)).length >= mostResponses)
      throw new Refusal('invalid', `There are ${mostResponses} responses, which is the most.`, 'Remove one first.');
    return insertResponse(within, response, { at: clock.now(), by: acting.by, personId: acting.personId });
  });
  changes.tell('responses', {});
  return made;
}

/** Changes a response; one that had stopped itself acts again. @throws Refusal `not-allowed`, `invalid`, `changed-meanwhile`, `not-found` */
export async function saveResponse(
  { db, clock, changes }: Context,
  id: number,
  version: number,
  response: AutoResponse,
  acting: Acting
): Promise<StoredResponse> {
  await check(db, response, acting);
  const saved = await replaceResponse(db, id, version, response, {
    ...{ at: clock.now(), by: acting.by, personId: acting.personId }
  });
  if (saved === null) throw changedMeanwhile(await responseById(db, id), 'response', noSuch);
  changes.tell('responses', {});
  return saved;
}

const noSuch = () =>
  new Refusal('not-found', 'There is no such response.', 'It may have been removed. See all responses.');

/** What it did stays. @throws Refusal `not-found` */
export async function removeResponse({ db, changes }: Context, id: number): Promise<void> {
  if (!(await deleteResponse(db, id))) throw noSuch();
  changes.tell('responses', {});
}
