import type { Choices, Picker } from '$lib/core/board';

/** Values that a picker can choose from, with how many series have each; and how many values there are in all. */
export interface PickerValues {
  readonly values: readonly { readonly value: string; readonly count: number }[];
  readonly distinct: number;
}

interface Matched {
  readonly labels: readonly (PickerValues & { readonly name: string })[];
}

/** Metrics that are asked when a picker names none. */
const mostMetrics = 12;

/**
 * The values of a picker given what the pickers before it choose.
 *
 * @returns null when the server is not reached
 */
export async function pickerValues(
  picker: Picker,
  pickers: readonly Picker[],
  choices: Choices,
  metrics: readonly string[]
): Promise<PickerValues | null> {
  const before = pickers.slice(0, pickers.indexOf(picker));
  const where = before.flatMap(({ name, label }) => {
    const is = choices[name] ?? [];
    return is.length > 0 ? [{ label, is: [...is] }] : [];
  });
  const asked = picker.metric === undefined ? metrics.slice(0, mostMetrics) : [picker.metric];
  const all = await Promise.all(asked.map((metric) => labelsOf(metric, where)));
  if (all.every((one) => one === null)) return null;
  const counts = new Map<string, number>();
  let distinct = 0;
  for (const one of all) {
    const own = one?.labels.find(({ name }) => name === picker.label);
    distinct = Math.max(distinct, own?.distinct ?? 0);
    for (const { value, count } of own?.values ?? []) counts.set(value, (counts.get(value) ?? 0) + count);
  }
  const values = [...counts]
    .map(([value, count]) => ({ value, count }))
    .sort((a, b) => a.value.localeCompare(b.value, 'en', { numeric: true }));
  return { values, distinct: Math.max(distinct, values.length) };
}

/** Every label of a metric's series with its values, under conditions; null when the server is not reached or refuses. */
export async function labelsOf(metric: string, where: readonly object[]): Promise<Matched | null> {
  const response = await fetch('/api/v1/picks', {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ metric, where })
  }).catch(() => null);
  return response?.ok ? ((await response.json()) as Matched) : null;
}
