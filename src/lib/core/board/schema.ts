import { z } from 'zod';
import type { StoredForm } from '../forms/stored';
import { isShownLength, isZone } from '../time';
import { signalSchema, type Signal } from '../signal';
import { mostPickers, pickerSchema, type Picker } from './picker';
import { pictureShapes } from './pictures';

/** The most panels of one board, and the most sections. */
export const mostPanels = 100;
export const mostSections = 30;
/** How many columns a board is wide. */
export const boardColumns = 12;

/** Where a panel lies in its section: columns from the left, rows from the top, and how many of each it takes. */
export const placeSchema = z
  .strictObject({
    x: z
      .int()
      .min(0)
      .max(boardColumns - 1),
    y: z.int().min(0).max(10_000),
    w: z.int().min(1).max(boardColumns),
    h: z.int().min(1).max(60)
  })
  .refine(({ x, w }) => x + w <= boardColumns, { error: 'The panel reaches over the edge of the board.' });
export type GridArea = z.infer<typeof placeSchema>;

const id = z.string().regex(/^[a-z0-9-]{1,40}$/, { error: 'An id is made of small letters, digits and -.' });
const title = z.string().trim().min(1, { error: 'Give the panel a title.' }).max(120);

/** A length of time that is shown by default. */
const shownLength = z
  .string()
  .max(20)
  .refine(isShownLength, { error: 'Give a length of time from PT1M (a minute) to P400D (400 days).' });

/** How often a board may be read again. */
export const refreshes = ['PT30S', 'PT1M', 'PT5M', 'off'] as const;

/** What every panel has. */
const ofEvery = {
  id,
  title,
  /** What it is about, for those who hover over its title and on paper. */
  about: z.string().trim().max(1000).optional(),
  place: placeSchema,
  /** The section it lies in; above all sections by default. */
  section: id.optional(),
  /** Pickers it does not follow. */
  ignores: z.array(z.string().max(40)).max(mostPickers).optional(),
  /** The range it shows while nobody chooses one, such as P2D for hourly metrics; the board's by default. */
  range: shownLength.optional()
};

const { overTime, ranks, ring, number, gauge, snapshot, table, status, heat, histogram, text, alarms, incidents } =
  pictureShapes;

/** A panel: one picture, table or text with a title and a place. */
export const panelSchema = z.discriminatedUnion('picture', [
  z.strictObject({ ...ofEvery, ...overTime }),
  z.strictObject({ ...ofEvery, ...ranks }),
  z.strictObject({ ...ofEvery, ...ring }),
  z.strictObject({ ...ofEvery, ...number }),
  z.strictObject({ ...ofEvery, ...gauge }),
  z.strictObject({ ...ofEvery, ...snapshot }),
  z.strictObject({ ...ofEvery, ...table }),
  z.strictObject({ ...ofEvery, ...status }),
  z.strictObject({ ...ofEvery, ...heat }),
  z.strictObject({ ...ofEvery, ...histogram }),
  z.strictObject({ ...ofEvery, ...text }),
  z.strictObject({ ...ofEvery, ...alarms }),
  z.strictObject({ ...ofEvery, ...incidents }),
  z.strictObject({ ...ofEvery, ...pictureShapes.silent }),
  z.strictObject({ ...ofEvery, ...pictureShapes.resources }),
  z.strictObject({ ...ofEvery, ...pictureShapes.marks }),
  z.strictObject({ ...ofEvery, ...pictureShapes.promises }),
  z.strictObject({ ...ofEvery, ...pictureShapes.log })
]);
export type Panel = z.infer<typeof panelSchema>;
export type PictureKind = Panel['picture'];
/** A panel of one or some pictures. @example PanelOf<'gauge'> */
export type PanelOf<Kind extends PictureKind> = Extract<Panel, { picture: Kind }>;
/** Panels over time: lines, areas, stacked areas and bars. */
export type TimePanel = Extract<Panel, { picture: 'lines' | 'areas' | 'stacked' | 'bars' }>;
/** A panel with one signal. */
export type SignalPanel = Extract<Panel, { signal: Signal }>;

/** What a panel shows, before it has an id and a place. */
export type PanelContent = Panel extends infer One ? (One extends Panel ? Omit<One, 'id' | 'place'> : never) : never;

