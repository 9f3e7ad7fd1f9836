/** What Bussola measures of each page, by the names of its metrics. */
export const targetMetrics = {
  'target.up': { title: 'Page is up', unit: '1', description: 'Whether a page could be read (1) or not (0).' },
  'target.duration': { title: 'Answer time of a page', unit: 's', description: 'How long the answer of a page took.' },
  'target.samples': {
    title: 'Lines of a page',
    unit: '{sample}',
    description: 'Lines with a value that a page had, before rules.'
  }
} as const;
export type TargetMetric = keyof typeof targetMetrics;
