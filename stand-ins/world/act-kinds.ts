/** What can be done with a resource at a provider. */
export const actKinds = ['restart', 'stop', 'start', 'size', 'count'] as const;
export type ActKind = (typeof actKinds)[number];

/** How a provider behaves when something is to be done. */
export const actModes = {
  usual: 'Does what it is told.',
  failing: 'Takes it, and says later that it failed.',
  losing: 'Does it, and cuts the connection instead of answering.',
  lost: 'Cuts the connection before anything is done.',
  slow: 'Takes ten minutes for everything.'
} as const;
export type ActMode = keyof typeof actModes;

export const isActMode = (text: unknown): text is ActMode => typeof text === 'string' && Object.hasOwn(actModes, text);

/** What is to be done; a size or a count where its kind needs one. */
export interface ActOrder {
  readonly resource: string;
  readonly kind: ActKind;
  readonly size?: string | undefined;
  readonly count?: number | undefined;
}

/** Something that was done, or is being done. */
export interface StandInAct extends ActOrder {
  /** Whoever ordered it knows it by this. */
  readonly key: string;
  readonly at: number;
  /** When it has come to its end. */
  readonly until: number;
  readonly fails: boolean;
}
