import type { AlarmDefinition, RehearsalAnswer } from '$lib/core/alarm';
import type { Instant } from '$lib/core/time';
import { callApi, wordsOf } from '../api';

/** When one part of a combined alarm held. */
export interface PartLane {
  readonly name: string;
  /** Null while it is looked up, or where it cannot be told. */
  readonly held: readonly { readonly from: Instant; readonly to: Instant }[] | null;
  readonly problem: string;
}

/** What is typed is looked up when it has rested for so long, ms. */
const restsFor = 400;

/** When the parts of a combined alarm held, over some days of history: each is replayed for itself. */
export class PartHistory {
  lanes = $state.raw<readonly PartLane[]>([]);
  #asking: AbortController | null = null;
  #timer: ReturnType<typeof setTimeout> | undefined;

  /** @param alarms by whose definitions parts that are alarms are replayed */
  read(
    alarm: AlarmDefinition,
    alarms: readonly { readonly id: number; readonly definition: AlarmDefinition }[],
    days: number
  ): void {
    this.stop();
    const { combines } = alarm;
    if (!combines) {
      this.lanes = [];
      return;
    }
    const asking = (this.#asking = new AbortController());
    const parts = combines.parts.map((part) => replayable(part, alarm, alarms));
    this.lanes = parts.map(
      ({ name }) => this.lanes.find((lane) => lane.name === name) ?? { name, held: null, problem: '' }
    );
    this.#timer = setTimeout(() => {
      for (const [position, { name, replayed }] of parts.entries())
        void laneOf(name, replayed, days, asking.signal).then((lane) => {
          if (lane !== null && !asking.signal.aborted)
            this.lanes = this.lanes.map((one, index) => (index === position ? lane : one));
        });
    }, restsFor);
  }

  stop(): void {
    clearTimeout(this.#timer);
    this.#asking?.abort();
  }
}

type Part = NonNullable<AlarmDefinition['combines']>['parts'][number];

/** A part as an alarm of its own: one that is met in one window, or the alarm that it is. */
function replayable(
  part: Part,
  { combines, rule, ...rest }: AlarmDefinition,
  alarms: readonly { readonly id: number; readonly definition: AlarmDefinition }[]
): { readonly name: string; readonly replayed: AlarmDefinition | null } {
  if ('alarm' in part) {
    const found = alarms.find(({ id }) => id === part.alarm)?.definition ?? null;
    return { name: found?.name ?? `alarm ${part.alarm}`, replayed: found };
  }
  const { name, signal, condition } = part;
  const { route, enabled, labels, owner, about, runbook } = rest;
  return {
    name,
    replayed: {
      ...{ name: name.trim() || 'Part', route, enabled, labels, owner, about, runbook },
      signal: { ...signal, step: combines?.step ?? signal.step },
      rule: {
        levels: [{ severity: 'major', condition }],
        window: { needs: 1, of: 1 },
        whenMissing: 'keep',
        zone: rule.zone
      }
    }
  };
}

/** @returns null when it is not wanted any more */
async function laneOf(
  name: string,
  replayed: AlarmDefinition | null,
  days: number,
  signal: AbortSignal
): Promise<PartLane | null> {
  if (replayed === null) return { name, held: null, problem: 'It no longer exists.' };
  const body = { alarm: replayed, days, zone: 'UTC', id: null, propose: false };
  const reply = await callApi<RehearsalAnswer>('POST', '/rehearse', { body, signal });
  if (reply.kind === 'cancelled') return null;
  if (reply.kind === 'refused') return { name, held: null, problem: wordsOf(reply.problem) };
  const { periods, to } = reply.answer;
  return { name, held: periods.map((period) => ({ from: period.from, to: period.to ?? to })), problem: '' };
}
