/** The deepest nesting that a file of people may have: readers of nested text work their way down by calling themselves. */
const deepest = 200;

/**
 * The first line on which a text in YAML or JSON may be nested too deeply to be read; null when none is. Counted without reading it: brackets that are not closed, whatever they
 * stand in, and the indicators (`-`, `?`, `:`) and blanks that a line begins with.
 *
 * @example tooDeepLine('['.repeat(1000)) // 1
 */
export function tooDeepLine(text: string): number | null {
  let line = 1;
  let open = 0;
  let lead = 0;
  let isLead = true;
  for (let i = 0; i < text.length; i++) {
    const code = text.charCodeAt(i);
    if (code === lineBreak) {
      line++;
      lead = 0;
      isLead = true;
      continue;
    }
    if (code === bracket || code === brace) open++;
    else if ((code === closingBracket || code === closingBrace) && open > 0) open--;
    if (isLead) {
      isLead = code === blank || code === dash || code === question || code === colon;
      if (isLead) lead++;
    }
    if (open > deepest || lead > 2 * deepest) return line;
  }
  return null;
}

const [lineBreak, blank, dash, question, colon] = [10, 32, 45, 63, 58];
const [bracket, closingBracket, brace, closingBrace] = [91, 93, 123, 125];
