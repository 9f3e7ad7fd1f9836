/** What is said of passwords before one is chosen. */
export const passwordHint = 'Ten characters or more, hard to guess: several words that do not belong together.';

/** The zone of the browser, or UTC where it does not say. */
export const browserZone = (): string => Intl.DateTimeFormat().resolvedOptions().timeZone || 'UTC';
