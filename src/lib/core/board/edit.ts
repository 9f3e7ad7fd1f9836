import type { Signal } from '../signal';
import type { Bound } from './limits';
import { freePlace, settled, usualSize, withPanel } from './grid-area';
import {
  mostPanels,
  mostSections,
  signalsOf,
  type Board,
  type Panel,
  type PanelContent,
  type PictureKind,
  type GridArea
} from './schema';

/** @returns null when the board is full */
export function addPanel(board: Board, content: PanelContent, id: string): Board | null {
  const panels = withPanel(board.panels, content, id);
  return panels === null ? null : { ...board, panels };
}

/** The same board with one panel put through something. @example changePanel(board, 'p1', (panel) => ({ ...panel, title: 'Processor' })) */
export const changePanel = (board: Board, id: string, change: (panel: Panel) => Panel): Board => ({
  ...board,
  panels: board.panels.map((panel) => (panel.id === id ? change(panel) : panel))
});

export const removePanel = (board: Board, id: string): Board => ({
  ...board,
  panels: board.panels.filter((panel) => panel.id !== id)
});

/** A second panel like one, beside it where there is room; null when the board is full or the panel is gone. */
export function duplicatePanel(board: Board, id: string, newId: string): Board | null {
  const panel = board.panels.find((one) => one.id === id);
  if (!panel || board.panels.length >= mostPanels) return null;
  const taken = board.panels.filter(({ section }) => section === panel.section).map(({ place }) => place);
  const beside = { ...panel.place, x: panel.place.x + panel.place.w };
  const isFree = beside.x + beside.w <= 12 && freePlace([...taken, ...above(beside)], beside).x === beside.x;
  const place = isFree ? freePlace([...taken, ...above(beside)], beside) : freePlace(taken, panel.place);
  const copy = { ...panel, id: newId, title: `${panel.title.slice(0, 113)}, copy`, place };
  return { ...board, panels: [...board.panels, copy] };
}

/** Fills what lies above and to the left of a place, so that the next free place is there or below. */
const above = ({ x, y }: GridArea): GridArea[] => [
  ...(y > 0 ? [{ x: 0, y: 0, w: 12, h: y }] : []),
  ...(x > 0 ? [{ x: 0, y, w: x, h: 60 }] : [])
];

/** New places and sections of some panels; what would be covered moves down. */
export const placePanels = (
  board: Board,
  moved: ReadonlyMap<string, { readonly place: GridArea; readonly section: string | undefined }>
): Board => {
  const panels = board.panels.map((panel) => {
    const to = moved.get(panel.id);
    if (!to) return panel;
    const { section: _, ...rest } = panel;
    return to.section === undefined ? { ...rest, place: to.place } : { ...panel, ...to };
  });
  const [only] = moved.size === 1 ? moved.keys() : [];
  return { ...board, panels: settled(panels, only ?? null) };
};

/** @returns null when there are as many as there may be */
export function addSection(board: Board, title: string, id: string): Board | null {
  if (board.sections.length >= mostSections) return null;
  const section = { id, title, folded: false };
  return { ...board, sections: [...board.sections, section] };
}

/** Takes a section's heading away; its panels go to the end of the section before it. */
export function removeSection(board: Board, id: string): Board {
  const at = board.sections.findIndex((section) => section.id === id);
  const before = board.sections[at - 1]?.id;
  const inBefore = board.panels.filter(({ section }) => section === before);
  const bottom = Math.max(0, ...inBefore.map(({ place }) => place.y + place.h));
  return {
    ...board,
    sections: board.sections.filter((section) => section.id !== id),
    panels: board.panels.map((panel) => {
      if (panel.section !== id) return panel;
      const { section: _, ...rest } = panel;
      const place = { ...panel.place, y: panel.place.y + bottom };
      return { ...rest, ...(before === undefined ? {} : { section: before }), place };
    })
  };
}

/** Moves a section one place up (−1) or down (1). */
export function moveSection(board: Board, id: string, by: -1 | 1): Board {
  const sections = [...board.sections];
  const at = sections.findIndex((section) => section.id === id);
  const [section] = sections.splice(at, 1);
  if (!section) return board;
  sections.splice(Math.max(0, at + by), 0, section);
  return { ...board, sections };
}

/** Pictures that one signal can be shown in. */
export const signalPictures = [
  'lines',
  'areas',
  'stacked',
  'bars',
  'ranks',
  'ring',
  'number',
  'gauge',
  'snapshot',
  'table',
  'heat',
  'histogram'
] as const satisfies readonly PictureKind[];
export type SignalPicture = (typeof signalPictures)[number];

/**
 * A signal as the content of a panel in some picture.
 *
 * @param scale of a gauge
 * @example pictured('Processor', signal, 'number').picture // 'number'
 */
export function pictured(
  title: string,
  signal: Signal,
  picture: SignalPicture,
  scale: readonly [number, number] = [0, 100]
): PanelContent {
  switch (picture) {
    case 'lines':
    case 'areas':
    case 'stacked':
    case 'bars':
    case 'heat':
      return { title, picture, signal };
    case 'ranks':
    case 'ring':
      return { title, picture, signal, reduce: 'last' };
    case 'number':
      return { title, picture, signal, reduce: 'last', earlier: 'PT1H' };
    case 'gauge':
      return { title, picture, signal, reduce: 'last', scale: { from: scale[0], to: scale[1] }, worse: 'above' };
    case 'snapshot':
      return {
        title,
        picture,
        columns: [{ title: title.slice(0, 60), signal, reduce: 'last', show: 'shade' }],
        sort: { column: 0, direction: 'highest' },
        rows: 20
      };
    case 'table':
      return { title, picture, signal, names: {} };
    case 'histogram':
      return { title, picture, signal, bins: 20 };
    default:
      return picture satisfies never;
  }
}

/** The same panel in another picture; its size stays. Null when it has no signal to show. */
export function inPicture(panel: Panel, picture: SignalPicture, scale?: readonly [number, number]): Panel | null {
  const [signal] = signalsOf(panel);
  if (!signal) return null;
  const { id, place, section, ignores, title, about } = panel;
  const limits = 'limits' in panel ? (panel.limits ?? []) : [];
  const bounds = limits.filter((limit): limit is Bound => 'value' in limit);
  const least = usualSize(picture);
  return {
    ...pictured(title, signal, picture, scale),
    ...('axis' in panel && isOverTime(picture) ? { axis: panel.axis } : {}),
    ...(isOverTime(picture) && bounds.length > 0 ? { limits: bounds } : {}),
    ...((picture === 'number' || picture === 'ranks' || picture === 'heat') && limits.length > 0 ? { limits } : {}),
    ...('legend' in panel && isOverTime(picture) ? { legend: panel.legend } : {}),
    ...(about === undefined ? {} : { about }),
    id,
    place: { ...place, h: Math.max(place.h, Math.min(least.h, 3)) },
    ...(section === undefined ? {} : { section }),
    ...(ignores === undefined ? {} : { ignores })
  } as Panel; // its limits are of the form that the picture has, which the compiler cannot see
}

const isOverTime = (picture: PictureKind): boolean => ['lines', 'areas', 'stacked', 'bars'].includes(picture);
