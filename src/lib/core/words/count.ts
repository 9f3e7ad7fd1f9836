/** The form of a word that goes with a number. @example formOf(2, 'is', 'are') // 'are' */
export const formOf = (count: number, one: string, several = `${one}s`): string => (count === 1 ? one : several);

/**
 * A number with the form of its noun, thousands separated.
 *
 * @param several the plural where it is not formed by an s
 * @example countOf(1204, 'resource') // '1,204 resources'
 */
export const countOf = (count: number, one: string, several?: string): string =>
  `${count.toLocaleString('en')} ${formOf(count, one, several)}`;
