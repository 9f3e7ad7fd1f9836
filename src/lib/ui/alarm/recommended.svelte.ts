import {
  preflight,
  type AlarmDefinition,
  type PreflightCheck,
  type PreflightFacts,
  type RecommendedAlarm,
  type RehearsalAnswer
} from '$lib/core/alarm';
import { callApi, wordsOf } from '../api';

/** The time that recommended alarms are replayed over. */
export const replayedDays = 14;

/** One recommended alarm, as it is offered: with numbers from the history once it was replayed. */
export interface Offer {
  readonly key: string;
  readonly service: string;
  readonly why: string;
  readonly definition: AlarmDefinition;
  /** How often it would have been raised; null before it was replayed. */
  readonly count: number | null;
  readonly series: number | null;
  /** Whether its numbers come from the history rather than from what is usual. */
  readonly isFitted: boolean;
  readonly problem: string;
  readonly checks: readonly PreflightCheck[];
}

/** Replays recommended alarms one after the other, and takes the numbers that would have kept them calm. */
export class Offers {
  all = $state.raw<readonly Offer[]>([]);
  /** How many have been replayed. */
  done = $state(0);
  #asking: AbortController | null = null;

  /** @param facts what preflight knows besides the rehearsal */
  async replay(
    recommended: readonly RecommendedAlarm[],
    facts: Omit<PreflightFacts, 'rehearsal' | 'id'>,
    zone: string
  ): Promise<void> {
    this.#asking?.abort();
    const asking = (this.#asking = new AbortController());
    const checked = (definition: AlarmDefinition, rehearsal: RehearsalAnswer | null) =>
      preflight(definition, { ...facts, rehearsal, id: null }).filter(
        ({ passed, id }) => !passed && id !== 'notified' && id !== 'confirmed'
      );
    this.done = 0;
    this.all = recommended.map(({ key, service, why, definition }) => ({
      ...{ key, service, why, definition, count: null, series: null, isFitted: false, problem: '' },
      checks: checked(definition, null)
    }));
    for (const { key, definition } of recommended) {
      const body = { alarm: definition, days: replayedDays, zone, propose: true };
      const reply = await callApi<RehearsalAnswer>('POST', '/rehearse', { body, signal: asking.signal });
      if (asking.signal.aborted) return;
      this.done++;
      if (reply.kind === 'refused') this.#change(key, { problem: wordsOf(reply.problem) });
      if (reply.kind !== 'answered') continue;
      const { answer } = reply;
      const proposal = answer.proposals.find(({ what }) => what === 'limit') ?? answer.proposals[0];
      const fitted = proposal ? { ...definition, rule: proposal.rule } : definition;
      this.#change(key, {
        definition: fitted,
        count: proposal?.count ?? answer.figures.count,
        series: answer.series.length,
        isFitted: proposal !== undefined,
        checks: checked(fitted, proposal ? null : answer)
      });
    }
  }

  #change(key: string, change: Partial<Offer>): void {
    this.all = this.all.map((one) => (one.key === key ? { ...one, ...change } : one));
  }

  stop(): void {
    this.#asking?.abort();
  }
}
