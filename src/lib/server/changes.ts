import { EventEmitter } from 'node:events';

/** What changed, for whoever shows it: browsers hear of it by server-sent events. */
export interface ChangeMap {
  /** Samples of an account were added. */
  samples: [{ readonly accountId: number }];
  /** An account's health changed. */
  account: [{ readonly accountId: number }];
  /** A series of an alarm changed its state. */
  alarm: [{ readonly alarmId: number }];
  /** A channel was confirmed or a message left. */
  outbox: [{ readonly channelId: number }];
}

export type Changes = EventEmitter<ChangeMap>;

/** @example makeChanges().on('samples', ({ accountId }) => …) */
export function makeChanges(): Changes {
  const changes: Changes = new EventEmitter<ChangeMap>();
  changes.setMaxListeners(0); // one for each open browser
  return changes;
}
