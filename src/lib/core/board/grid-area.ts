import {
  boardColumns,
  mostPanels,
  type Board,
  type Panel,
  type PanelContent,
  type PictureKind,
  type GridArea
} from './schema';

type Size = Pick<GridArea, 'w' | 'h'>;

/** The size of a panel that nobody has sized, by its picture. */
const usualSizes: Readonly<Partial<Record<PictureKind, Size>>> = {
  number: { w: 3, h: 2 },
  gauge: { w: 4, h: 2 },
  ring: { w: 4, h: 4 },
  text: { w: 4, h: 3 },
  status: { w: 4, h: 4 },
  alarms: { w: 6, h: 3 },
  incidents: { w: 4, h: 3 },
  silent: { w: 4, h: 3 },
  marks: { w: 4, h: 3 },
  log: { w: 12, h: 5 },
  snapshot: { w: 12, h: 5 }
};
const usual: Size = { w: 6, h: 4 };

/** @example usualSize('gauge') // { w: 4, h: 2 } */
export const usualSize = (picture: PictureKind): Size => usualSizes[picture] ?? usual;

/**
 * Where a panel fits without moving another: the highest place, then the one farthest to the left.
 *
 * @example freePlace([{ x: 0, y: 0, w: 6, h: 4 }]) // { x: 6, y: 0, w: 6, h: 4 }
 */
export function freePlace(taken: readonly GridArea[], { w, h }: Size = usual): GridArea {
  for (let y = 0; ; y++)
    for (let x = 0; x + w <= boardColumns; x++) {
      const place = { x, y, w, h };
      if (!taken.some((other) => overlaps(place, other))) return place;
    }
}

const overlaps = (one: GridArea, other: GridArea): boolean =>
  one.x < other.x + other.w && other.x < one.x + one.w && one.y < other.y + other.h && other.y < one.y + one.h;

const places = (panels: readonly Panel[], section: string | undefined): GridArea[] =>
  panels.filter((panel) => panel.section === section).map(({ place }) => place);

/**
 * A board's panels with one more, at a free place of its section.
 *
 * @param id of the panel: one that no panel of the board ever had, so that somebody who still has an old one does not take it for theirs
 * @returns null when the board is full
 * @example withPanel([], { title: 'Processor', picture: 'lines', signal })?.[0].id // 'p1'
 */
export function withPanel(
  panels: readonly Panel[],
  content: PanelContent,
  id: string = freeId('p', panels)
): Panel[] | null {
  if (panels.length >= mostPanels) return null;
  const isTiled = content.picture === 'number' && content.each === true;
  const size = isTiled ? { w: 6, h: 3 } : usualSize(content.picture);
  const place = freePlace(places(panels, content.section), size);
  return [...panels, { ...content, id, place }];
}

/** An id that none has yet. @example freeId('p', [{ id: 'p2' }]) // 'p3' */
export function freeId(prefix: string, all: readonly { readonly id: string }[]): string {
  const taken = new Set(all.map(({ id }) => id));
  let number = all.length + 1;
  while (taken.has(`${prefix}${number}`)) number++;
  return `${prefix}${number}`;
}

/**
 * The same panels, none covering another: where two do, the later one moves down until it is free. Panels that cover none stay where they are.
 *
 * @param first a panel that stays whatever it covers
 * @example settled([{ ...a, place: { x: 0, y: 0, w: 6, h: 4 } }, { ...b, place: { x: 0, y: 2, w: 6, h: 4 } }])[1].place.y // 4
 */
export function settled<One extends Panel>(panels: readonly One[], first: string | null = null): One[] {
  const done = new Map<string | undefined, GridArea[]>();
  const inOrder = [...panels].sort(
    (a, b) => Number(b.id === first) - Number(a.id === first) || a.place.y - b.place.y || a.place.x - b.place.x
  );
  const settledPlaces = new Map<string, GridArea>();
  for (const { id, section, place } of inOrder) {
    const taken = done.get(section) ?? done.set(section, []).get(section)!;
    let free = place;
    for (let blocker = taken.find((other) => overlaps(free, other)); blocker;) {
      free = { ...free, y: blocker.y + blocker.h };
      blocker = taken.find((other) => overlaps(free, other));
    }
    taken.push(free);
    settledPlaces.set(id, free);
  }
  return panels.map((panel) => {
    const place = settledPlaces.get(panel.id) as GridArea;
    return place === panel.place ? panel : { ...panel, place };
  });
}

/** Panels of each section in reading order; those above all sections come first, under null. */
export function bySection({ panels, sections }: Pick<Board, 'panels' | 'sections'>) {
  const inReadingOrder = (all: readonly Panel[]) =>
    [...all].sort((a, b) => a.place.y - b.place.y || a.place.x - b.place.x);
  return [null, ...sections].map((section) => ({
    section,
    panels: inReadingOrder(panels.filter((panel) => panel.section === section?.id))
  }));
}
