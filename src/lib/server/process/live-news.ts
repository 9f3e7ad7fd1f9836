import type { ChangeMap, Changes } from '../base/changes';

/** Changes that browsers hear of. */
const names = [
  'samples',
  'account',
  'alarm',
  'outbox',
  'board',
  'mark',
  'routing',
  'reachability',
  'costs',
  'objectives',
  'responses',
  'summaries',
  'backups',
  'followers'
] as const satisfies (keyof ChangeMap)[];

/** What telling one person of changes needs. */
export interface Listener {
  readonly changes: Changes;
  /** Whether the person may see a board. */
  readonly maySee: (boardId: number) => Promise<boolean>;
  readonly send: (event: string, data: object) => void;
}

/**
 * Tells one person of changes, in their order. What is of a board that they may not see is sent as `other`, with the count of changes alone: nobody learns which boards others have.
 *
 * @returns what ends it
 * @example const news = liveNews({ changes, maySee, send }); news.stop();
 */
export function liveNews({ changes, maySee, send }: Listener): { stop(): void } {
  let order = Promise.resolve();
  let stopped = false;
  const listeners = names.map((name) => {
    const listener = (what: object): void => {
      const { version } = changes;
      const boardId = boardOf(name, what);
      order = order.then(async () => {
        // One that cannot be found out is not reported.
        const isTheirs = boardId === null || (await maySee(boardId).catch(() => false));
        if (stopped) return;
        if (isTheirs) send(name, { ...what, version });
        else send('other', { version });
      });
    };
    changes.on(name, listener);
    return () => changes.off(name, listener);
  });
  return {
    stop: () => {
      stopped = true;
      for (const off of listeners) off();
    }
  };
}

function boardOf(name: (typeof names)[number], what: object): number | null {
  return name === 'board' || name === 'mark' ? ((what as { boardId?: number | null }).boardId ?? null) : null;
}
