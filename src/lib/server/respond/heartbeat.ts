import { CloudEvent, HTTP } from 'cloudevents';
import type { Logger } from 'pino';
import { minute, type Clock } from '$lib/core/time';
import type { Outbound } from '../providers/port/outbound';
import { postMessage } from '../notify/senders/post';

/** What the heartbeat is sent with. */
export interface HeartbeatParts {
  /** Where it is posted; null for nowhere. */
  readonly url: string | null;
  readonly origin: string;
  readonly call: Outbound;
  readonly clock: Clock;
  readonly log: Logger;
  /** Real time between two beats, ms; a minute by default. */
  readonly every?: number;
}

/** How the heartbeat is doing, for people who look. */
export interface Heartbeat {
  /** Why the newest one was not taken; null when it was, or none is sent. */
  fault(): string | null;
  stop(): Promise<void>;
}

/**
 * Posts a CloudEvent `bussola.heartbeat` once a minute, so that whoever expects it notices when Bussola is gone. One that is not taken is not sent again: the next one follows.
 *
 * @example startHeartbeat({ url: 'https://watcher.example.test/bussola', origin, call: fetch, clock, log })
 */
export function startHeartbeat({ url, origin, call, clock, log, every = minute }: HeartbeatParts): Heartbeat {
  let fault: string | null = null;
  let beating: Promise<void> | null = null;
  async function beat(to: string): Promise<void> {
    const event = new CloudEvent({
      ...{ type: 'bussola.heartbeat', source: origin, time: new Date(clock.now()).toISOString() },
      ...{ datacontenttype: 'application/json', data: { next: Math.round(every / 1000) } }
    });
    const { headers, body } = HTTP.structured(event);
    const plain = Object.fromEntries(Object.entries(headers).map(([name, value]) => [name, String(value)]));
    try {
      await postMessage(call, { url: to, shownUrl: to, headers: plain, body: String(body) });
      fault = null;
    } catch (error) {
      const reason = error instanceof Error ? error.message : String(error);
      if (fault === null) log.warn({ err: error }, 'the heartbeat was not taken');
      fault = reason;
    }
  }
  const look = () => {
    if (url !== null) beating ??= beat(url).finally(() => (beating = null));
  };
  look();
  const timer = setInterval(look, every);
  return {
    fault: () => fault,
    stop: async () => {
      clearInterval(timer);
      await beating;
    }
  };
}
