import type { EmbeddedActionsParser, ILexingError, IRecognitionException, IToken, Lexer } from 'chevrotain';
import type { Refusal, TextSpan } from '../problem/problem';

/** A small language that people type, such as that of formulas. */
export interface Language<Tree> {
  readonly lexer: Lexer;
  /** Makes its parser: when it is first needed, since that takes a while. */
  readonly parser: () => EmbeddedActionsParser & { readonly whole: () => Tree };
  readonly mostCharacters: number;
  /** Why a text is refused: too long, with characters that mean nothing, or with a part that is not expected. */
  readonly tooLong: (text: string) => Refusal;
  readonly strange: (error: ILexingError, text: string) => Refusal;
  readonly unexpected: (error: IRecognitionException, text: string) => Refusal;
  /** Refuses what would make the tree too deep for whoever walks it. */
  readonly refuseDepth: (tokens: readonly IToken[]) => void;
}

/**
 * A function that reads texts of a language.
 *
 * @returns what reads; it throws what the language says of the first fault of a text
 * @example const readFormula = readerOf(formulas); readFormula('a + 1')
 */
export function readerOf<Tree>(language: Language<Tree>): (text: string) => Tree {
  const { lexer, mostCharacters, tooLong, strange, unexpected, refuseDepth } = language;
  let parser: ReturnType<typeof language.parser> | null = null;
  return (text) => {
    if (text.length > mostCharacters) throw tooLong(text);
    const { tokens, errors } = lexer.tokenize(text);
    if (errors[0]) throw strange(errors[0], text);
    refuseDepth(tokens);
    parser ??= language.parser();
    parser.input = tokens;
    const tree = parser.whole();
    const [problem] = parser.errors;
    if (problem) throw unexpected(problem, text);
    return tree;
  };
}

/** Where a token stands in its text. */
export const placeOf = ({ startOffset, image }: IToken): TextSpan => [startOffset, startOffset + image.length];
