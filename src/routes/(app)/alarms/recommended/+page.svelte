<script lang="ts">
  import { onDestroy, untrack } from 'svelte';
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { alarmSentence, gravestLevel, serviceOfAlarm, type AlarmDefinition, type Fix } from '$lib/core/alarm';
  import { reachOf } from '$lib/core/notify/route';
  import { serviceByKey, serviceOrder } from '$lib/core/services';
  import { countOf } from '$lib/core/words/count';
  import RouteChoice from '$lib/ui/alarm/RouteChoice.svelte';
  import { Offers, replayedDays } from '$lib/ui/alarm/recommended.svelte';
  import SeverityHoist from '$lib/ui/alarm/SeverityHoist.svelte';
  import { callApi, wordsOf } from '$lib/ui/api';
  import { useLive } from '$lib/ui/live/live.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import { withRange } from '$lib/ui/time/shown';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const live = useLive();
  const { mayEdit, zone } = useReader();
  const offers = new Offers();
  onDestroy(() => offers.stop());

  const services = $derived(
    [...new Set(data.all.map(({ service }) => service))].sort((a, b) => serviceOrder(a) - serviceOrder(b))
  );
  /** The service in the address, or the first that has any. */
  const service = $derived(page.url.searchParams.get('service') ?? services[0] ?? '');
  const wordsOfMetric = (name: string) => data.choices.metrics.find((metric) => metric.name === name);

  /** Those that people want, or do not, apart from what is usual: all but what there is already. */
  let wanted = $state.raw<ReadonlyMap<string, boolean>>(new Map());
  let route = $state<number | null>(null);
  const reach = (alarm: AlarmDefinition) =>
    reachOf(
      { ...alarm, severity: gravestLevel(alarm.rule).severity, service: serviceOfAlarm(alarm, data.choices.metrics) },
      data.choices.routing
    );
  let owner = $state('');
  let isBusy = $state(false);
  /** Alarms that were made here, and what went wrong. */
  let made = $state.raw<readonly { readonly id: number; readonly name: string }[]>([]);
  let problems = $state.raw<readonly string[]>([]);

  const replay = () =>
    void offers.replay(
      data.all.filter((one) => one.service === service),
      { metrics: data.choices.metrics, reachOf: reach, alarms: data.choices.alarms, now: live.now },
      zone
    );
  let shownService = $state('');
  $effect(() => {
    if (service === untrack(() => shownService)) return;
    shownService = service;
    untrack(replay);
  });

  const isThere = (key: string) =>
    offers.all.find((one) => one.key === key)?.checks.some(({ id }) => id === 'duplicate') ?? false;
  const isWanted = (key: string) => wanted.get(key) ?? !isThere(key);
  const chosen = $derived(offers.all.filter(({ key, problem }) => isWanted(key) && problem === ''));
  const isReplaying = $derived(offers.done < offers.all.length);
  const addressOf = (open: Extract<Fix, { open: unknown }>['open']) =>
    withRange(open.page === 'alarm' ? `/alarms/${open.id}` : `/${open.page}`);

  async function switchOn(): Promise<void> {
    isBusy = true;
    problems = [];
    const done: { id: number; name: string }[] = [];
    for (const { definition } of chosen) {
      const body = { ...definition, route, owner: owner.trim() };
      const reply = await callApi<{ id: number }>('POST', '/alarms', { body });
      if (reply.kind === 'answered') done.push({ id: reply.answer.id, name: definition.name });
      if (reply.kind === 'refused') problems = [...problems, `${definition.name}: ${wordsOf(reply.problem)}`];
    }
    made = done;
    wanted = new Map(offers.all.map(({ key }) => [key, false]));
    isBusy = false;
  }

  async function undo(): Promise<void> {
    const reply = await callApi('POST', '/alarms/remove', { body: { ids: made.map(({ id }) => id) } });
    if (reply.kind === 'refused') problems = [wordsOf(reply.problem)];
    else made = [];
  }
</script>

