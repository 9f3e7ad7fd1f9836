import { placeOf, readerOf } from '../forms/language';
import { Refusal } from '../problem/problem';
import {
  createToken,
  EmbeddedActionsParser,
  EOF,
  Lexer,
  type ILexingError,
  type IRecognitionException,
  type IToken
} from 'chevrotain';
import { type Formula, type Operator } from './tree';

/** Longest formula, and how deep its brackets may go. */
export const mostFormulaCharacters = 2000;
export const mostFormulaDepth = 60;

const unitsOfTime: Readonly<Record<string, number>> = {
  s: 1000,
  second: 1000,
  min: 60_000,
  minute: 60_000,
  h: 3_600_000,
  hour: 3_600_000,
  d: 86_400_000,
  day: 86_400_000,
  week: 604_800_000
};

const Space = createToken({ name: 'Space', pattern: /\s+/, group: Lexer.SKIPPED });
const Length = createToken({
  name: 'Length',
  pattern: /\d+(?:\.\d+)?\s*(?:seconds?|minutes?|hours?|days?|weeks?|min|s|h|d)(?![A-Za-z0-9_])/,
  line_breaks: true
});
const Numeral = createToken({ name: 'Numeral', pattern: /(?:\d+(?:\.\d+)?|\.\d+)(?:[eE][+-]?\d+)?/ });
const Name = createToken({ name: 'Name', pattern: /[A-Za-z][A-Za-z0-9_]*/ });
const Comparison = createToken({ name: 'Comparison', pattern: /<=|>=|!=|=|<|>/ });
const Additive = createToken({ name: 'Additive', pattern: /[+-]/ });
const Multiplicative = createToken({ name: 'Multiplicative', pattern: /[*/]/ });
const Power = createToken({ name: 'Power', pattern: /\^/ });
const Open = createToken({ name: 'Open', pattern: /\(/ });
const Close = createToken({ name: 'Close', pattern: /\)/ });
const Comma = createToken({ name: 'Comma', pattern: /,/ });
const tokens = [Space, Length, Numeral, Name, Comparison, Additive, Multiplicative, Power, Open, Close, Comma];

const lexer = new Lexer(tokens, { positionTracking: 'onlyOffset' });

/** The grammar, loosest first: comparison, sum, product, sign, power. Comparisons do not chain; powers group to the right. */
class FormulaParser extends EmbeddedActionsParser {
  constructor() {
    super(tokens, { maxLookahead: 2 });
    this.performSelfAnalysis();
  }

  readonly whole = this.RULE('whole', (): Formula => {
    const formula = this.SUBRULE(this.comparison);
    this.CONSUME(EOF);
    return formula;
  });

  private readonly comparison = this.RULE('comparison', (): Formula => {
    let left = this.SUBRULE(this.sum);
    this.OPTION(() => {
      const operator = this.CONSUME(Comparison);
      const right = this.SUBRULE2(this.sum);
      left = this.ACTION(() => binary(operator, left, right));
    });
    return left;
  });

  private readonly sum = this.RULE('sum', (): Formula => {
    let left = this.SUBRULE(this.product);
    this.MANY(() => {
      const operator = this.CONSUME(Additive);
      const right = this.SUBRULE2(this.product);
      left = this.ACTION(() => binary(operator, left, right));
    });
    return left;
  });

  private readonly product = this.RULE('product', (): Formula => {
    let left = this.SUBRULE(this.signed);
    this.MANY(() => {
      const operator = this.CONSUME(Multiplicative);
      const right = this.SUBRULE2(this.signed);
      left = this.ACTION(() => binary(operator, left, right));
    });
    return left;
  });

  private readonly signed = this.RULE('signed', (): Formula =>
    this.OR([
      {
        ALT: () => {
          const sign = this.CONSUME(Additive);
          const of = this.SUBRULE(this.signed);
          return this.ACTION((): Formula =>
            sign.image === '+' ? of : { kind: 'negative', of, at: [sign.startOffset, of.at[1]] }
          );
        }
      },
      { ALT: () => this.SUBRULE(this.power) }
    ])
  );

  private readonly power = this.RULE('power', (): Formula => {
    let left = this.SUBRULE(this.atom);
    this.OPTION(() => {
      const operator = this.CONSUME(Power);
      const right = this.SUBRULE(this.signed);
      left = this.ACTION(() => binary(operator, left, right));
    });
    return left;
  });

