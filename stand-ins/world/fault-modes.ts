/** Troubles of a whole provider that a person or a test can switch on. */
export const faultModes = {
  usual: 'Answers as it should.',
  malformed: 'Fetches answer with a page that is cut off in the middle.',
  'not-a-number': 'One point in each series has a value that is not a number.',
  'clock-ahead': 'Its clock is an hour ahead.',
  throttled: 'Answers 429 and asks to try again in 30 seconds.',
  refusing: 'Refuses the right to read metrics.',
  late: 'Points become visible two hours late.',
  slow: 'Answers after two seconds.',
  dropping: 'Sends half a page and drops the connection.',
  nonsense: 'Answers with something else altogether.',
  down: 'Answers 503 to everything.'
} as const;
export type FaultMode = keyof typeof faultModes;

/** @example isFaultMode('usual') // true */
export const isFaultMode = (text: unknown): text is FaultMode =>
  typeof text === 'string' && Object.hasOwn(faultModes, text);