<svelte:head><title>Recommended alarms · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-3 flex flex-wrap items-center gap-3">
    <h1>Recommended alarms</h1>
    <select
      class="field w-auto!"
      aria-label="Service"
      value={service}
      onchange={(event) => {
        wanted = new Map();
        void goto(withRange(`/alarms/recommended?service=${event.currentTarget.value}`));
      }}
    >
      {#each services as key (key)}<option value={key}>{serviceByKey(key).title}</option>{/each}
    </select>
    <span class="text-quiet text-[13px]"
      >{#if isReplaying}replaying {offers.done + 1} of {offers.all.length} over {replayedDays} days…{:else}with limits
        from {replayedDays} days of what is there{/if}</span
    >
    {#if mayEdit}<span class="ml-auto flex gap-2"
        ><a class="btn" href={withRange('/alarms')}>Cancel</a><button
          class="btn btn-main"
          disabled={isBusy || isReplaying || chosen.length === 0}
          onclick={() => void switchOn()}>Switch on {countOf(chosen.length, 'alarm')}</button
        ></span
      >{/if}
  </div>
  {#if made.length > 0}
    <p class="panel mb-2 flex flex-row! flex-wrap items-center gap-3 py-2! text-[13px]" role="status">
      <span
        >{countOf(made.length, 'alarm')} switched on: {#each made as { id, name }, index (id)}{index > 0 ? ', ' : ''}<a
            class="link"
            href={withRange(`/alarms/${id}`)}>{name}</a
          >{/each}.</span
      >
      <button class="btn" onclick={() => void undo()}>Undo</button>
    </p>
  {/if}
  {#each problems as problem (problem)}<p class="fault mb-1 text-[13px]" role="alert">{problem}</p>{/each}
  <div class="grid grid-cols-[1fr_300px] items-start gap-2.5 max-lg:grid-cols-1">
    <section class="panel" aria-label="Recommended alarms">
      {#if offers.all.length === 0}
        <p class="text-quiet p-2">
          Nothing is recommended for {serviceByKey(service).several}: none of the metrics that its alarms watch is
          collected. See <a class="link" href={withRange('/coverage')}>what is collected</a>.
        </p>
      {:else}
        <ul>
          {#each offers.all as { key, why, definition, count, series, isFitted, problem, checks } (key)}
            <li class="border-line flex gap-3 border-b py-2 last:border-0" data-offer={key}>
              <input
                type="checkbox"
                class="mt-1"
                aria-label="Switch on {definition.name}"
                disabled={!mayEdit}
                checked={isWanted(key)}
                onchange={(event) => (wanted = new Map(wanted).set(key, event.currentTarget.checked))}
              />
              <SeverityHoist severity={definition.rule.levels.at(-1)?.severity ?? null} />
              <div class="min-w-0 flex-1">
                <b>{definition.name}</b> <span class="text-quiet text-[13px]">{why}</span>
                <p class="text-[13px]">{alarmSentence(definition, wordsOfMetric)}</p>
                {#if problem}<p class="fault text-[12px]">{problem}</p>{/if}
                {#each checks as { id, says, fix } (id)}<p class="text-major text-[12px]">
                    {says}
                    {#if fix && 'open' in fix}<a class="link" href={addressOf(fix.open)}>{fix.says}</a>{/if}
                  </p>{/each}
              </div>
              <div class="text-quiet w-[150px] shrink-0 text-right text-[12px]">
                {#if count !== null}<b class="num text-ink text-[14px]">{count}</b>
                  {count === 1 ? 'time' : 'times'} raised in {replayedDays} days, on {series} series{#if isFitted}<span
                      class="block">limit from the history</span
                    >{/if}{:else if !problem}replaying…{/if}
              </div>
            </li>
          {/each}
        </ul>
      {/if}
    </section>
    <div class="flex flex-col gap-2.5">
      <RouteChoice
        routes={data.choices.routing.routes}
        bind:chosen={route}
        reach={chosen[0] ? reach({ ...chosen[0].definition, route }) : null}
        disabled={!mayEdit}
      />
      <section class="panel" aria-label="Owner">
        <label class="text-[13px]"
          >Owner <input class="field" bind:value={owner} maxlength="80" disabled={!mayEdit} /></label
        >
      </section>
    </div>
  </div>
</main>
