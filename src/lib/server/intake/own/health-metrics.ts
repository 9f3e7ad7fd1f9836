import { minute } from '$lib/core/time';
import type { FoundMetric } from '../../providers/port/provider';

/** What a process of Bussola measures of itself. */
export interface HealthMetric {
  /** As in the catalogue: dots between words. */
  readonly name: string;
  readonly title: string;
  readonly description: string;
  /** In UCUM. */
  readonly unit: string;
  readonly kind: 'gauge' | 'cumulative';
  readonly recommended: boolean;
}

const gauge = (name: string, unit: string, title: string, description: string, recommended = true): HealthMetric => ({
  ...{ name, unit, title, description, kind: 'gauge', recommended }
});
const cumulative = (name: string, unit: string, title: string, description: string): HealthMetric => ({
  ...{ name, unit, title, description, kind: 'cumulative', recommended: false }
});

/** Everything that a process of Bussola measures of itself, by name. */
export const healthMetrics: readonly HealthMetric[] = [
  gauge(
    'bussola.intake.lag',
    's',
    'Lag of the intake',
    'How long the service is overdue whose pull is overdue longest.'
  ),
  gauge(
    'bussola.judging.lag',
    's',
    'Lag of judging',
    'How long the alarm is overdue whose judgement is overdue longest.'
  ),
  gauge('bussola.outbox.waiting', '{message}', 'Messages that wait', 'Messages that are to be sent and have not been.'),
  gauge('bussola.outbox.lag', 's', 'Lag of the outbox', 'How long the message has waited that waits longest.'),
  gauge('bussola.commit.age', 's', 'Since the last commit', 'How long ago the database last confirmed a write.'),
  gauge('bussola.engine.age', 's', 'Since the engine’s last round', 'How long ago the engine last finished a round.'),
  gauge(
    'bussola.loop.block',
    's',
    'Longest block of the event loop',
    'The longest time in the last half minute in which the process answered nobody.'
  ),
  gauge('bussola.memory', 'By', 'Memory', 'Memory that the process has, as the system counts it.'),
  gauge('bussola.heap', 'By', 'Heap', 'Memory within it that objects of the main thread take.', false),
  gauge('bussola.uptime', 's', 'Uptime', 'How long ago the process was started.', false),
  gauge('bussola.database.size', 'By', 'Size of the database', 'What the database takes on its disk.'),
  gauge(
    'bussola.disk.free',
    'By',
    'Free disk space',
    'What is free on the disk of the data folder, where the database is embedded.'
  ),
  gauge(
    'bussola.backup.overdue',
    's',
    'A backup is overdue by',
    'How long ago a scheduled backup was due that is not there; 0 while the last one is.'
  ),
  gauge(
    'bussola.rehearsal.failed',
    '{rehearsal}',
    'The last rehearsal failed',
    '1 where the last rehearsal of restoring a backup failed, else 0.'
  ),
  gauge(
    'bussola.queries.waiting',
    '{query}',
    'Queries that wait',
    'Queries of people and programs that wait for their turn.'
  ),
  gauge('bussola.incidents.open', '{incident}', 'Open incidents', 'Incidents that are raised.'),
  cumulative(
    'bussola.processor.time',
    's',
    'Processor time',
    'Processor time that the process has used, of all its threads.'
  ),
  cumulative(
    'bussola.requests',
    '{request}',
    'Requests',
    'Requests that were answered, of pages, programs and senders.'
  ),
  cumulative(
    'bussola.requests.failed',
    '{request}',
    'Failed requests',
    'Requests that Bussola could not answer through a fault of its own.'
  ),
  cumulative('bussola.requests.time', 's', 'Time for requests', 'How long answering requests took, added up.'),
  cumulative('bussola.queries', '{query}', 'Queries', 'Queries of signals that were answered.'),
  cumulative('bussola.queries.time', 's', 'Time for queries', 'How long evaluating queries took, added up.'),
  cumulative(
    'bussola.statements',
    '{statement}',
    'Statements',
    'Statements that the main thread sent to the database.'
  ),
  cumulative(
    'bussola.statements.time',
    's',
    'Time for statements',
    'How long statements took, waiting included, added up.'
  ),
  cumulative('bussola.pulls', '{pull}', 'Pulls', 'Pulls of services of accounts.'),
  cumulative('bussola.pulls.failed', '{pull}', 'Failed pulls', 'Pulls that failed.'),
  cumulative(
    'bussola.pulls.time',
    's',
    'Time for pulls',
    'How long pulls took, waiting for providers included, added up.'
  ),
  cumulative('bussola.pages', '{page}', 'Pages read', 'OpenMetrics pages that were read.'),
  cumulative('bussola.pages.failed', '{page}', 'Pages not read', 'OpenMetrics pages that could not be read.'),
  cumulative(
    'bussola.pages.late',
    '{page}',
    'Pages read late',
    'OpenMetrics pages of which reading began more than a second after it was due.'
  ),
  cumulative('bussola.samples', '{sample}', 'Samples stored', 'Samples that were stored.'),
  cumulative('bussola.judgings', '{round}', 'Rounds of judging', 'Rounds in which alarms that were due were judged.'),
  cumulative('bussola.judgings.time', 's', 'Time for judging', 'How long rounds of judging took, added up.'),
  cumulative('bussola.messages.sent', '{message}', 'Messages sent', 'Messages that a server took.'),
  cumulative('bussola.messages.failed', '{message}', 'Messages not sent', 'Messages that were given up.')
];

/** The same as metrics of Bussola's own account. */
export const healthAsFound: readonly FoundMetric[] = healthMetrics.map((metric) => ({
  ...metric,
  shape: 'single',
  resourceType: 'bussola',
  service: 'bussola',
  level: 'host',
  samplingMs: minute,
  delayMs: 0
}));
