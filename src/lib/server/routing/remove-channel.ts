import { channelsOfRoute } from '$lib/core/notify/route';
import { Refusal } from '$lib/core/problem/problem';
import type { Context } from '../db/context';
import { removeChannel as deleteChannel } from '../notify/channels';
import { allRoutes } from './routes';

/** Removes a channel; the messages that were sent to it stay in the history under its name. @throws Refusal `in-use` naming the routes that notify it */
export async function removeChannel({ db }: Pick<Context, 'db'>, id: number): Promise<void> {
  const users = (await allRoutes(db)).filter(({ route }) => channelsOfRoute(route).includes(id));
  if (users.length > 0)
    throw new Refusal(
      'in-use',
      `These routes notify the channel: ${users.map(({ route }) => route.name).join(', ')}.`,
      'Take it out of them first.'
    );
  await db.transaction((within) => deleteChannel(within, id));
}
