import { cannotGive, isOfGrowth, statisticName } from '../series';
import { duration, spokenDuration, textFromDuration } from '../time';
import { unit } from '../units';
import { fixedStepOf, isFormula, isPick, shownRows, type FormulaRow, type Signal, type SignalPick } from './schema';

/** What a check looks at of a metric. */
export interface CheckedMetric {
  readonly title: string;
  readonly kind: string;
  readonly shape: string;
  readonly samplingMs: number;
}

/** The result of a signal, as far as it is known yet. */
export interface CheckedAnswer {
  readonly rows: readonly { readonly name: string; readonly unit: string }[];
  readonly notes: readonly { readonly row: string; readonly text: string }[];
  /** Shown series that have a gap before the cells still being filled. */
  readonly withGaps: number;
  readonly series: number;
}

/** One sentence about a signal; what is amiss can be fixed by putting another in its place. */
export interface Finding {
  readonly passed: boolean;
  readonly text: string;
  readonly mend: { readonly text: string; readonly signal: Signal } | null;
}

/**
 * What is worth knowing of a signal: mistakes first, each with what fixes it where one click can, then what is in order.
 *
 * @param metricOf what is known of a metric by its name or pattern
 * @param answer null while it is not computed
 * @example findingsOf(signal, metricOf, null)[0] // { passed: false, text: 'Bytes is a running total …', mend: … }
 */
export function findingsOf(
  signal: Signal,
  metricOf: (metric: string) => CheckedMetric | undefined,
  answer: CheckedAnswer | null
): Finding[] {
  const findings = signal.rows.flatMap((row): Finding[] => {
    const metric = isPick(row) ? metricOf(row.metric) : undefined;
    if (!isPick(row) || !metric) return [];
    return [totalFinding, shapeFinding, samplingFinding].flatMap((check) => check(signal, row, metric) ?? []);
  });
  if (answer) {
    for (const { row, text } of answer.notes)
      findings.push({ passed: false, text: signal.rows.length > 1 ? `${row}: ${text}` : text, mend: null });
    findings.push(...unitFinding(signal, answer), ...gapFinding(signal, answer));
  }
  const seen = new Set<string>();
  return findings
    .filter(({ text }) => !seen.has(text) && seen.add(text))
    .sort((one, other) => Number(one.passed) - Number(other.passed));
}

type Check = (signal: Signal, pick: SignalPick, metric: CheckedMetric) => Finding | null;

const totalFinding: Check = (signal, pick, { title, kind }) => {
  if (kind === 'cumulative' && !isOfGrowth(pick.statistic) && pick.statistic !== 'count')
    return {
      passed: false,
      text: `${title} is a running total: drawn raw it only climbs.`,
      mend: mended('Draw its rate', signal, pick, { statistic: 'rate' })
    };
  return isOfGrowth(pick.statistic) && kind === 'cumulative'
    ? {
        passed: true,
        text: `${title} is a running total, drawn as its ${statisticName(pick.statistic)}; resets are handled.`,
        mend: null
      }
    : null;
};

const shapeFinding: Check = (signal, pick, { title, kind, shape }) => {
  const why = cannotGive(pick.statistic, shape, kind);
  return why === null
    ? null
    : { passed: false, text: `${title}: ${why}`, mend: mended('Take the average', signal, pick, { statistic: 'avg' }) };
};

const samplingFinding: Check = (signal, { name }, { title, samplingMs }) => {
  const step = fixedStepOf(signal);
  if (step === null || isWatchedBy(signal, name) === false) return null;
  const sampling = duration(samplingMs);
  if (step < samplingMs)
    return {
      passed: false,
      text: `${title} comes every ${spokenDuration(sampling)}: cells of ${spokenDuration(step)} have gaps between.`,
      mend: {
        text: `Take cells of ${spokenDuration(sampling)}`,
        signal: { ...signal, step: textFromDuration(sampling) }
      }
    };
  return {
    passed: true,
    text: `Cells of ${spokenDuration(step)} fit ${title.toLowerCase()}, which comes every ${spokenDuration(sampling)}.`,
    mend: null
  };
};

/** Whether a row plays a part in what is shown: it is shown, or some formula may use it. */
const isWatchedBy = (signal: Signal, name: string): boolean =>
  shownRows(signal).includes(name) || signal.rows.some(isFormula);

function unitFinding(signal: Signal, { rows }: CheckedAnswer): Finding[] {
  const units = [...new Set(rows.map((row) => row.unit))];
  if (units.length > 1) {
    const [first] = rows;
    return [
      {
        passed: false,
        text: `One axis would mix ${units.map((code) => unit(code).text || 'plain numbers').join(' and ')}.`,
        mend: first ? { text: `Show only ${first.name}`, signal: { ...signal, show: [first.name] } } : null
      }
    ];
  }
  return [];
}

/** Gaps in the rows of a division are gaps of the result: a metric that says nothing when nothing happens needs zeros. */
function gapFinding(signal: Signal, { withGaps, series }: CheckedAnswer): Finding[] {
  if (withGaps === 0) return series > 0 ? [{ passed: true, text: 'No shown series has a gap.', mend: null }] : [];
  const [only] = shownRows(signal);
  const row = signal.rows.find(({ name }) => name === only);
  return [
    {
      passed: false,
      text: `${withGaps} of ${series} shown series have gaps: cells for which nothing arrived.`,
      mend: row && isFormula(row) && !row.formula.includes('fill(') ? filled(signal, row) : null
    }
  ];
}

function filled(signal: Signal, row: FormulaRow): Finding['mend'] {
  return {
    text: 'Count a gap as 0',
    signal: {
      ...signal,
      rows: signal.rows.map((one) =>
        one.name === row.name ? { ...row, formula: `fill(${row.formula.trim()}, 0)` } : one
      )
    }
  };
}

const mended = (text: string, signal: Signal, pick: SignalPick, change: Partial<SignalPick>): Finding['mend'] => ({
  text,
  signal: { ...signal, rows: signal.rows.map((row) => (row.name === pick.name ? { ...pick, ...change } : row)) }
});
