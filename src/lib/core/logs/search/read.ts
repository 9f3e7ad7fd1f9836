import {
  createToken,
  EmbeddedActionsParser,
  EOF,
  Lexer,
  type ILexingError,
  type IRecognitionException,
  type IToken
} from 'chevrotain';
import { RE2JS } from 're2js';
import { placeOf, readerOf } from '../../forms/language';
import { Refusal, type TextSpan } from '../../problem/problem';
import { lineSeverities, severityFromText } from '../severity';
import { mostSearchCharacters, mostSearchDepth } from './limits';
import type { Comparison as Operator, Search } from './tree';
import { wordsIn } from './words';

const Space = createToken({ name: 'Space', pattern: /\s+/, group: Lexer.SKIPPED, line_breaks: true });
const Quoted = createToken({ name: 'Quoted', pattern: /"(?:[^"\\]|\\[^])*"/, line_breaks: true });
const Open = createToken({ name: 'Open', pattern: /\(/ });
const Close = createToken({ name: 'Close', pattern: /\)/ });
const Sign = createToken({ name: 'Sign', pattern: /!=|<=|>=|[=<>≠≤≥]/ });
const Word = createToken({ name: 'Word', pattern: /(?:[^\s()"=<>!≠≤≥]|!(?!=))+/ });
const keyword = (name: string, word: RegExp, more: object = {}) =>
  createToken({ name, pattern: word, longer_alt: Word, ...more });
const And = keyword('And', /and/i);
const Or = keyword('Or', /or/i);
const Not = keyword('Not', /not/i);
const Has = keyword('Has', /has/i);
const Matches = keyword('Matches', /matches/i, { push_mode: 'pattern' });
/** A regular expression between slashes; only after `matches`, so that paths are words. */
const Pattern = createToken({ name: 'Pattern', pattern: /\/(?:[^/\\]|\\[^])+\//, line_breaks: true, pop_mode: true });

const modes = {
  usual: [Space, Quoted, Open, Close, Sign, And, Or, Not, Has, Matches, Word],
  pattern: [Space, Pattern]
};
const lexer = new Lexer({ modes, defaultMode: 'usual' }, { positionTracking: 'onlyOffset' });
const tokens = [...modes.usual, Pattern];

/**
 * The grammar, loosest first: clauses beside each other, which all hold; `or`; `and`; `not`. So `killed or "out of memory" service = clusters` looks for either on that service.
 */
class SearchParser extends EmbeddedActionsParser {
  constructor() {
    super(tokens, { maxLookahead: 2 });
    this.performSelfAnalysis();
  }

  readonly whole = this.RULE('whole', (): Search => {
    const parts: Search[] = [];
    this.MANY(() => parts.push(this.SUBRULE(this.either)));
    this.CONSUME(EOF);
    return this.ACTION(() => joined('all', parts));
  });

  private readonly either = this.RULE('either', (): Search => {
    const parts = [this.SUBRULE(this.both)];
    this.MANY(() => {
      this.CONSUME(Or);
      parts.push(this.SUBRULE2(this.both));
    });
    return this.ACTION(() => joined('any', parts));
  });

  private readonly both = this.RULE('both', (): Search => {
    const parts = [this.SUBRULE(this.negated)];
    this.MANY(() => {
      this.CONSUME(And);
      parts.push(this.SUBRULE2(this.negated));
    });
    return this.ACTION(() => joined('all', parts));
  });

  private readonly negated = this.RULE('negated', (): Search =>
    this.OR([
      {
        ALT: () => {
          const not = this.CONSUME(Not);
          const of = this.SUBRULE(this.negated);
          return this.ACTION((): Search => ({ kind: 'not', of, at: [not.startOffset, of.at[1]] }));
        }
      },
      { ALT: () => this.SUBRULE(this.bracketed) },
      { ALT: () => this.SUBRULE(this.present) },
      { ALT: () => this.SUBRULE(this.termed) }
    ])
  );

  private readonly bracketed = this.RULE('bracketed', (): Search => {
    const parts: Search[] = [];
    this.CONSUME(Open);
    this.AT_LEAST_ONE(() => parts.push(this.SUBRULE(this.either)));
    this.CONSUME(Close);
    return this.ACTION(() => joined('all', parts));
  });

  private readonly present = this.RULE('present', (): Search => {
    const has = this.CONSUME(Has);
    const field = this.SUBRULE(this.operand);
    return this.ACTION((): Search => ({ kind: 'has', field: textOf(field), at: [has.startOffset, placeOf(field)[1]] }));
  });

  /** Words, or a field with what is asked of it. */
  private readonly termed = this.RULE('termed', (): Search => {
    const first = this.SUBRULE(this.operand);
    let search: Search = this.ACTION(() => wordsOf(first));
    this.OPTION(() =>
      this.OR([
        {
          ALT: () => {
            const sign = this.CONSUME(Sign);
            const value = this.SUBRULE2(this.operand);
            search = this.ACTION(() => comparisonOf(first, sign, value));
          }
        },
        {
          ALT: () => {
            this.CONSUME(Matches);
            const pattern = this.CONSUME(Pattern);
            search = this.ACTION(() => matchOf(first, pattern));
          }
        }
      ])
    );
    return search;
  });

  private readonly operand = this.RULE('operand', (): IToken =>
    this.OR([{ ALT: () => this.CONSUME(Word) }, { ALT: () => this.CONSUME(Quoted) }])
  );
}

/** Several parts as one: those of the same kind come together, and one alone stands for itself. */
function joined(kind: 'all' | 'any', parts: readonly Search[]): Search {
  const [first] = parts;
  if (first !== undefined && parts.length === 1) return first;
  const flat = parts.flatMap((part) => (part.kind === kind ? part.parts : [part]));
  return { kind, parts: flat, at: [flat[0]?.at[0] ?? 0, flat.at(-1)?.at[1] ?? 0] };
}

const isQuoted = ({ tokenType }: IToken): boolean => tokenType === Quoted;
const textOf = (token: IToken): string =>
  isQuoted(token) ? token.image.slice(1, -1).replace(/\\([^])/g, '$1') : token.image;

function wordsOf(token: IToken): Search {
  const text = textOf(token);
  if (wordsIn(text, !isQuoted(token)).length === 0)
    throw refusal(`There is no word in ${token.image}: lines are searched by letters and digits.`, placeOf(token));
  return { kind: 'words', text, quoted: isQuoted(token), at: placeOf(token) };
}

const signs: Readonly<Record<string, Operator>> = { '≠': '!=', '≤': '<=', '≥': '>=' };
/** A number as it is typed. @example isNumeral('-1.5e3') // true */
export const isNumeral = (text: string): boolean => /^[+-]?(?:\d+(?:\.\d*)?|\.\d+)(?:e[+-]?\d+)?$/i.test(text);

function comparisonOf(first: IToken, sign: IToken, second: IToken): Search {
  const operator = signs[sign.image] ?? (sign.image as Operator);
  const [field, value] = [textOf(first), textOf(second)];
  const isOrder = operator !== '=' && operator !== '!=';
  if (field === 'severity') {
    if (!/^\d{1,2}$/.test(value) && severityFromText(value) === null)
      throw refusal(
        `There is no severity “${value}”: there are ${lineSeverities.join(', ')}, and numbers from 1 to 24.`,
        placeOf(second)
      );
  } else if (isOrder && (isQuoted(second) || !isNumeral(value)))
    throw refusal(
      `“${value}” is no number: only numbers and severities are above or below each other.`,
      placeOf(second)
    );
  return {
    ...{ kind: 'compare', field, operator, value, quoted: isQuoted(second) },
    at: [first.startOffset, placeOf(second)[1]]
  };
}

function matchOf(first: IToken, { image, startOffset }: IToken): Search {
  const pattern = image.slice(1, -1).replace(/\\\//g, '/');
  try {
    RE2JS.compile(pattern);
  } catch (error) {
    const why = error instanceof Error ? error.message.replace(/^error parsing regexp: /, '') : '';
    throw refusal(`This pattern cannot be read: ${why}.`, [startOffset, startOffset + image.length]);
  }
  return { kind: 'matches', field: textOf(first), pattern, at: [first.startOffset, startOffset + image.length] };
}

/** Brackets and `not` make the tree deep; deep trees would exhaust the stack of whoever walks them. */
function refuseDepth(read: readonly IToken[]): void {
  let open = 0;
  let negated = 0;
  for (const token of read) {
    if (token.tokenType === Open) open++;
    else if (token.tokenType === Close) open--;
    negated = token.tokenType === Not ? negated + 1 : token.tokenType === Open ? negated : 0;
    if (open + negated > mostSearchDepth)
      throw refusal(`Brackets and “not” are nested deeper than ${mostSearchDepth} here.`, placeOf(token));
  }
}

const refusal = (message: string, place: TextSpan): Refusal =>
  new Refusal('search-invalid', message, 'Fix the search at the marked place.', { place });

function strange({ offset, length }: ILexingError, text: string): Refusal {
  const found = text.slice(offset, offset + length);
  if (found.startsWith('"')) return refusal('The quotes that begin here do not end.', [offset, text.length]);
  if (/matches\s*$/i.test(text.slice(0, offset)))
    return refusal('After “matches” comes a pattern between slashes, such as /timeout after \\d+/.', [
      offset,
      text.length
    ]);
  return refusal(`“${found}” has no meaning in a search: put it in quotes.`, [offset, offset + length]);
}

function unexpected({ token }: IRecognitionException, text: string): Refusal {
  if (token.tokenType === EOF)
    return refusal('The search ends too early: something is missing here.', [text.length, text.length]);
  const isWord = [And, Or, Has, Matches].includes(token.tokenType);
  return refusal(
    `“${token.image}” is not expected here${isWord ? ': to look for the word, put it in quotes' : ''}.`,
    placeOf(token)
  );
}

/**
 * Reads a search of lines. One that is empty is every line.
 *
 * @throws Refusal `search-invalid` with the place of what cannot be read, also when it is longer or deeper than allowed
 * @example readSearch('service = clusters') // { kind: 'compare', field: 'service', operator: '=', value: 'clusters', quoted: false, at: [0, 18] }
 */
export const readSearch = readerOf<Search>({
  ...{
    lexer,
    parser: () => new SearchParser(),
    mostCharacters: mostSearchCharacters,
    strange,
    unexpected,
    refuseDepth
  },
  tooLong: ({ length }) =>
    refusal(`The search has ${length} characters; at most ${mostSearchCharacters} are read.`, [
      mostSearchCharacters,
      length
    ])
});
