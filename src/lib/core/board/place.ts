import type { Signal } from '../signal';
import { boardColumns, mostPanels, type Panel, type Place } from './schema';

/** The size of a panel that nobody has sized. */
const usual = { w: 6, h: 4 } as const;

/**
 * Where a panel fits without moving another: the highest place, then the one farthest to the left.
 *
 * @example freePlace([{ x: 0, y: 0, w: 6, h: 4 }]) // { x: 6, y: 0, w: 6, h: 4 }
 */
export function freePlace(taken: readonly Place[], { w, h }: Pick<Place, 'w' | 'h'> = usual): Place {
  for (let y = 0; ; y++)
    for (let x = 0; x + w <= boardColumns; x++) {
      const place = { x, y, w, h };
      if (!taken.some((other) => overlaps(place, other))) return place;
    }
}

const overlaps = (one: Place, other: Place): boolean =>
  one.x < other.x + other.w && other.x < one.x + one.w && one.y < other.y + other.h && other.y < one.y + one.h;

/**
 * A board's panels with one more, at a free place.
 *
 * @returns null when the board is full
 * @example withPanel([], { title: 'Processor', signal })?.[0].id // 'p1'
 */
export function withPanel(
  panels: readonly Panel[],
  { title, signal }: { readonly title: string; readonly signal: Signal }
): Panel[] | null {
  if (panels.length >= mostPanels) return null;
  const taken = new Set(panels.map(({ id }) => id));
  let number = panels.length + 1;
  while (taken.has(`p${number}`)) number++;
  return [
    ...panels,
    { id: `p${number}`, title, picture: 'lines', signal, place: freePlace(panels.map(({ place }) => place)) }
  ];
}
