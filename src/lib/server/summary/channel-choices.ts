import type { Queryable } from '../db/pool';
import { allChannels } from '../notify/channels';

/**
 * Channels that a summary can be sent to, with whether whoever reads them has confirmed: those of all, one's own, and those that are chosen already. What reaches somebody else is theirs to choose.
 *
 * @param personId of whoever chooses
 */
export const channelChoices = async (
  db: Queryable,
  personId: number | null,
  chosen: readonly number[]
): Promise<{ readonly id: number; readonly name: string; readonly isConfirmed: boolean }[]> =>
  (await allChannels(db))
    .filter((one) => one.personId === null || one.personId === personId || chosen.includes(one.id))
    .map(({ id, name, confirmedAt }) => ({ id, name, isConfirmed: confirmedAt !== null }));
