import type { Board } from './schema';

/** A board as it is stored: with its version, who changed it when, and whom it belongs to. */
export interface SavedBoard extends Board {
  readonly id: number;
  /** Grows with every change. */
  readonly version: number;
  readonly changedAt: number;
  readonly changedBy: string;
  readonly sharing: object;
}

/** The board itself, as files and versions have it. @example boardOf(kept).title // 'Tickets' */
export function boardOf({
  id: _,
  version: _version,
  changedAt: _at,
  changedBy: _by,
  sharing: _sharing,
  ...board
}: SavedBoard): Board {
  return board;
}
