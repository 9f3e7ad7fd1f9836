import { callApi, answerOrNull } from '../../api';
import type { Choices, Picker } from '$lib/core/board';
import { standardLabels } from '$lib/core/signal';

/** Values that a picker can choose from, with how many series have each; and how many values there are in all. */
export interface PickerValues {
  readonly values: readonly { readonly value: string; readonly count: number }[];
  readonly distinct: number;
}

/** What the server tells of the series of one metric. */
export interface Matched {
  readonly labels: readonly (PickerValues & { readonly name: string })[];
}

/** A metric that was asked about; no answer when the server is not reached or refuses. */
export interface Answer {
  readonly metric: string;
  readonly told: Matched | null;
}

/** A label that a new picker can choose by. */
export interface OfferedLabel {
  readonly label: string;
  /** One of the metrics that have it; none when every series has it. */
  readonly metric: string | undefined;
  /** Its value if there is one, or how many there are. */
  readonly values: string;
}

/** Metrics that are asked when a picker names none. */
const mostMetrics = 12;

/**
 * The values of a picker given what the pickers before it choose.
 *
 * @returns null when no answer came
 */
export async function pickerValues(
  picker: Picker,
  pickers: readonly Picker[],
  choices: Choices,
  metrics: readonly string[]
): Promise<PickerValues | null> {
  const asked = picker.metric === undefined ? metrics : [picker.metric];
  return valuesAmong(await askAbout(asked, chosenBefore(picker, pickers, choices)), picker.label);
}

/** Those of some chosen values that a picker can still choose, given what the pickers before it choose; all while that is not known. */
export async function stillThere(
  picker: Picker,
  chosen: readonly string[],
  pickers: readonly Picker[],
  choices: Choices,
  metrics: readonly string[]
): Promise<string[]> {
  const offered = await pickerValues(picker, pickers, choices, metrics);
  if (offered === null || offered.distinct > offered.values.length) return [...chosen];
  const values = new Set(offered.values.map(({ value }) => value));
  return chosen.filter((value) => values.has(value));
}

/** Labels that a new picker of a board with these metrics can choose by; null when no answer came. */
export async function offeredLabels(metrics: readonly string[]): Promise<OfferedLabel[] | null> {
  return labelsAmong(await askAbout(metrics, []));
}

/** Conditions that the pickers before one put on its values, e.g. `[{ label: 'region', is: ['perla-north'] }]`. */
export function chosenBefore(
  picker: Picker,
  pickers: readonly Picker[],
  choices: Choices
): { label: string; is: string[] }[] {
  return pickers.slice(0, pickers.indexOf(picker)).flatMap(({ name, label }) => {
    const is = choices[name] ?? [];
    // A second one of the same label chooses for itself, for panels that follow it alone.
    return is.length > 0 && label !== picker.label ? [{ label, is: [...is] }] : [];
  });
}

/** The values of a label over all answers, in the order people count in; null when there is no answer. */
export function valuesAmong(answers: readonly Answer[], label: string): PickerValues | null {
  if (answers.every(({ told }) => told === null)) return null;
  const counts = new Map<string, number>();
  let distinct = 0;
  for (const { told } of answers) {
    const own = told?.labels.find(({ name }) => name === label);
    distinct = Math.max(distinct, own?.distinct ?? 0);
    for (const { value, count } of own?.values ?? []) counts.set(value, (counts.get(value) ?? 0) + count);
  }
  const values = [...counts]
    .map(([value, count]) => ({ value, count }))
    .sort((a, b) => a.value.localeCompare(b.value, 'en', { numeric: true }));
  return { values, distinct: Math.max(distinct, values.length) };
}

/** The labels over all answers, as first met; null when metrics were asked about and no answer came. */
export function labelsAmong(answers: readonly Answer[]): OfferedLabel[] | null {
  if (answers.length > 0 && answers.every(({ told }) => told === null)) return null;
  const byLabel = new Map<string, { metric: string | undefined; values: Set<string> }>();
  for (const { metric, told } of answers)
    for (const { name, values } of told?.labels ?? []) {
      const isStandard = standardLabels.some((label) => label === name);
      const known = byLabel.get(name) ?? { metric: isStandard ? undefined : metric, values: new Set<string>() };
      for (const { value } of values) known.values.add(value);
      byLabel.set(name, known);
    }
  return [...byLabel].map(([label, { metric, values }]) => ({
    label,
    metric,
    values: values.size === 1 ? [...values].join('') : `${values.size} values`
  }));
}

const askAbout = (metrics: readonly string[], where: readonly object[]): Promise<Answer[]> =>
  Promise.all(metrics.slice(0, mostMetrics).map(async (metric) => ({ metric, told: await seriesLike(metric, where) })));

const seriesLike = async (metric: string, where: readonly object[]): Promise<Matched | null> =>
  answerOrNull(await callApi<Matched>('POST', '/picks', { body: { metric, where } }));
