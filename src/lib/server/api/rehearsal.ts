import { z } from 'zod';
import {
  alarmSchema,
  ruleSchema,
  severities,
  signalsOfAlarm,
  usualWidths,
  type AlarmDefinition,
  type BandAnswer,
  type RehearsalAnswer,
  type Rule
} from '$lib/core/alarm';
import { refusalOf, type Problem } from '$lib/core/problem/problem';
import { steadySignalSchema } from '$lib/core/signal';
import { duration, isZone, range } from '$lib/core/time';
import { preflightAlarm } from '../alarms/preflight';
import { keyOf } from '../query/query';
import { refuseHiddenLines, type CallWithLines } from './hidden-lines';
import { asStored, instant, operationsOf } from './operation';

const operation = operationsOf('Alarms, incidents and channels');

const rehearsalAnswer = z.object({
  from: instant,
  to: instant,
  step: z.int().describe('Length of a cell, ms.'),
  unit: z.string().describe('UCUM code.'),
  series: z.array(z.object({ key: z.string(), labels: z.record(z.string(), z.string()) })),
  seen: z
    .object({
      smallest: z.number().nullable(),
      largest: z.number().nullable(),
      isWhole: z.boolean(),
      filled: z.number().nullable().describe('Share of cells that had a value.'),
      newest: instant.nullable().describe('The newest sample.'),
      learned: z
        .object({ days: z.number(), season: z.enum(['week', 'day', 'none']) })
        .nullable()
        .describe('What its youngest anomaly band learned from.')
    })
    .describe('What the values were like.'),
  windows: z.int().describe('Windows judged, over all series.'),
  milliseconds: z.number(),
  periods: z
    .array(
      z.object({
        series: z.int().describe('Position among the series.'),
        from: instant,
        to: instant.nullable().describe('Null when it would still be raised.'),
        severity: z.enum(severities),
        steps: z.array(z.object({ at: instant, severity: z.enum(severities) })),
        peak: z.number().nullable()
      })
    )
    .describe('The newest 500; all are counted.'),
  figures: z.object({
    count: z.int(),
    perWeek: z.number(),
    raised: z.number().describe('ms, over all series.'),
    longest: z.number().describe('ms'),
    flapping: z.int().describe('Raised again within an hour.'),
    bySeries: z.array(z.object({ seriesId: z.int(), count: z.int(), raised: z.number() })),
    messagesByHour: z.array(z.int()).describe('To each recipient, by hour of the clock, were nothing grouped.'),
    messagesAtNight: z.int(),
    known: z.int().describe('Known incidents that it should have found.'),
    missed: z
      .array(
        z.object({
          id: z.int(),
          subject: z.string(),
          severity: z.enum(severities),
          from: instant,
          to: instant.nullable()
        })
      )
      .describe('Those of them during which it would not have been raised.')
  }),
  proposals: z.array(
    z.object({
      what: z.enum(['limit', 'window', 'levels']),
      rule: asStored<Rule>(ruleSchema),
      count: z.int(),
      flapping: z.int(),
      missed: z.int()
    })
  )
});
const rehearsalBody = z.strictObject({
  alarm: alarmSchema,
  days: z.int().min(1).max(30).default(14),
  zone: z.string().max(60).refine(isZone, { error: 'Give a time zone, such as UTC.' }).default('UTC'),
  id: z.int().nullable().default(null).describe('The alarm that it replaces: its incidents are known ones.'),
  propose: z.boolean().default(false).describe('Whether to look for a limit and a window that suit better.')
});

/** Cells over which bands are drawn. */
const mostBandCells = 5000;

/** Rehearsals wait for their turn among queries. */
async function rehearsed(call: CallWithLines, body: z.infer<typeof rehearsalBody>): Promise<RehearsalAnswer | Problem> {
  const {
    server: { judging, clock, queryQueue },
    inTurn
  } = call;
  await refuseHiddenLines(call, signalsOfAlarm(body.alarm));
  const work = async (): Promise<RehearsalAnswer | Problem> => judging.rehearse(clock.now(), body);
  return inTurn((reader) => queryQueue.ask(reader, keyOf(['rehearse', body]), work));
}

