import { summarySchema, type Summary } from '../../src/lib/core/summary';
import { instantFromText } from '../../src/lib/core/time';

const at = (text: string) => instantFromText(text);
const dates = ['2026-04-27', '2026-04-28', '2026-04-29', '2026-04-30', '2026-05-01', '2026-05-02', '2026-05-03'];
const amounts = [2000, 2040.5, 2100, 2100, 2050, 2050, null];
/** Warning, minor, major, critical. */
const counts = [
  [0, 1, 0, 0],
  [0, 2, 1, 1],
  [0, 0, 2, 0],
  [0, 1, 1, 0],
  [0, 1, 0, 0],
  [0, 2, 0, 0],
  [0, 0, 0, 0]
];

/** The week of the end of April, of Corallo Lines. */
export const usualSummary: Summary = summarySchema.parse({
  ...{ kind: 'week', from: at('2026-04-27T00:00:00Z'), to: at('2026-05-04T00:00:00Z'), zone: 'UTC' },
  madeAt: at('2026-05-04T08:00:00Z'),
  incidents: {
    ...{ total: 12, earlier: 15, open: 2 },
    bySeverity: [
      { severity: 'critical', count: 1, earlier: 0 },
      { severity: 'major', count: 4, earlier: 6 },
      { severity: 'minor', count: 7, earlier: 9 },
      { severity: 'warning', count: 0, earlier: 0 }
    ],
    days: dates.map((date, index) => ({ date, counts: counts[index] }))
  },
  services: [
    { service: 'machines', title: 'Machines', count: 8, earlier: 9, worst: 'critical', resources: 27 },
    { service: 'queues', title: 'Queues', count: 4, earlier: 6, worst: 'major', resources: 5 }
  ],
  longest: [
    {
      ...{ id: 41, alarm: 'Processor nearly exhausted', subject: 'booking-web-2', severity: 'critical' },
      ...{ openedAt: at('2026-04-28T02:00:00Z'), closedAt: at('2026-04-28T08:10:00Z'), length: 22_200_000 }
    }
  ],
  promises: [
    { id: 1, name: 'Booking answers', targetPercent: 99.5, over: '30 days', good: 0.9979, left: 0.58, problem: '' },
    { id: 2, name: 'Gate answers', targetPercent: 99.5, over: '30 days', good: 0.991, left: -0.8, problem: '' }
  ],
  cost: {
    ...{ currency: 'EUR', total: 12_340_500_000, earlier: 11_865_400_000, unbilledFrom: null },
    days: dates.map((date, index) => ({
      date,
      amount: amounts[index] === null ? null : (amounts[index] ?? 0) * 1_000_000
    })),
    services: [
      { title: 'Machines', total: 9_000_000_000, earlier: 8_900_000_000 },
      { title: 'Object stores', total: 3_340_500_000, earlier: null }
    ],
    expected: { month: 'May', middle: 52_000, low: 50_000, high: 54_000 },
    changes: [
      { what: 'ferry-archive (storage)', date: '2026-04-29', before: 88, after: 174, near: 'Archive policy changed' }
    ]
  },
  changed: [
    { at: at('2026-04-28T01:40:00Z'), text: 'booking-web 4.18 released', service: 'machines' },
    { at: at('2026-04-29T09:00:00Z'), text: 'Archive policy changed', service: 'objects' },
    { at: at('2026-05-01T10:00:00Z'), text: 'Timetable of May', service: null }
  ],
  moreChanged: 0,
  sizes: [
    { what: 'Stored objects', unit: '1', value: 4_200_000, earlier: 4_100_000 },
    { what: 'Size of stored objects', unit: 'By', value: 7.2e12, earlier: null }
  ]
});
