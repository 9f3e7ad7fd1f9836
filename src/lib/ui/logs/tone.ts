import { lineSeverities, severityName } from '$lib/core/logs';
import type { Line } from '../chart/picture';

type Tone = NonNullable<Line['tone']>;
const tones: Readonly<Record<string, Tone>> = { warn: 'warning', error: 'major', fatal: 'critical' };

/** The colour of a severity of lines; quiet for those that say nothing is wrong. @example toneOf(17) // 'major' */
export const toneOf = (severity: number): Tone => tones[severityName(severity) ?? ''] ?? 'quiet';

/** The counts of a bar of a histogram, the gravest last so that it stands on top: which of them they are, what they are called, and their colour. */
export const barKinds: readonly { readonly places: readonly number[]; readonly name: string; readonly tone: Tone }[] = [
  // Lines without a severity, and those of trace to info.
  { places: [0, 1, 2, 3], name: 'info or less', tone: 'line-strong' },
  ...['warn', 'error', 'fatal'].map((name) => ({
    places: [1 + lineSeverities.findIndex((one) => one === name)],
    ...{ name, tone: tones[name] ?? 'quiet' }
  }))
];
