<script lang="ts">
  import UsedBy from '$lib/ui/forms/UsedBy.svelte';
  import LineNotes from '$lib/ui/bench/LineNotes.svelte';
  import { enhance } from '$app/forms';
  import { duration, spokenDuration } from '$lib/core/time';
  import { useLive, useRefresh } from '$lib/ui/live/live.svelte';
  import Moment from '$lib/ui/time/Moment.svelte';
  import { useReader } from '$lib/ui/time/reader';
  import { withRange } from '$lib/ui/time/shown';
  import type { PageProps } from './$types';

  let { data, form }: PageProps = $props();
  const live = useLive();
  useRefresh(live, ['samples'], 'bussola:derived');
  const { mayEdit } = useReader();
  let doubtful = $state<number | null>(null);
  const failing = $derived(data.derived.filter(({ enabled, lastError }) => enabled && lastError !== null).length);
  const title = $derived(
    data.derived.length === 0
      ? 'No metric is derived yet'
      : failing > 0
        ? `${failing} of ${data.derived.length} derived metrics cannot be computed`
        : `${data.derived.length} derived ${data.derived.length === 1 ? 'metric is' : 'metrics are'} in order`
  );
</script>

<svelte:head><title>Derived metrics · Bussola</title></svelte:head>
<main class="min-w-0 flex-1 overflow-y-auto px-[18px] py-3.5 max-md:overflow-visible">
  <div class="mb-3 flex items-center gap-3">
    <h1>{title}</h1>
    <a class="btn btn-main ml-auto" href={withRange('/bench')}>Compose one on the bench</a>
  </div>
  {#if form && 'problem' in form}<p class="fault mb-2" role="alert">{form.problem}</p>{/if}
  {#if data.derived.length === 0}
    <div class="panel items-start gap-2 p-6!">
      <h2>A derived metric is a signal that is computed on a schedule and stored.</h2>
      <p class="text-quiet">
        It can be picked like any other metric, used in alarms, and stored for years. Compose a signal on the bench and
        choose “Store as a metric”.
      </p>
    </div>
  {:else}
    <div class="flex flex-col gap-2.5">
      {#each data.derived as one (one.id)}
        <section class="panel" aria-label={one.name}>
          <header>
            <h2>{one.name}</h2>
            <small>{one.sentence}</small>
            <span class="ml-auto flex shrink-0 items-center gap-2">
              <a class="link text-[13px]" href={withRange(`/bench?signal=${encodeURIComponent(one.signal)}`)}
                >on the bench</a
              >
              {#if mayEdit}
                <form method="post" action={one.enabled ? '?/off' : '?/on'} use:enhance>
                  <input type="hidden" name="id" value={one.id} />
                  <button class="btn">{one.enabled ? 'Switch off' : 'Switch on'}</button>
                </form>
              {/if}
            </span>
          </header>
          {#if one.lastError && one.enabled}
            <p class="text-[13px]">
              <span class="fault font-bold">!</span>
              {one.lastError.message}
              {one.lastError.remedy}
            </p>
          {/if}
          {#if one.enabled}<LineNotes text={one.signal} now={live.now} />{/if}
          <p class="text-quiet flex flex-wrap gap-x-5 text-[13px]">
            <span
              >{#if !one.enabled}switched off{:else if one.computedUntil === null}waits for its first cell{:else}computed
                until
                <Moment at={one.computedUntil} now={live.now} />{/if}</span
            >
            <span>{one.series} series, every {spokenDuration(duration(one.stepMs))}</span>
            <span>{one.points.toLocaleString('en')} points stored</span>
            <span>last run {Math.max(1, Math.round(one.milliseconds))} ms</span>
            <span class="num">{one.metric}</span>
            {#if one.uses.length > 0}<span>used by {one.uses.join(', ')}</span>{/if}
          </p>
          {#if mayEdit}
            <div class="mt-1.5 flex flex-wrap items-center gap-2 text-[13px]">
              {#if one.backfillFrom !== null && one.backfillUntil !== null}
                <span role="status"
                  >Computing history, newest first: down to <Moment at={one.backfillUntil} now={live.now} />, as far as
                  <Moment at={one.backfillFrom} now={live.now} /></span
                >
              {:else}
                <form method="post" action="?/backfill" use:enhance class="flex items-center gap-1">
                  <input type="hidden" name="id" value={one.id} />
                  Compute the last
                  <input
                    class="part w-[5ch] text-center"
                    type="number"
                    name="days"
                    min="1"
                    max="400"
                    value="14"
                    aria-label="Days of history"
                  />
                  days too <button class="btn">Do it</button>
                </form>
              {/if}
              <span class="ml-auto">
                {#if doubtful === one.id}
                  Its stored points stay until their retention ends. <UsedBy
                    things={[{ kind: 'derived', id: one.id }]}
                  />
                  <form method="post" action="?/remove" use:enhance class="inline">
                    <input type="hidden" name="id" value={one.id} />
                    <button class="btn">Remove it</button>
                  </form>
                  <button class="btn" onclick={() => (doubtful = null)}>Cancel</button>
                {:else}
                  <button class="text-quiet" aria-label="Remove {one.name}" onclick={() => (doubtful = one.id)}
                    >remove …</button
                  >
                {/if}
              </span>
            </div>
          {/if}
        </section>
      {/each}
    </div>
  {/if}
</main>