  private readonly atom = this.RULE('atom', (): Formula =>
    this.OR([
      {
        ALT: () => {
          const token = this.CONSUME(Length);
          return this.ACTION((): Formula => ({
            kind: 'duration',
            milliseconds: lengthOf(token.image),
            at: placeOf(token)
          }));
        }
      },
      {
        ALT: () => {
          const token = this.CONSUME(Numeral);
          return this.ACTION((): Formula => ({ kind: 'number', value: Number(token.image), at: placeOf(token) }));
        }
      },
      { ALT: () => this.SUBRULE(this.named) },
      {
        ALT: () => {
          this.CONSUME(Open);
          const inner = this.SUBRULE(this.comparison);
          this.CONSUME(Close);
          return inner;
        }
      }
    ])
  );

  /** A row's name, or a function with its parts. */
  private readonly named = this.RULE('named', (): Formula => {
    const name = this.CONSUME(Name);
    let formula: Formula = this.ACTION((): Formula => ({ kind: 'name', name: name.image, at: placeOf(name) }));
    this.OPTION(() => {
      const parts: Formula[] = [];
      this.CONSUME(Open);
      this.MANY_SEP({ SEP: Comma, DEF: () => parts.push(this.SUBRULE(this.comparison)) });
      const close = this.CONSUME(Close);
      formula = this.ACTION((): Formula => ({
        kind: 'call',
        name: name.image,
        parts,
        at: [name.startOffset, close.startOffset + 1]
      }));
    });
    return formula;
  });
}

/** Brackets, signs and powers make the tree deep; deep trees would exhaust the stack of whoever walks them. */
function refuseDepth(read: readonly IToken[]): void {
  let open = 0;
  let chained = 0;
  for (const token of read) {
    if (token.tokenType === Open) open++;
    else if (token.tokenType === Close) open--;
    else if (token.tokenType === Power || token.tokenType === Additive) chained++;
    if (open > mostFormulaDepth || chained > 4 * mostFormulaDepth)
      throw new Refusal(
        'formula-invalid',
        open > mostFormulaDepth
          ? `Brackets are nested deeper than ${mostFormulaDepth} here.`
          : `There are more than ${4 * mostFormulaDepth} signs and powers up to here.`,
        formulaRemedy,
        { place: placeOf(token) }
      );
  }
}

const strange = ({ offset, length }: ILexingError, text: string): Refusal =>
  new Refusal(
    'formula-invalid',
    `“${text.slice(offset, offset + length)}” has no meaning in a formula.`,
    formulaRemedy,
    { place: [offset, offset + length] }
  );

function unexpected({ token }: IRecognitionException, text: string): Refusal {
  if (text.trim() === '')
    return new Refusal('formula-invalid', 'The formula is empty.', formulaRemedy, { place: [0, text.length] });
  if (token.tokenType === EOF)
    return new Refusal('formula-invalid', 'The formula ends too early: something is missing here.', formulaRemedy, {
      place: [text.length, text.length]
    });
  if (token.tokenType === Comparison)
    return new Refusal('formula-invalid', 'Comparisons do not chain: put one of them in brackets.', formulaRemedy, {
      place: placeOf(token)
    });
  return new Refusal('formula-invalid', `“${token.image}” is not expected here.`, formulaRemedy, {
    place: placeOf(token)
  });
}

/** What to do about a formula that cannot be read. */
const formulaRemedy = 'Fix the formula at the marked place.';

function binary(operator: IToken, left: Formula, right: Formula): Formula {
  return { kind: 'binary', operator: operator.image as Operator, left, right, at: [left.at[0], right.at[1]] };
}

function lengthOf(image: string): number {
  const [, count = '', name = ''] = /^([\d.]+)\s*([a-z]+)$/.exec(image) ?? [];
  const length = unitsOfTime[name] ?? unitsOfTime[name.replace(/s$/, '')] ?? NaN;
  return Math.round(Number(count) * length);
}

/**
 * Reads a formula.
 *
 * @throws Refusal `formula-invalid` with the place of what cannot be read, also when it is longer or deeper than allowed
 * @example readFormula('-a ^ 2') // { kind: 'negative', of: { kind: 'binary', operator: '^', … }, at: [0, 6] }
 */
export const readFormula = readerOf<Formula>({
  ...{
    lexer,
    parser: () => new FormulaParser(),
    mostCharacters: mostFormulaCharacters,
    strange,
    unexpected,
    refuseDepth
  },
  tooLong: ({ length }) =>
    new Refusal(
      'formula-invalid',
      `The formula has ${length} characters; at most ${mostFormulaCharacters} are read.`,
      formulaRemedy,
      { place: [mostFormulaCharacters, length] }
    )
});
