import { messageOf, type MessageContent } from '../../src/lib/core/notify';
import { instant } from '../../src/lib/core/time';
import type { Channel } from '../../src/lib/server/notify/channels';
import type { Outgoing } from '../../src/lib/server/notify/senders/sender';
import { incidentContent } from './incidents';

const at = instant(1_777_881_900_000);

/** A message on its way, about a machine that is raised where nothing else is said. */
export function outgoing({
  channel = {},
  ...changed
}: Partial<Omit<Outgoing, 'channel'>> & { channel?: Partial<Channel> } = {}): Outgoing {
  const content: MessageContent = changed.content ?? incidentContent(7);
  if (content.kind === 'confirm' || content.kind === 'join' || content.kind === 'reset')
    throw new Error('outgoing: what lets somebody in is made by delivery');
  return {
    key: '6f1c1f7e-9d3b-4a55-8f0e-0d1f6c8a7b21',
    thread: null,
    ...{ pictures: [], files: [] },
    secret: {},
    content,
    message: messageOf(content, { zone: 'UTC', now: at, origin: 'https://bussola.example.test' }),
    at,
    ...changed,
    channel: {
      ...{ id: 1, kind: 'email', name: 'Night', address: 'nerea@example.test', settings: {} },
      ...{ confirmSentAt: null, confirmedAt: at, createdAt: at, createdBy: 'Kaja Tamm', personId: null, topicId: null },
      ...channel
    }
  };
}
