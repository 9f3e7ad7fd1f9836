const strict = new TextDecoder('utf-8', { fatal: true });
const lineBreak = 10;

/**
 * The text of bytes. Lines that are no UTF-8 are empty in it, so that the others keep their numbers.
 *
 * @returns the text, and the numbers of the lines that are no UTF-8, from 1
 * @example linesOfBytes(Uint8Array.of(0x61, 0x0a, 0xff)) // { text: 'a\n', broken: [2] }
 */
export function linesOfBytes(bytes: Uint8Array): { readonly text: string; readonly broken: readonly number[] } {
  const whole = decoded(bytes);
  if (whole !== null) return { text: whole, broken: [] };
  const lines: string[] = [];
  const broken: number[] = [];
  for (let start = 0; start <= bytes.length;) {
    const found = bytes.indexOf(lineBreak, start);
    const end = found === -1 ? bytes.length : found;
    const line = decoded(bytes.subarray(start, end));
    lines.push(line ?? '');
    if (line === null) broken.push(lines.length);
    start = end + 1;
  }
  return { text: lines.join('\n'), broken };
}

function decoded(bytes: Uint8Array): string | null {
  try {
    return strict.decode(bytes);
  } catch (error) {
    if (error instanceof TypeError) return null;
    throw error;
  }
}