/** A part of a board under a heading that folds. */
export const sectionSchema = z.strictObject({
  id,
  title: z.string().trim().min(1, { error: 'Give the section a title.' }).max(120),
  folded: z.boolean().default(false)
});
export type Section = z.infer<typeof sectionSchema>;

export const boardTitleSchema = z.string().trim().min(1, { error: 'Give the board a title.' }).max(120);

/** What a board is, without what must agree between its parts. */
export const boardShape = {
  title: boardTitleSchema,
  /** One sentence for who opens it. */
  about: z.string().trim().max(400).optional(),
  /** The service whose folder it lies in. */
  service: z.string().min(1).max(60).optional(),
  pickers: z.array(pickerSchema).max(mostPickers).default([]),
  sections: z.array(sectionSchema).max(mostSections).default([]),
  panels: z.array(panelSchema).max(mostPanels),
  /** A step for all panels in place of their own. */
  step: signalSchema.shape.step.optional(),
  /** The range it opens with; three hours by default. */
  range: shownLength.optional(),
  /** How often it is read again; with every sample that arrives by default. */
  refresh: z.enum(refreshes).optional(),
  /** The time zone in which times are shown: an IANA name; the reader's by default. */
  zone: z
    .string()
    .max(60)
    .refine(isZone, { error: 'Give a time zone by its IANA name, such as Europe/Berlin or UTC.' })
    .optional()
};

/**
 * What a board is, without who changed it when.
 *
 * @example boardSchema.parse({ title: 'Tickets', panels: [] }).sections // []
 */
export const boardSchema = z.strictObject(boardShape).superRefine(agree);
export type Board = z.infer<typeof boardSchema>;

/** How boards and their versions are stored. */
export const boardForm: StoredForm<Board> = { what: 'The board', version: 1, schema: boardSchema, upgrades: [] };

/** What must agree between the parts of a board: names are unique, sections exist. For `superRefine`. */
export function agree(
  board: {
    readonly panels: readonly Panel[];
    readonly sections: readonly Section[];
    readonly pickers: readonly Picker[];
  },
  context: z.RefinementCtx
): void {
  const refuse = (message: string, path: (string | number)[]) => context.addIssue({ code: 'custom', message, path });
  const isTwice = (all: readonly string[]) => new Set(all).size < all.length;
  if (isTwice(board.panels.map((panel) => panel.id))) refuse('Two panels have the same id.', ['panels']);
  if (isTwice(board.sections.map((section) => section.id))) refuse('Two sections have the same id.', ['sections']);
  if (isTwice(board.pickers.map(({ name }) => name))) refuse('Two pickers have the same name.', ['pickers']);
  const sections = new Set(board.sections.map((section) => section.id));
  for (const [index, { section }] of board.panels.entries())
    if (section !== undefined && !sections.has(section))
      refuse(`There is no section ${section}.`, ['panels', index, 'section']);
  for (const [index, panel] of board.panels.entries()) {
    const problem = panel.picture === 'gauge' ? limitsProblem(panel) : null;
    if (problem !== null) refuse(problem, ['panels', index, 'danger']);
  }
}

/** Why the limits of a gauge contradict each other, in words; null when they do not. @example limitsProblem({ worse: 'above', warning: 80, danger: 60 }) */
export function limitsProblem({ worse, warning, danger }: Pick<PanelOf<'gauge'>, 'worse' | 'warning' | 'danger'>) {
  if (warning === undefined || danger === undefined) return null;
  if (worse === 'above' ? danger > warning : danger < warning) return null;
  return worse === 'above'
    ? `Danger must be above the warning of ${warning}, since higher values are worse here.`
    : `Danger must be below the warning of ${warning}, since lower values are worse here.`;
}

/** The signals of a panel, in order. @example signalsOf(panel).length // 1 */
export function signalsOf(panel: PanelContent): Signal[] {
  if ('signal' in panel) return [panel.signal];
  return 'columns' in panel ? panel.columns.map(({ signal }) => signal) : [];
}

/** A panel with each of its signals put through something. @example mapSignals(panel, (signal) => ({ ...signal, step: 'PT5M' })) */
export function mapSignals<One extends PanelContent>(panel: One, change: (signal: Signal) => Signal): One {
  if ('signal' in panel) return { ...panel, signal: change(panel.signal) };
  if ('columns' in panel)
    return { ...panel, columns: panel.columns.map((column) => ({ ...column, signal: change(column.signal) })) };
  return panel;
}
