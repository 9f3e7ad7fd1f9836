/** How something behaves that is looked at from outside, and what that is called on its page. */
export const frontBehaviours = {
  well: 'answers as it should',
  slow: 'answers after three seconds',
  failing: 'answers with an error',
  wrong: 'answers, but not what is expected',
  silent: 'never answers',
  closed: 'ends every connection at once'
} as const;
export type FrontBehaviour = keyof typeof frontBehaviours;

/** @example isFrontBehaviour('well') // true */
export const isFrontBehaviour = (text: unknown): text is FrontBehaviour =>
  typeof text === 'string' && Object.hasOwn(frontBehaviours, text);

export const slowMs = 3000;
