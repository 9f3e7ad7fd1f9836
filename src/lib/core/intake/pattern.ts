import picomatch from 'picomatch';

/**
 * Whether a text is matched by any of some patterns: `*` stands for any characters, `?` for one. Nothing else is special, so that a pattern cannot take
 * long to match.
 *
 * @example matchesAny(['lab-*'], 'lab-3') // true
 */
export function matchesAny(patterns: readonly string[], text: string): boolean {
  return patterns.some((pattern) => picomatch.isMatch(text, escaped(pattern), options));
}

const options = {
  bash: true,
  dot: true,
  nobrace: true,
  noextglob: true,
  nonegate: true,
  nobracket: true,
  strictSlashes: true
};

/** Brackets, braces and the like are what they are. */
const escaped = (pattern: string): string => pattern.replace(/[\\[\]{}()!+@|^$]/g, '\\$&').replace(/\*{2,}/g, '*');
