/** Troubles of a whole provider that a person or a test can switch on. */
export const faultModes = {
  usual: 'Answers normally.',
  malformed: 'Sends pages that are cut off in the middle.',
  'not-a-number': 'One point in each series has a value that is not a number.',
  'clock-ahead': 'Its clock is an hour ahead.',
  throttled: 'Answers 429 with a retry delay of 30 seconds.',
  refusing: 'Refuses to let metrics be read.',
  late: 'Points become visible two hours late.',
  slow: 'Answers after two seconds.',
  dropping: 'Sends half a page and drops the connection.',
  nonsense: 'Answers with text that is no answer.',
  down: 'Answers 503 to everything.'
} as const;
export type FaultMode = keyof typeof faultModes;

/** @example isFaultMode('usual') // true */
export const isFaultMode = (text: unknown): text is FaultMode =>
  typeof text === 'string' && Object.hasOwn(faultModes, text);
