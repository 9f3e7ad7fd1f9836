import {
  barStep,
  maskOf,
  masked,
  secretKinds,
  secretNames,
  type LineRule,
  type Masked,
  type SecretKind,
  type ShownLine
} from '$lib/core/logs';
import { after, before, day, duration, range, type Clock, type Range } from '$lib/core/time';
import type { TextSpan } from '$lib/core/problem/problem';
import { pauses } from '../base/pauses';
import { countLines, searchLines } from './ask';
import { lineRules } from './line-rules';

type Lines = Parameters<typeof searchLines>[0] & { readonly clock: Clock };

/** A line of what is stored on which a rule would have acted. */
export interface RuledLine {
  readonly key: string;
  readonly text: string;
  /** What would have been masked; of a line that would have been left out, nothing. */
  readonly marks: readonly TextSpan[];
  /** What would have been stored. */
  readonly stored: string | null;
}

/** What a rule would have done to lines that are stored. */
export interface TriedRule {
  /** The newest lines of a day that were looked at. */
  readonly tried: number;
  readonly hits: number;
  readonly examples: readonly RuledLine[];
}

/** Lines that masks are tried on: the newest. */
const mostTried = 1000;
const mostExamples = 5;
/** How long counting, and trying a mask, may take, ms of real time. */
const countMs = 5000;
const patienceMs = 5000;

/**
 * Tries a rule on what arrived in the last day.
 *
 * @param accounts whose lines may be seen; null for all
 */
export async function tryRule(server: Lines, rule: LineRule, accounts: readonly number[] | null): Promise<TriedRule> {
  const own = accountsOf(rule, accounts);
  if (rule.does === 'mask') return triedMask(await newestLines(server, '', own), rule.masked);
  const lines = await newestLines(server, rule.search, own, mostExamples);
  const within = lastDay(server);
  const { count, looked } = await countLines(
    server,
    { text: rule.search, range: within, by: 'severity', most: 1, accounts: own },
    countMs
  );
  const examples = lines.map(({ key, text }) => ({ key, text, marks: [], stored: null }));
  return { tried: looked, hits: count, examples };
}

/** A mask that could be put over what is found in stored lines. */
export interface ProposedMask extends TriedRule {
  readonly kind: SecretKind;
  readonly name: string;
}

/** Looks for secrets in what arrived in the last day, and proposes masks for those that none is put over yet. */
export async function proposeMasks(server: Lines, accounts: readonly number[] | null): Promise<ProposedMask[]> {
  const [lines, rules] = await Promise.all([newestLines(server, '', accounts), lineRules(server.db)]);
  const covered = new Set(
    rules.flatMap(({ rule }) => (rule.does === 'mask' && rule.account === null ? [rule.masked.kind] : []))
  );
  const proposals: ProposedMask[] = [];
  for (const kind of secretKinds.filter((one) => !covered.has(one))) {
    const tried = await triedMask(lines, { kind });
    if (tried.hits > 0) proposals.push({ kind, name: secretNames[kind], ...tried });
  }
  return proposals;
}

async function triedMask(lines: readonly ShownLine[], over: Masked): Promise<TriedRule> {
  const mask = maskOf(over);
  const pause = pauses(patienceMs);
  const examples: RuledLine[] = [];
  let hits = 0;
  for (const { key, text } of lines) {
    const marks = mask.spans(text);
    await pause();
    if (marks.length === 0) continue;
    hits++;
    if (examples.length < mostExamples) examples.push({ key, text, marks, stored: masked(text, mask) });
  }
  return { tried: lines.length, hits, examples };
}

async function newestLines(
  server: Lines,
  text: string,
  accounts: readonly number[] | null,
  most = mostTried
): Promise<readonly ShownLine[]> {
  const within = lastDay(server);
  let lines: readonly ShownLine[] = [];
  const asked = { text, range: within, accounts, most, step: barStep(within) };
  for await (const progress of searchLines(server, asked, () => lines.length < most)) ({ lines } = progress);
  return lines;
}

const lastDay = ({ clock }: Lines): Range => range(before(clock.now(), day), after(clock.now(), duration(1)));

/** Of the accounts that may be seen, those that a rule is about. */
const accountsOf = ({ account }: LineRule, accounts: readonly number[] | null): readonly number[] | null =>
  account === null ? accounts : (accounts ?? [account]).filter((id) => id === account);
