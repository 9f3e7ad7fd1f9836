import type { Queryable } from '../db/pool';
import { allChannels } from '../notify/channels';

/** Channels that a summary can be sent to, with whether whoever reads them has confirmed. */
export const channelChoices = async (
  db: Queryable
): Promise<{ readonly id: number; readonly name: string; readonly isConfirmed: boolean }[]> =>
  (await allChannels(db)).map(({ id, name, confirmedAt }) => ({ id, name, isConfirmed: confirmedAt !== null }));