const bandsBody = z
  .strictObject({
    signal: steadySignalSchema,
    from: instant,
    to: instant,
    step: z.int().min(1000).max(86_400_000).describe('Length of a cell, ms.'),
    widths: z.number().min(0.5).max(50).default(usualWidths)
  })
  .refine(({ from, to }) => from < to, { error: 'Its end must lie after its beginning.', path: ['to'] })
  .refine(({ from, to, step }) => (to - from) / step <= mostBandCells, {
    error: `Choose a shorter range or longer cells: at most ${mostBandCells} are drawn.`,
    path: ['step']
  });

export const rehearsalOperations = [
  operation('POST', '/bands', {
    right: 'viewer',
    scope: 'read',
    summary: 'The anomaly bands of a signal over a range, as alarms see them.',
    body: bandsBody,
    answer: z.object({
      start: instant,
      step: z.int(),
      count: z.int(),
      unit: z.string().describe('UCUM code.'),
      series: z.array(
        z.object({
          labels: z.record(z.string(), z.string()),
          low: z.array(z.number().nullable()),
          high: z.array(z.number().nullable()),
          learned: z
            .object({ days: z.number(), season: z.enum(['week', 'day', 'none']) })
            .nullable()
            .describe('The history that was used; null where there is too little.')
        })
      )
    }),
    handle: async (call) => {
      const {
        server: { judging, clock, queryQueue },
        body: { signal, from, to, step, widths },
        inTurn
      } = call;
      await refuseHiddenLines(call, [signal]);
      const asked = { signal, range: range(from, to), step: duration(step), widths };
      const work = async (): Promise<BandAnswer | Problem> => judging.bands(clock.now(), asked);
      const answer = await inTurn((reader) => queryQueue.ask(reader, keyOf(['bands', asked]), work));
      if ('code' in answer) throw refusalOf(answer);
      return answer;
    }
  }),
  operation('POST', '/rehearse', {
    right: 'viewer',
    scope: 'read',
    summary: 'Replays an alarm, which need not be saved, over 1 to 30 days of stored history.',
    body: rehearsalBody,
    answer: rehearsalAnswer,
    handle: async (call) => {
      const answer = await rehearsed(call, call.body);
      if ('code' in answer) throw refusalOf(answer);
      return answer;
    }
  }),
  operation('POST', '/preflight', {
    right: 'viewer',
    scope: 'read',
    summary: 'Checks an alarm, which need not be saved: what would fail silently, each with what fixes it.',
    body: rehearsalBody.omit({ propose: true, zone: true }),
    answer: z.object({
      checks: z
        .array(
          z.object({
            id: z.string(),
            passed: z.boolean(),
            says: z.string(),
            fix: z
              .union([
                z.object({ says: z.string(), alarm: asStored<AlarmDefinition>(alarmSchema) }),
                z.object({ says: z.string(), open: z.object({ page: z.string(), id: z.int().optional() }) })
              ])
              .optional()
              .describe('The alarm as it would be then, or the page where it is fixed.')
          })
        )
        .describe('What needs care first.'),
      rehearsal: z
        .object({ message: z.string(), remedy: z.string() })
        .nullable()
        .describe('Why it could not be rehearsed: the checks that need it are left out. Null when it was.')
    }),
    handle: async (call) => {
      const { server, body } = call;
      const answer = await rehearsed(call, { ...body, zone: 'UTC', propose: true });
      const problem = 'code' in answer ? answer : null;
      return {
        checks: await preflightAlarm(server, body.alarm, body.id, 'code' in answer ? null : answer),
        rehearsal: problem && { message: problem.message, remedy: problem.remedy }
      };
    }
  })
];
