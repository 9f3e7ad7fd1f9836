import { suggestThreshold, type AlarmDefinition } from '$lib/core/alarm';
import { summarise, unitOfStatistic } from '$lib/core/series';
import {
  machinesStarter,
  plainSignal,
  plainSignalSchema,
  requirePlainPick,
  stepOf,
  type Signal
} from '$lib/core/signal';
import { before, day, range } from '$lib/core/time';
import { metricByName, allMetrics, allResources } from '../intake/resources';
import { allAccounts } from '../intake/accounts';
import { allChannels } from '../notify/channels';
import { signalProblem } from '../query';
import { resolveSignal, workOf } from '../signals/resolve';
import type { Bussola } from '../start';

/**
 * An alarm made from a panel, everything filled in: its signal, a threshold that suits the last day, three of five windows, every confirmed channel.
 *
 * @param signalText the panel's signal as JSON, from the address; what cannot be read gives the first panel's
 */
export async function draftAlarm(server: Bussola, signalText: string | null): Promise<AlarmDefinition> {
  const { db, store, clock } = server;
  const wanted = signalFrom(signalText);
  const { metric: name, where } = requirePlainPick(wanted);
  const problem = await signalProblem(db, wanted);
  const signal =
    problem?.path.at(-1) === 'statistic'
      ? plainSignal({ metric: name, where, statistic: 'avg', step: wanted.step })
      : wanted;
  const metric = await metricByName(db, name);
  const now = clock.now();
  let largest = 0;
  if (problem === null || signal !== wanted) {
    const work = workOf(await resolveSignal(db, signal), now);
    const worked = await store.samples.evaluate(work, range(before(now, day), now), stepOf(signal));
    if (worked.kind === 'worked')
      for (const { values } of worked.rows[0]?.columns ?? []) largest = Math.max(largest, summarise(values).max || 0);
  }
  const channels = await allChannels(db);
  return {
    name: `High ${(metric?.title ?? name).toLowerCase()}`,
    signal,
    rule: {
      condition: {
        is: 'above',
        threshold: suggestThreshold(unitOfStatistic(requirePlainPick(signal).statistic, metric?.unit ?? '1'), largest)
      },
      window: { needs: 3, of: 5 },
      whenMissing: 'indeterminate'
    },
    severity: 'major',
    channels: channels.filter(({ confirmedAt }) => confirmedAt !== null).map(({ id }) => id)
  };
}

function signalFrom(text: string | null): Signal {
  const usual = machinesStarter[0]?.signal as Signal;
  if (text === null) return usual;
  try {
    return plainSignalSchema.safeParse(JSON.parse(text)).data ?? usual;
  } catch (error) {
    if (error instanceof SyntaxError) return usual;
    throw error;
  }
}

/** What the alarm's page offers to choose from. */
export async function alarmChoices({ db }: Bussola) {
  const [metrics, accounts, resources, channels] = await Promise.all([
    allMetrics(db),
    allAccounts(db),
    allResources(db),
    allChannels(db)
  ]);
  return {
    metrics,
    accounts: accounts.map(({ name }) => name),
    resources: resources.map(({ id, name, account, type }) => ({ id, name, account, type })),
    channels: channels.map(({ id, name, address, confirmedAt }) => ({
      id,
      name,
      address,
      confirmed: confirmedAt !== null
    }))
  };
}
export type AlarmChoices = Awaited<ReturnType<typeof alarmChoices>>;
