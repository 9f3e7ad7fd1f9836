import { mendedText } from '../../forms/storable';
import { Refusal } from '../../problem/problem';
import { instant } from '../../time';
import { mostSeverity } from '../severity';
import { withoutSequences } from '../shown';
import type { Line, LogFields, LogValue, Origin } from '../line';

/** A line as it arrives, before it is known where it belongs. */
export type ArrivedLine = Omit<Line, 'origin' | 'resourceId'>;

/** Lines of one origin. */
export interface ArrivedLines {
  readonly origin: Origin;
  readonly lines: readonly ArrivedLine[];
}

/** Why lines are refused, or kept in part. */
export const lineFaults = {
  unreadable: 'cannot be read',
  badTime: 'no possible time',
  future: 'more than ten minutes ahead',
  cut: 'longer than is stored, the rest was left out',
  fields: 'more fields than are stored, the others were left out',
  page: 'whole pages that cannot be read',
  limit: 'beyond what the key may send in a day'
} as const;
export type LineFault = (typeof lineFaults)[keyof typeof lineFaults];

/** What was read, and what could not be. */
export interface Arrived {
  readonly batches: readonly ArrivedLines[];
  /** Lines that were not taken. */
  readonly refused: number;
  /** How many lines have what is wrong with them, those that were kept in part among them, with the first example. */
  readonly faults: readonly { readonly fault: LineFault; readonly count: number; readonly example: string }[];
}

/** What a line may have: characters of its text and of a value, fields, values in a list or a map, and how deep they lie within each other. */
export const lineLimits = { text: 262_144, value: 32_768, fields: 256, name: 200, values: 500, depth: 16 } as const;
/** Lines of one request, and origins that they may have. */
export const mostArriving = 100_000;
export const mostOrigins = 1000;
/** With so many lines that cannot be read, what was sent is something else than it says: it is refused whole. */
const mostUnreadable = 1000;
/** A line further ahead of now than this comes from a clock that is wrong, ms. */
export const toleratedAhead = 600_000;
const earliest = Date.UTC(1990, 0, 1);

/** A line as it was read, before anything of it is checked. */
export interface LineDraft {
  /** Nanoseconds since 1970; null where it says none. */
  readonly time: bigint | null;
  readonly observed: bigint | null;
  readonly severity: number;
  readonly severityText: string;
  readonly body: LogValue;
  readonly fields: LogFields;
  readonly fieldsDropped: number;
  readonly trace: string;
  readonly span: string;
  readonly flags: number;
  readonly event: string;
}

/** What a line without more to say is. */
export const plainDraft: Omit<LineDraft, 'body'> = {
  ...{ time: null, observed: null, severity: 0, severityText: '', fields: {}, fieldsDropped: 0 },
  ...{ trace: '', span: '', flags: 0, event: '' }
};

/**
 * Puts lines of the same origin together as they come, within limits, and counts what is refused or left out.
 *
 * @param now lines much later than this are refused; those without a time are of now
 */
export class LineGatherer {
  readonly #now: number;
  readonly #textOf: (body: LogValue) => string;
  readonly #byOrigin = new Map<Origin, ArrivedLine[]>();
  readonly #faults = new Map<LineFault, { count: number; example: string }>();
  #lines = 0;
  #refused = 0;

  constructor(now: number, textOf: (body: LogValue) => string) {
    this.#now = now;
    this.#textOf = textOf;
  }

  /** @param where the line stands, for what is said of it */
  add(origin: Origin, draft: LineDraft, where: string): void {
    const time = draft.time ?? draft.observed;
    const at = time === null ? this.#now : Number(time / 1_000_000n);
    if (!(at >= earliest) || at > 253_402_300_799_999) {
      this.refuse(lineFaults.badTime, `${where}: its time is not between 1990 and 9999.`);
      return;
    }
    if (at > this.#now + toleratedAhead) {
      this.refuse(lineFaults.future, `${where}: its time is more than ten minutes ahead of now.`);
      return;
    }
    if (++this.#lines > mostArriving)
      throw new Refusal('too-large', `There are more than ${mostArriving} lines.`, 'Send them in several requests.');
    let lines = this.#byOrigin.get(origin);
    if (lines === undefined) {
      if (this.#byOrigin.size >= mostOrigins)
        throw new Refusal(
          'too-large',
          `The lines are of more than ${mostOrigins} programs.`,
          'Send them in several requests.'
        );
      this.#byOrigin.set(origin, (lines = []));
    }
    lines.push(this.#lineOf(draft, at, time, where));
  }

  refuse(fault: LineFault, example: string): void {
    this.#refused++;
    this.note(fault, example);
    if (this.#refused >= mostUnreadable && this.#lines === 0)
      throw new Refusal(
        'unreadable',
        `Nothing of it can be read as lines. ${mendedText(example).slice(0, 300)}`,
        'Send lines in the format that the address is for.'
      );
  }

  /** Counts what was left out of a line that is kept. */
  note(fault: LineFault, example: string): void {
    const known = this.#faults.get(fault);
    if (known === undefined) this.#faults.set(fault, { count: 1, example: mendedText(example).slice(0, 300) });
    else known.count++;
  }

  result(): Arrived {
    return {
      batches: [...this.#byOrigin].map(([origin, lines]) => ({ origin, lines })),
      refused: this.#refused,
      faults: [...this.#faults].map(([fault, { count, example }]) => ({ fault, count, example }))
    };
  }

  #lineOf(draft: LineDraft, at: number, time: bigint | null, where: string): ArrivedLine {
    const said = this.#textOf(draft.body);
    // Colours of a terminal would stand in the way of whoever reads and searches: the body has them.
    const whole = withoutSequences(said).toWellFormed();
    const isCut = whole.length > lineLimits.text;
    if (isCut) this.note(lineFaults.cut, `${where}: it has ${whole.length} characters, ${lineLimits.text} are stored.`);
    const entries = Object.entries(draft.fields);
    const kept = entries.slice(0, lineLimits.fields);
    const left = entries.length - kept.length;
    if (left > 0)
      this.note(lineFaults.fields, `${where}: it has ${entries.length} fields, ${lineLimits.fields} are stored.`);
    const isText = typeof draft.body === 'string' && whole === said;
    const severity = Number.isInteger(draft.severity) ? Math.max(0, Math.min(mostSeverity, draft.severity)) : 0;
    return {
      at: instant(at),
      nanos: time === null ? 0 : Number(time % 1_000_000n),
      observed:
        draft.observed === null || draft.time === null
          ? null
          : { at: instant(Number(draft.observed / 1_000_000n)), nanos: Number(draft.observed % 1_000_000n) },
      severity,
      severityText: draft.severityText.slice(0, lineLimits.name).toWellFormed(),
      text: isCut ? whole.slice(0, lineLimits.text).toWellFormed() : whole,
      ...(isText || isCut ? {} : { body: draft.body }),
      fields: left > 0 ? Object.fromEntries(kept) : draft.fields,
      fieldsDropped: Math.min(0xffffffff, draft.fieldsDropped + left),
      ...{ trace: draft.trace, span: draft.span, flags: draft.flags },
      event: draft.event.slice(0, lineLimits.name).toWellFormed()
    };
  }
}
