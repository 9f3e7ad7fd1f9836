import { error } from '@sveltejs/kit';
import { channelById } from '$server/notify/channels';
import { channelByToken, confirmChannel } from '$server/notify/channel-confirmation';
import { leaveToken } from '$server/notify/leave-links';
import { bussola } from '$server/process/running';
import type { Actions, PageServerLoad } from './$types';

/** Opening the link only shows what is asked: mail programs open links by themselves, agreeing takes a press of the button. */
export const load: PageServerLoad = async ({ params }) => {
  const { db, clock, secrets } = bussola();
  const channel = await channelByToken(db, params.token, clock.now());
  if (channel === null)
    error(404, {
      message: 'This link is not valid any more.',
      remedy: 'Ask for a new one on the page Channels in Bussola.'
    });
  const topic = channel.topicId === null ? null : await channelById(db, channel.topicId);
  return {
    topic: topic?.name ?? null,
    leave: topic === null ? null : `/leave/${leaveToken(secrets, channel.id)}`,
    name: channel.name,
    address: channel.address,
    createdBy: channel.createdBy,
    confirmed: channel.confirmedAt !== null
  };
};

export const actions = {
  default: async ({ params }) => {
    const { db, clock, changes } = bussola();
    const channel = await channelByToken(db, params.token, clock.now());
    if (channel === null)
      error(404, {
        message: 'This link is not valid any more.',
        remedy: 'Ask for a new one on the page Channels in Bussola.'
      });
    await confirmChannel(db, channel.id, clock.now());
    changes.tell('outbox', { channelId: channel.id });
  }
} satisfies Actions;
