/**
 * A text read as JSON; null when it is none, so that the schema it is held to says what is missing.
 *
 * @example jsonOrNull('{"a":') // null
 */
export function jsonOrNull(text: string): unknown {
  try {
    return JSON.parse(text) as unknown;
  } catch (error) {
    if (error instanceof SyntaxError) return null;
    throw error;
  }
}
