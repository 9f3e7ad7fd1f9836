/** What a spreadsheet takes for the beginning of a formula, also behind blanks and line breaks. */
const formula = /^[\s\uFEFF]*[=+\-@\uFF1D\uFF0B\uFF0D\uFF20]|^[\t\r\n]/;

/**
 * A text that a spreadsheet shows as it stands: one that it would take for a formula is marked as text by an apostrophe, since names come from elsewhere.
 *
 * @example plainCell('=HYPERLINK("x")') // '\'=HYPERLINK("x")'
 */
export const plainCell = (text: string): string => (formula.test(text) ? `'${text}` : text);
