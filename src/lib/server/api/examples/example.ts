/** What a request of an operation may send, as its description shows it: its query, and its body, in JSON. */
export interface Example {
  readonly query?: Readonly<Record<string, string>>;
  readonly body?: unknown;
  /** Bodies that are no JSON, by their media types. */
  readonly texts?: Readonly<Record<string, string>>;
}

/** Examples by method and path: `POST /signals`. */
export type Examples = Readonly<Record<string, Example>>;

export const signal = {
  version: 2,
  rows: [
    {
      ...{ name: 'a', metric: 'machine.processor.use', statistic: 'avg' },
      where: [{ label: 'resource', is: ['gate-api-1'] }]
    }
  ],
  step: 'PT1M'
};

export const alarm = {
  ...{ name: 'Processor of the gates nearly exhausted', signal },
  rule: {
    levels: [
      { severity: 'minor', condition: { kind: 'threshold', is: 'above', limit: 80, clear: 70 } },
      { severity: 'critical', condition: { kind: 'threshold', is: 'above', limit: 95, clear: 85 } }
    ],
    ...{ window: { needs: 4, of: 5 }, whenMissing: 'indeterminate', zone: 'Europe/Lisbon' }
  },
  ...{ owner: 'Harbour team', about: 'Gates open late once it is exhausted.', route: null }
};

/** An hour of an afternoon. */
export const [from, to] = ['2026-05-04T13:00:00Z', '2026-05-04T14:00:00Z'] as const;
export const zone = 'Europe/Lisbon';
